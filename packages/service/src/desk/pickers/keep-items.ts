import { Refusal, sentenceOf } from '@bathyscribe/contract'
import type { ContentItem, ItemProblem, ItemsRead } from '@bathyscribe/core/content'
import type { CourseFileRecord, PickedContent, PickingRecord } from '../../records/entities/content.js'
import type { Context } from '../context.js'
import { fetchFile } from '../files/store-file.js'
import { cleanRichText } from '../rich-text.js'

const AT_ONCE = 4

/** Makes items safe to keep: HTML is cleaned, files and pictures are fetched before their addresses end. What cannot be is said, the others stay. */
export async function keepItems(
  context: Context,
  picking: PickingRecord,
  read: ItemsRead,
): Promise<{ items: PickedContent[]; problems: ItemProblem[]; files: CourseFileRecord[] }> {
  const items: PickedContent[] = []
  const problems = [...read.problems]
  const files: CourseFileRecord[] = []
  for (let i = 0; i < read.items.length; i += AT_ONCE) {
    const slice = read.items.slice(i, i + AT_ONCE)
    const bytes = files.reduce((sum, file) => sum + file.bytes, 0)
    for (const [n, kept] of (await Promise.all(slice.map((item) => keep(context, picking, item, bytes)))).entries()) {
      if ('code' in kept) problems.push({ ...kept, place: i + n })
      else {
        items.push(kept.item)
        if (kept.file) files.push(kept.file)
      }
    }
  }
  return { items, problems, files }
}

async function keep(
  context: Context,
  picking: PickingRecord,
  item: ContentItem,
  bytesBefore: number,
): Promise<{ item: PickedContent; file?: CourseFileRecord } | Omit<ItemProblem, 'place'>> {
  if (item.kind === 'html') {
    const html = cleanRichText(item.html)
    return html === ''
      ? { title: item.title, code: 'item.no_html', detail: 'nothing of it could be kept' }
      : { item: { ...item, html } }
  }
  if (item.kind !== 'file' && item.kind !== 'image') return { item }
  try {
    const file = await fetchFile(context, {
      courseId: picking.courseId,
      personId: picking.personId,
      url: item.url!,
      name: item.title,
      bytesBefore,
    })
    return { item: { ...item, fileId: file.id }, file }
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return { title: item.title, code: 'item.not_fetched', detail: sentenceOf(error) }
  }
}
