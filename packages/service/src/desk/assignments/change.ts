import { Refusal, type AssignmentChange } from '@bathyscribe/contract'
import { toDate } from '@bathyscribe/core/dates'
import { toRichText } from '@bathyscribe/core/rich-text'
import { sameNumber } from '@bathyscribe/core/scores'
import type { z } from 'zod'
import { requirePreflight } from './preflight.js'
import { launchesOtherwise } from './assignment.js'
import { checkAddress } from '../tools/address.js'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { Records, RecordsInside } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { publishUnitOf } from '../outline/change-outline.js'
import { unitItem } from '../outline/unit-item.js'
import { contentOf, pickedToolLink } from '../pickers/picked.js'
import { toolForCourse } from '../places/usable-tool.js'
import { resolveAudience } from './audience.js'
import { recompute } from './recompute.js'
import { Surroundings } from './surroundings.js'

/**
 * Changes an assignment as the caller read it. Changed points, or another way of counting, recompute every result in the same transaction; that, or another
 * tool, needs `keepScores` once scores exist. Other content keeps link, column and scores.
 */
export async function changeAssignment(
  context: Context,
  actor: Actor,
  before: AssignmentRecord,
  wanted: z.output<typeof AssignmentChange>,
): Promise<void> {
  const { revision, keepScores, tool: toolRef, category, audience, content, unit, ...fields } = wanted
  const { courseId } = before
  if (fields.launchUrl) checkAddress(fields.launchUrl, 'launchUrl')
  const tool = toolRef === undefined ? undefined : await toolForCourse(context, courseId, toolRef)
  if (tool?.state === 'retired') throw new Refusal('tool.retired', tool.slug)
  const toolId = tool?.id ?? before.registrationId
  const picked = content && (await pickedToolLink(context, actor, courseId, toolId, content))
  const released = audience && (await resolveAudience(context.records, courseId, audience))
  const place = typeof unit === 'string' ? await context.records.outline.unit(courseId, unit) : unit
  const now = context.clock.now()
  const { opensAt, dueAt, closesAt, ...plain } = fields
  const given = Object.fromEntries(
    Object.entries(plain).filter(([, value]) => value !== undefined),
  ) as Partial<AssignmentRecord>
  for (const [name, value] of Object.entries({ opensAt, dueAt, closesAt }))
    if (value !== undefined) given[name as 'dueAt'] = toDate(value)
  if (given.launchUrl === '') given.launchUrl = null
  if (given.instructions !== undefined) given.instructions = toRichText(given.instructions)

  await context.records.transaction(async (records) => {
    const current = await records.assignments.lock(before.id)
    const change: Partial<AssignmentRecord> = {
      ...given,
      ...(tool && { registrationId: tool.id }),
      ...(category !== undefined && {
        categoryId: category === null ? null : (await records.courses.category(courseId, category)).id,
      }),
      ...(audience !== undefined && { forEveryone: audience === null }),
      ...(picked && {
        ...contentOf(picked),
        contentToolId: toolId,
        launchUrl: picked.url,
        customParameters: picked.custom,
      }),
      ...(content === null &&
        current.content && { ...contentOf(null), contentToolId: null, launchUrl: null, customParameters: {} }),
      updatedAt: now,
    }
    const next = { ...current, ...change }
    if (launchesOtherwise(current, next)) change.settingsChangedAt = now
    await records.assignments.update(before.id, revision, change)
    const countsOtherwise = !sameNumber(next.points, current.points) || next.counting !== current.counting
    if (countsOtherwise || next.registrationId !== current.registrationId)
      await requireNoScores(records, before.id, keepScores)
    if (countsOtherwise) await recompute(records, [next.id])
    if (audience !== undefined)
      await records.assignments.setAudiences([{ assignmentId: before.id, ...(released ?? { groups: [], people: [] }) }])
    if (place !== undefined)
      await records.outline.placeAssignment(
        unitItem(context, { courseId, kind: 'assignment', assignmentId: before.id }),
        place?.id ?? null,
      )
    if (current.state === 'published') await requireSound(context, records, before.id)
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'change assignment',
      subject: `assignment ${before.slug}`,
      courseId,
      before: Object.fromEntries(Object.keys(change).map((key) => [key, current[key as keyof AssignmentRecord]])),
      after: change,
    })
  })
  context.changes.publish({ kind: 'assignment', courseId, assignmentId: before.id })
}

/** @throws Refusal when preflight finds something broken in the assignment as it stands in the records. */
async function requireSound(context: Context, records: Records, id: string): Promise<void> {
  const summary = await records.assignments.summary(id)
  const looked = { ...summary, audience: audienceOf(summary) }
  requirePreflight(await Surroundings.remarksOn(context, records, summary.courseId, looked))
}

/** An assignment's audience as preflight looks at it. */
export function audienceOf({
  audience,
}: {
  audience: { groups: { name: string; members: number }[]; people: unknown[]; reached: number } | null
}) {
  return audience && { groups: audience.groups, people: audience.people.length, reached: audience.reached }
}

/** Publishes an assignment when preflight finds nothing broken, and its unit if that is wanted, too. Publishing twice is harmless. */
export async function publishAssignment(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  { publishUnit }: { publishUnit: boolean },
): Promise<void> {
  const { courseId } = assignment
  const withUnit = async (records: RecordsInside) => {
    const place = publishUnit ? await records.outline.ofAssignment(assignment.id) : null
    if (place?.unitId) await publishUnitOf(records, context, actor, { courseId, unitId: place.unitId })
  }
  if (assignment.state !== 'published')
    await setState(
      context,
      actor,
      assignment,
      { state: 'published', publishedAt: context.clock.now() },
      'publish assignment',
      async (records) => {
        await requireSound(context, records, assignment.id)
        await withUnit(records)
      },
    )
  else await context.records.transaction(withUnit)
  if (publishUnit) context.changes.publish({ kind: 'outline', courseId })
}

/** Makes an assignment a draft again. Its scores stay, and it says so before it does that. */
export async function unpublishAssignment(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  keepScores: boolean,
): Promise<void> {
  if (assignment.state === 'draft') return
  await setState(context, actor, assignment, { state: 'draft', publishedAt: null }, 'unpublish assignment', (records) =>
    requireNoScores(records, assignment.id, keepScores),
  )
}

/** Deletes an assignment: nobody sees it, its scores are kept, and it can be restored for a while. */
export async function deleteAssignment(context: Context, actor: Actor, assignment: AssignmentRecord): Promise<void> {
  if (assignment.state === 'deleted') return
  const change = { state: 'deleted', stateBefore: assignment.state, deletedAt: context.clock.now() } as const
  await setState(context, actor, assignment, change, 'delete assignment')
}

/** Brings a deleted assignment back as it was. @throws Refusal */
export async function restoreAssignment(context: Context, actor: Actor, assignment: AssignmentRecord): Promise<void> {
  if (assignment.state !== 'deleted') throw new Refusal('assignment.not_deleted', assignment.slug)
  const change = { state: assignment.stateBefore ?? 'draft', stateBefore: null, deletedAt: null } as const
  await setState(context, actor, assignment, change, 'restore assignment')
}

async function setState(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  change: Partial<AssignmentRecord>,
  action: string,
  check: (records: RecordsInside) => Promise<void> = async () => undefined,
): Promise<void> {
  const now = context.clock.now()
  await context.records.transaction(async (records) => {
    // The tool is held still: who deletes it meanwhile waits, and finds one more link on it.
    await records.tools.hold(assignment.registrationId)
    await records.assignments.update(assignment.id, assignment.revision, { ...change, updatedAt: now })
    await check(records)
    await records.audit.add({
      at: now,
      ...by(actor),
      action,
      subject: `assignment ${assignment.slug}`,
      courseId: assignment.courseId,
    })
  })
  context.changes.publish({ kind: 'assignment', courseId: assignment.courseId, assignmentId: assignment.id })
}

async function requireNoScores(records: Records, assignmentId: string, keepScores: boolean): Promise<void> {
  if (keepScores) return
  const results = await records.assignments.resultCount(assignmentId)
  if (results > 0) throw new Refusal('assignment.has_scores', `${results} results`)
}
