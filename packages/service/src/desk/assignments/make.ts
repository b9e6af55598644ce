import type { NewAssignment } from '@bathyscribe/contract'
import { toDate } from '@bathyscribe/core/dates'
import { toRichText } from '@bathyscribe/core/rich-text'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import { by, type Actor, type Context } from '../context.js'
import { contentOf, pickedToolLink } from '../pickers/picked.js'
import { toolForCourse } from '../places/usable-tool.js'
import { checkAddress } from '../tools/address.js'
import { newAssignment, placeNew, slugTaken } from './assignment.js'
import { audienceFacts, resolveAudience } from './audience.js'
import { publishUnitOf } from '../outline/change-outline.js'
import { requirePreflight } from './preflight.js'
import { Surroundings } from './surroundings.js'

/** Makes an assignment; with `publish` only if preflight finds nothing broken, otherwise not at all. @throws Refusal */
export async function makeAssignment(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: z.output<typeof NewAssignment>,
): Promise<AssignmentRecord> {
  const { records, clock } = context
  const tool = await toolForCourse(context, courseId, wanted.tool)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const category = wanted.category === null ? null : await records.courses.category(courseId, wanted.category)
  const audience = wanted.audience && (await resolveAudience(records, courseId, wanted.audience))
  const unit = wanted.unit === null ? null : await records.outline.unit(courseId, wanted.unit)
  const content = wanted.content && (await pickedToolLink(context, actor, courseId, tool.id, wanted.content))
  const now = clock.now()
  const start = slugOf(wanted.title, 'assignment')
  const assignment: AssignmentRecord = {
    ...newAssignment(context, courseId, tool, now),
    slug: freeSlug(start, await records.assignments.slugsLike(courseId, start)),
    title: wanted.title,
    instructions: toRichText(wanted.instructions),
    points: wanted.points,
    counted: wanted.counted,
    counting: wanted.counting,
    released: wanted.released,
    categoryId: category?.id ?? null,
    opensAt: toDate(wanted.opensAt),
    dueAt: toDate(wanted.dueAt),
    closesAt: toDate(wanted.closesAt),
    attempts: wanted.attempts,
    forEveryone: audience === null,
    state: wanted.publish ? 'published' : 'draft',
    publishedAt: wanted.publish ? now : null,
    documentTarget: wanted.documentTarget ?? tool.documentTarget,
    launchUrl: content ? content.url : wanted.launchUrl || null,
    customParameters: content ? content.custom : wanted.customParameters,
    ...contentOf(content ?? null),
    contentToolId: content ? tool.id : null,
  }
  if (wanted.publish) {
    const looked = {
      ...assignment,
      id: undefined,
      unit: unit && { ...unit, published: unit.published || wanted.publishUnit },
      audience: audience && (await audienceFacts(records, courseId, audience)),
    }
    requirePreflight(await Surroundings.remarksOn(context, records, courseId, looked))
  }
  await records
    .transaction(async (inside) => {
      await inside.assignments.insert(assignment)
      await placeNew(inside, context, [assignment], unit?.id ?? null)
      if (unit && wanted.publish && wanted.publishUnit)
        await publishUnitOf(inside, context, actor, { courseId, unitId: unit.id })
      if (audience) await inside.assignments.setAudiences([{ assignmentId: assignment.id, ...audience }])
      await inside.menus.addTool(courseId, tool.id, actor.id, now)
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'make assignment',
        subject: `assignment ${assignment.slug}`,
        courseId,
        after: { title: assignment.title, tool: tool.slug, points: assignment.points, state: assignment.state },
      })
    })
    .catch(slugTaken(assignment.slug))
  if (wanted.publishUnit) context.changes.publish({ kind: 'outline', courseId })
  context.changes.publish({ kind: 'assignment', courseId, assignmentId: assignment.id })
  return assignment
}
