import { Refusal, type AssignmentChange } from '@bathyscribe/contract'
import { pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { z } from 'zod'
import type { AssignmentRecord } from '../records/entities/courses.js'
import type { Records } from '../records/index.js'
import { by, type Actor, type Context } from './context.js'
import { remarksOn, requirePreflight } from './make-assignment.js'
import { toolForCourse } from './places/usable-tool.js'
import { checkAddress } from './tools/register-tool.js'

/** What a launch depends on: when one of these changes, an old failure says nothing any more. */
const LAUNCH_SETTINGS = ['registrationId', 'launchUrl', 'customParameters', 'documentTarget'] as const

/**
 * Changes an assignment as the caller read it. Changed points recompute every result in the same transaction; that, or another
 * tool, needs `keepScores` once scores exist.
 */
export async function changeAssignment(
  context: Context,
  actor: Actor,
  before: AssignmentRecord,
  wanted: z.output<typeof AssignmentChange>,
): Promise<void> {
  const { revision, keepScores, tool: toolRef, category, ...fields } = wanted
  if (fields.launchUrl) checkAddress(fields.launchUrl, 'launchUrl')
  const tool = toolRef === undefined ? undefined : await toolForCourse(context, before.courseId, toolRef)
  if (tool?.state === 'retired') throw new Refusal('tool.retired', tool.slug)
  const now = context.clock.now()
  const given = Object.fromEntries(
    Object.entries(fields).filter(([, value]) => value !== undefined),
  ) as Partial<AssignmentRecord>
  if (given.launchUrl === '') given.launchUrl = null

  await context.records.transaction(async (records) => {
    const current = await records.assignments.lock(before.id)
    const change: Partial<AssignmentRecord> = {
      ...given,
      ...(tool && { registrationId: tool.id }),
      ...(category !== undefined && {
        categoryId: category === null ? null : (await records.courses.category(before.courseId, category)).id,
      }),
      updatedAt: now,
    }
    if (LAUNCH_SETTINGS.some((key) => key in change && JSON.stringify(change[key]) !== JSON.stringify(current[key])))
      change.settingsChangedAt = now
    const next = { ...current, ...change }
    if (current.state === 'published')
      requirePreflight(remarksOn(context, next, tool ?? (await records.tools.byId(current.registrationId))))

    await records.assignments.update(before.id, revision, change)
    const newPoints = !sameNumber(next.points, current.points)
    if (newPoints || next.registrationId !== current.registrationId)
      await requireNoScores(records, before.id, keepScores)
    if (newPoints) await recompute(records, next)
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'change assignment',
      subject: `assignment ${before.slug}`,
      courseId: before.courseId,
      before: Object.fromEntries(Object.keys(change).map((key) => [key, current[key as keyof AssignmentRecord]])),
      after: change,
    })
  })
  context.changes.publish({ kind: 'assignment', courseId: before.courseId, assignmentId: before.id, personId: null })
}

/** Publishes an assignment when preflight finds nothing broken. Publishing twice is harmless. */
export async function publishAssignment(context: Context, actor: Actor, assignment: AssignmentRecord): Promise<void> {
  if (assignment.state === 'published') return
  requirePreflight(remarksOn(context, assignment, await context.records.tools.byId(assignment.registrationId)))
  await setState(
    context,
    actor,
    assignment,
    { state: 'published', publishedAt: context.clock.now() },
    'publish assignment',
  )
}

/** Makes an assignment a draft again. Its scores stay, and it says so before it does that. */
export async function unpublishAssignment(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  keepScores: boolean,
): Promise<void> {
  if (assignment.state === 'draft') return
  await requireNoScores(context.records, assignment.id, keepScores)
  await setState(context, actor, assignment, { state: 'draft', publishedAt: null }, 'unpublish assignment')
}

async function setState(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  change: Partial<AssignmentRecord>,
  action: string,
): Promise<void> {
  const now = context.clock.now()
  await context.records.transaction(async (records) => {
    await records.assignments.update(assignment.id, assignment.revision, { ...change, updatedAt: now })
    await records.audit.add({
      at: now,
      ...by(actor),
      action,
      subject: `assignment ${assignment.slug}`,
      courseId: assignment.courseId,
    })
  })
  context.changes.publish({
    kind: 'assignment',
    courseId: assignment.courseId,
    assignmentId: assignment.id,
    personId: null,
  })
}

async function requireNoScores(records: Records, assignmentId: string, keepScores: boolean): Promise<void> {
  if (keepScores) return
  const results = await records.scores.standings(assignmentId)
  if (results.length > 0) throw new Refusal('assignment.has_scores', `${results.length} results`)
}

async function recompute(records: Records, assignment: Pick<AssignmentRecord, 'id' | 'points'>): Promise<void> {
  const results = await records.scores.standings(assignment.id)
  await records.scores.setPoints(
    assignment.id,
    results.map(({ personId, fraction }) => ({
      personId,
      points: fraction === null ? null : pointsOf(fraction, assignment.points),
    })),
  )
}
