import { Refusal, type NewExpectation } from '@bathyscribe/contract'
import { factsIn } from '@bathyscribe/core/checks'
import { fractionOf } from '@bathyscribe/core/scores'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { ExpectationRow } from '../../records/expectations.js'
import { by, type Actor, type Context } from '../context.js'

/** A tool may take so much longer than it did when it was learned from, and this many more milliseconds. */
const LEARNED_TIME = 3
const LEARNED_TIME_MORE_MS = 500

/** @throws Refusal when nothing is expected, or the wrong way round */
export async function setExpectation(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  wanted: NewExpectation,
  learnedFrom: string | null = null,
): Promise<ExpectationRow> {
  const { scoreFrom = null, scoreTo = null } = wanted
  if (Object.values(wanted).every((one) => one === undefined || one === '')) throw new Refusal('expectation.empty')
  if (scoreFrom !== null && scoreTo !== null && Number(scoreFrom) > Number(scoreTo))
    throw new Refusal('expectation.range')
  await context.records.transaction(async (records) => {
    const before = await records.expectations.find(assignment.id)
    await records.expectations.set(assignment.id, {
      answersWithinMs: wanted.answersWithinMs ?? null,
      contains: wanted.contains === '' ? null : (wanted.contains ?? null),
      scoreFrom,
      scoreTo,
      membersFrom: wanted.membersFrom ?? null,
      setAt: context.clock.now(),
      personId: actor.id,
      learnedFrom,
    })
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'expectation.set',
      subject: `assignment ${assignment.id}`,
      courseId: assignment.courseId,
      before: before ?? undefined,
      after: { ...wanted, learnedFrom },
    })
  })
  return (await context.records.expectations.find(assignment.id))!
}

/** Expects from now on what the last sounding that passed found: its time with room, its score, its members. @throws Refusal without one */
export async function learnExpectation(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
): Promise<ExpectationRow> {
  const { records } = context
  const last = await records.soundings.lastPassed(assignment.id)
  if (!last) throw new Refusal('expectation.not_proven')
  const launch = last.findings.find(
    ({ stage, check, verdict }) => stage === 'launch_test_learner' && check === 'taken' && verdict === 'pass',
  )
  const entry = launch?.wireEntryId ? await records.wire.show(launch.wireEntryId).catch(() => undefined) : undefined
  const score = factsIn(last.findings, 'received', 'score')
  const fraction = score && score.sent !== null ? fractionOf(score.sent, score.outOf ?? '1') : undefined
  const members = factsIn(last.findings, 'roster', 'readable')?.members
  const wanted: NewExpectation = {
    ...(entry && { answersWithinMs: Math.round(entry.durationMs * LEARNED_TIME + LEARNED_TIME_MORE_MS) }),
    ...(fraction !== undefined && Number(fraction) <= 1 && { scoreFrom: fraction, scoreTo: fraction }),
    ...(members !== undefined && { membersFrom: members }),
  }
  return setExpectation(context, actor, assignment, wanted, last.id)
}

/** @throws Refusal when nothing is expected */
export async function removeExpectation(context: Context, actor: Actor, assignment: AssignmentRecord): Promise<void> {
  await context.records.transaction(async (records) => {
    if (!(await records.expectations.remove(assignment.id)))
      throw new Refusal('expectation.not_found', assignment.title)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'expectation.remove',
      subject: `assignment ${assignment.id}`,
      courseId: assignment.courseId,
    })
  })
}
