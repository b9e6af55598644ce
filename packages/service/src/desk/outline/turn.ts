import { Refusal } from '@bathyscribe/contract'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import { newAssignment, slugTaken } from '../assignments/assignment.js'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { Actor, Context } from '../context.js'
import { actInCourse } from '../courses/act-in-course.js'
import { toolForCourse } from '../places/usable-tool.js'
import { unitItem } from './unit-item.js'

/** Makes an assignment of a tool link, in its place: the tool meets the same link identifier, and may now return scores. @throws Refusal */
export async function turnIntoAssignment(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  itemId: string,
  wanted: { points: string; category: string | null },
): Promise<string> {
  const { records, clock } = context
  const item = await records.outline.item(course.id, itemId)
  if (item.kind !== 'tool_link' || item.registrationId === null || item.resourceLinkId === null)
    throw new Refusal('item.wrong_kind', item.kind)
  const tool = await toolForCourse(context, course.id, item.registrationId)
  const category = wanted.category === null ? null : await records.courses.category(course.id, wanted.category)
  const start = slugOf(item.title, 'assignment')
  const assignment: AssignmentRecord = {
    ...newAssignment(context, course.id, tool, clock.now()),
    slug: freeSlug(start, await records.assignments.slugsLike(course.id, start)),
    title: item.title,
    points: wanted.points,
    counted: Number(wanted.points) > 0,
    categoryId: category?.id ?? null,
    launchUrl: item.launchUrl,
    customParameters: item.customParameters,
    documentTarget: item.documentTarget,
    content: item.content,
    contentToolId: item.content && tool.id,
    resourceLinkId: item.resourceLinkId,
  }
  const place = unitItem(context, {
    courseId: course.id,
    unitId: item.unitId,
    kind: 'assignment',
    assignmentId: assignment.id,
    pinned: item.pinned,
  })
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'turn tool link into assignment',
    `assignment ${assignment.slug}`,
    async (inside) => {
      await inside.outline.removeItem(itemId)
      await inside.assignments.insert(assignment)
      if (item.unitId !== null) await inside.outline.addItemAt(place, item.position)
    },
  ).catch(slugTaken(assignment.slug))
  context.changes.publish({ kind: 'assignment', courseId: course.id, assignmentId: assignment.id })
  return assignment.id
}

/** Makes an ungraded tool link of a draft that has no scores. @throws Refusal */
export async function turnIntoLink(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  assignment: AssignmentRecord,
  unitRef?: string,
): Promise<string> {
  const { records } = context
  if (assignment.state !== 'draft') throw new Refusal('request.invalid', 'unpublish it first')
  const results = await records.assignments.resultCount(assignment.id)
  if (results > 0) throw new Refusal('assignment.has_scores', `${results} results would lose their column`)
  const there = await records.outline.ofAssignment(assignment.id)
  const unitId = unitRef ?? there?.unitId ?? null
  if (unitId === null) throw new Refusal('unit.not_found', 'say which unit it belongs in')
  const unit = await records.outline.unit(course.id, unitId)
  const item = unitItem(context, {
    courseId: course.id,
    unitId: unit.id,
    kind: 'tool_link',
    title: assignment.title,
    registrationId: assignment.registrationId,
    launchUrl: assignment.launchUrl,
    customParameters: assignment.customParameters,
    documentTarget: assignment.documentTarget,
    resourceLinkId: assignment.resourceLinkId,
    content: assignment.content,
    pinned: there?.pinned ?? false,
  })
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'turn assignment into tool link',
    `unit item ${item.title}`,
    async (inside) => {
      await inside.assignments.remove(assignment.id)
      if (there && there.unitId === unit.id) await inside.outline.addItemAt(item, there.position)
      else await inside.outline.addItems(course.id, [item])
    },
  )
  context.changes.publish({ kind: 'assignment', courseId: course.id, assignmentId: assignment.id })
  return item.id
}
