import { Refusal, type PickedAssignments } from '@bathyscribe/contract'
import { toDate } from '@bathyscribe/core/dates'
import { toRichText } from '@bathyscribe/core/rich-text'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import type { z } from 'zod'
import { requirePreflight } from './preflight.js'
import { newAssignment, placeNew, slugTaken } from './assignment.js'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import { by, type Actor, type Context } from '../context.js'
import { contentOf } from '../pickers/picked.js'
import { toolForCourse } from '../places/usable-tool.js'
import { Surroundings } from './surroundings.js'

/**
 * Makes an assignment of each tool link that a picker handed over, with what the tool says of title, points, dates and frame. All of them or none; taking the same item
 * again makes nothing new. @throws Refusal
 */
export async function takePicked(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof PickedAssignments>,
): Promise<string[]> {
  const { records, clock } = context
  const picking = await records.pickings.show(course.id, wanted.picking, actor.id)
  if (picking.state !== 'answered') throw new Refusal('picker.not_answered', picking.state)
  const places = wanted.items ?? picking.items.flatMap((item, i) => (item.kind === 'tool_link' ? [i] : []))
  const tool = await toolForCourse(context, course.id, picking.registrationId)
  const category = wanted.category === null ? null : await records.courses.category(course.id, wanted.category)
  const unit = wanted.unit === null ? null : await records.outline.unit(course.id, wanted.unit)
  const slugs = await records.assignments.slugs(course.id)
  const there = new Map((await records.assignments.ofCourse(course.id)).map((one) => [one.rowKey, one.id]))
  const now = clock.now()
  const made: AssignmentRecord[] = []
  const ids: string[] = []
  for (const place of [...new Set(places)]) {
    const item = picking.items[place]
    if (!item) throw new Refusal('picker.item_not_found', `item ${place} of ${picking.items.length}`)
    if (item.kind !== 'tool_link') throw new Refusal('picker.item_not_a_tool_link', `item ${place}: ${item.kind}`)
    const rowKey = `picking ${picking.id} ${place}`
    const before = there.get(rowKey)
    if (before !== undefined) {
      ids.push(before)
      continue
    }
    const title = item.title || item.column?.label || tool.name
    const slug = freeSlug(slugOf(title, 'assignment'), slugs)
    slugs.push(slug)
    const points = item.column?.points ?? wanted.points
    made.push({
      ...newAssignment(context, course.id, tool, now),
      slug,
      rowKey,
      title,
      instructions: toRichText(item.text) || tool.learnerText,
      points: points ?? '0',
      counted: points !== undefined && Number(points) > 0,
      categoryId: category?.id ?? null,
      opensAt: toDate(item.opensAt),
      dueAt: toDate(item.dueAt),
      closesAt: toDate(item.closesAt),
      documentTarget: item.target ?? tool.documentTarget,
      launchUrl: item.url,
      customParameters: item.custom,
      ...contentOf(item),
      contentToolId: tool.id,
      state: wanted.publish ? 'published' : 'draft',
      publishedAt: wanted.publish ? now : null,
    })
    ids.push(made.at(-1)!.id)
  }
  if (wanted.publish) {
    const around = await Surroundings.read(context, records, course.id, [tool.id])
    requirePreflight(made.flatMap((one) => around.remarks({ ...one, id: undefined, unit, audience: null })))
  }
  if (made.length === 0) return ids
  await records
    .transaction(async (inside) => {
      await inside.assignments.insertAll(made)
      await placeNew(inside, context, made, unit?.id ?? null)
      await inside.menus.addTool(course.id, tool.id, actor.id, now)
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'make assignments from a picker',
        subject: `course ${course.code}`,
        courseId: course.id,
        after: { tool: tool.slug, made: made.map((one) => one.slug) },
      })
    })
    .catch(slugTaken('the picked items'))
  context.changes.publish({ kind: 'assignment', courseId: course.id })
  context.changes.publish({ kind: 'outline', courseId: course.id })
  return ids
}
