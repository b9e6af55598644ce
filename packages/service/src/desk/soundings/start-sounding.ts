import { Refusal, type NewSounding } from '@bathyscribe/contract'
import { found } from '@bathyscribe/core/checks'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import { act, type Context, type Doer } from '../context.js'

/** A sounding that takes longer is ended; what it waits for people comes on top. */
export const SOUNDING_LIMIT_MS = 120_000

/** A sounding that its service did not bring to an end. */
export const STOPPED = found('sounding', 'service_stopped', {})

const STALE_AFTER_MS = SOUNDING_LIMIT_MS + 30_000

/** Ends soundings that a stopped service left behind: older than any sounding can last. */
export async function interruptStale({ records, clock }: Pick<Context, 'records' | 'clock'>): Promise<void> {
  const now = clock.now()
  await records.soundings.interruptOlderThan(new Date(now.getTime() - STALE_AFTER_MS), now, STOPPED)
}

/**
 * Starts a sounding in the records. @param wanted `sweepId`: the sweep whose link it is
 * @throws Refusal when one of the same assignment is running, when there is no browser to follow by, or when the pilot is none or has not agreed
 */
export async function startSounding(
  context: Context,
  actor: Doer,
  assignment: Pick<AssignmentRecord, 'id' | 'courseId'>,
  wanted: NewSounding & { sweepId?: string },
): Promise<string> {
  const { records, clock, ids, browser } = context
  if (wanted.follower === 'browser' && !browser.found)
    throw new Refusal('sounding.no_browser', browser.reason ?? undefined)
  const pilot = wanted.pilot === undefined ? null : await pilotOf(context, assignment, wanted.pilot)
  if (pilot && !wanted.consented) throw new Refusal('sounding.pilot_consent', pilot.fullName)
  const id = ids.next()
  const start = (inside: Records) =>
    inside.soundings.start({
      id,
      assignmentId: assignment.id,
      personId: actor.id,
      startedAt: clock.now(),
      depth: wanted.depth,
      follower: wanted.follower,
      pilotId: pilot?.id ?? null,
      waitMinutes: wanted.waitMinutes,
      sweepId: wanted.sweepId ?? null,
    })
  const { courseId } = assignment
  // A sounding is its own record of who did what; that somebody else's name was lent to it is noted apart.
  const begin = () =>
    pilot
      ? act(
          context,
          { doer: actor, action: 'sounding.pilot', subject: `assignment ${assignment.id}`, courseId },
          start,
          () => ({ after: { sounding: id, pilot: pilot.username, consented: true } }),
        )
      : start(records)
  try {
    await begin()
  } catch (error) {
    if (!(error instanceof Refusal) || error.code !== 'sounding.already_running') throw error
    // One that a killed service left behind does not stand in the way of a new one for long.
    await interruptStale(context)
    await begin()
  }
  context.changes.publish({ kind: 'sounding', courseId: assignment.courseId, assignmentId: assignment.id })
  return id
}

/** Lets a sounding that waits for a person go on without the work. Whether it waits, or does no longer, makes no difference. */
export async function endWait(
  { records, changes }: Pick<Context, 'records' | 'changes'>,
  { id, course, assignment }: { id: string; course: { id: string }; assignment: { id: string } },
): Promise<void> {
  await records.soundings.setWaiting(id, null)
  changes.publish({ kind: 'sounding', courseId: course.id, assignmentId: assignment.id })
}

async function pilotOf(context: Context, assignment: Pick<AssignmentRecord, 'courseId'>, ref: string) {
  const person = await context.records.people.byRef(ref)
  const enrolment = person && (await context.records.people.enrolment(assignment.courseId, person.id))
  if (!person || enrolment?.role !== 'learner' || enrolment.state !== 'active')
    throw new Refusal('enrolment.not_found', ref)
  return person
}
