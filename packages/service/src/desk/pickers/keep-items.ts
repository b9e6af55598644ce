import { Refusal, sentenceOf } from '@bathyscribe/contract'
import type { ContentItem, ItemProblem, ItemsRead } from '@bathyscribe/core/content'
import { cleanRichText } from '@bathyscribe/core/rich-text'
import pMap from 'p-map'
import type { CourseFileRecord, PickedContent, PickingRecord } from '../../records/entities/content.js'
import type { Context } from '../context.js'
import { fetchFile } from '../files/store-file.js'

const AT_ONCE = 4

/** Makes items safe to keep: HTML is cleaned, files and pictures are fetched before their addresses end. What cannot be is said, the others stay. */
export async function keepItems(
  context: Context,
  picking: PickingRecord,
  read: ItemsRead,
): Promise<{ items: PickedContent[]; problems: ItemProblem[]; files: CourseFileRecord[] }> {
  let bytes = 0
  const one = async (item: ContentItem) => {
    const kept = await keep(context, picking, item, bytes)
    if ('item' in kept) bytes += kept.file?.bytes ?? 0
    return kept
  }
  const all = await pMap(read.items, one, { concurrency: AT_ONCE })
  const good = all.filter((kept) => 'item' in kept)
  return {
    items: good.map((kept) => kept.item),
    problems: [...read.problems, ...all.flatMap((kept, place) => ('item' in kept ? [] : [{ ...kept, place }]))],
    files: good.flatMap((kept) => kept.file ?? []),
  }
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
