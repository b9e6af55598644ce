import { ERRORS } from '@bathyscribe/contract'
import { pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { skipped, type Found, type Run } from './run.js'

/** How long the score of the test learner is waited for. */
const SCORE_WAIT_MS = 8000
const SCORE_LOOK_EVERY_MS = 150

export async function soundScore(run: Run): Promise<Found[]> {
  const { context, assignment, tool, signal } = run
  const { link, lastScoreId } = run.testLearner!
  if (!tool.features.includes('scores'))
    return [
      skipped(
        'The registration is for content that returns no scores, so none is expected.',
        'Use a registration that returns scores if the work is to be graded.',
      ),
    ]
  if (Object.keys(tool.soundingParameters).length === 0)
    return [
      skipped(
        'The tool was not told how to score without a person, so no score is expected.',
        'Enter its parameters for that under “sounding parameters”, or open it as the test learner and do the work.',
      ),
    ]
  const until = performance.now() + SCORE_WAIT_MS
  while (performance.now() < until) {
    signal.throwIfAborted()
    const refusal = await lastRefusal(context, link, lastScoreId)
    if (refusal)
      return [
        {
          check: 'received',
          verdict: 'fail',
          statement: `The tool sent a score that was refused: “${refusal.sent ?? ''}”.`,
          cause: refusal.cause,
          remedy: refusal.hint,
          wireEntryId: refusal.wireEntryId,
        },
      ]
    const standing = await context.records.scores.standing(assignment.id, link.person.id)
    if (standing && standing.scoreId !== lastScoreId)
      return [
        {
          check: 'received',
          verdict: 'pass',
          statement: `The tool sent ${standing.sent ?? 'a cleared score'} of 1 for the test learner.`,
          wireEntryId: await wireEntryOf(context, link, standing.scoreId),
        },
      ]
    await new Promise((resolve) => setTimeout(resolve, SCORE_LOOK_EVERY_MS))
  }
  return [await noScore(run)]
}

async function noScore({ context, tool, assignment, testLearner }: Run): Promise<Found> {
  const since = await context.records.wire.list(null, {
    registrationId: tool.id,
    kind: tool.version === '1.3' ? 'score' : 'outcome',
    outcome: 'refused',
    limit: 1,
  })
  const refused = since.items[0]
  const fresh =
    refused &&
    context.clock.now().getTime() - refused.at.getTime() < SCORE_WAIT_MS + 2000 &&
    (refused.assignment === null || refused.assignment.id === assignment.id)
  return fresh
    ? {
        check: 'received',
        verdict: 'fail',
        statement: `A call came back, but was refused: ${refused.statement}`,
        cause: refused.statement,
        remedy: refused.code && refused.code in ERRORS ? ERRORS[refused.code as keyof typeof ERRORS].hint : null,
        wireEntryId: refused.id,
      }
    : {
        check: 'received',
        verdict: 'fail',
        statement: `No score came back for ${testLearner!.link.person.fullName} within ${SCORE_WAIT_MS / 1000} seconds.`,
        cause: 'The tool took the launch but sent no score.',
        remedy: 'Some tools send late or on demand only: check at the tool’s end, then run the sounding again.',
      }
}

async function lastRefusal(context: Context, link: Link, lastScoreId: string | null) {
  const { items } = await context.records.scores.trail(link.resource.id, link.person.id, 1, undefined)
  const last = items[0]
  if (!last || last.outcome !== 'refused' || (lastScoreId !== null && BigInt(last.id) <= BigInt(lastScoreId)))
    return undefined
  // An older refusal without a result before it would be found again: only what came after this launch counts.
  if (context.clock.now().getTime() - last.at.getTime() > SCORE_WAIT_MS + 2000) return undefined
  const kind = ERRORS[last.code as keyof typeof ERRORS]
  return {
    sent: last.sent,
    cause: kind?.sentence ?? last.code,
    hint: kind?.hint ?? null,
    wireEntryId: last.wireEntryId,
  }
}

async function wireEntryOf(context: Context, link: Link, scoreId: string): Promise<string | null> {
  const { items } = await context.records.scores.trail(link.resource.id, link.person.id, 20, undefined)
  return items.find((entry) => entry.id === scoreId)?.wireEntryId ?? null
}

export async function soundGradebook(run: Run): Promise<Found[]> {
  const { context, assignment } = run
  const standing = await context.records.scores.standing(assignment.id, run.testLearner!.link.person.id)
  if (!standing || standing.fraction === null)
    return [
      { check: 'value', verdict: 'warn', statement: 'The tool cleared the score, so there is nothing to compare.' },
    ]
  const expected = pointsOf(standing.fraction, assignment.points)
  const agrees = standing.points !== null && sameNumber(standing.points, expected)
  return [
    agrees
      ? {
          check: 'value',
          verdict: 'pass',
          statement: `${standing.sent} of 1 × ${assignment.points} points = ${standing.points}, as the gradebook has it.`,
        }
      : {
          check: 'value',
          verdict: 'fail',
          statement: `The gradebook has ${standing.points ?? 'nothing'} where ${expected} was expected.`,
          cause: 'The gradebook value is not what was sent times points.',
          remedy: 'Open the trail of the test learner.',
        },
  ]
}
