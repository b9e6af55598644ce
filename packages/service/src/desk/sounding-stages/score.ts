import { ERRORS, type ErrorCode } from '@bathyscribe/contract'
import { pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { Link } from '../../records/statements/links.js'
import type { TrailRow } from '../../records/scores.js'
import type { Context } from '../context.js'
import { skipped, type Found, type Run } from './run.js'

/** How long the score of the test learner is waited for. */
const SCORE_WAIT_MS = 8000
const SCORE_LOOK_EVERY_MS = 150

export async function soundScore(run: Run): Promise<Found[]> {
  const { context, tool, signal } = run
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
    const found = await newEntry(context, link, lastScoreId)
    if (found?.outcome === 'refused')
      return [
        {
          check: 'received',
          verdict: 'fail',
          statement: `The tool sent a score that was refused: “${found.sent ?? ''}”.`,
          cause: ERRORS[found.code as ErrorCode]?.sentence ?? found.code,
          remedy: ERRORS[found.code as ErrorCode]?.hint ?? null,
          wireEntryId: found.wireEntryId,
        },
      ]
    if (found)
      return [
        {
          check: 'received',
          verdict: 'pass',
          statement: `The tool sent ${found.sent === null ? 'a cleared score' : `${found.sent} of ${found.sentOutOf}`} for the test learner.`,
          wireEntryId: found.wireEntryId,
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

/** What came for the test learner since this sounding launched: a score, or one that was refused. Words on progress are not waited for. */
async function newEntry(context: Context, link: Link, since: string | null): Promise<TrailRow | undefined> {
  const { items } = await context.records.scores.trail(link.resource.id, link.person.id, 5, undefined)
  return items.find(
    (one) => one.operation !== 'progress' && one.by === null && (since === null || BigInt(one.id) > BigInt(since)),
  )
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
          statement: `${standing.sent} of ${standing.sentOutOf} × ${assignment.points} points = ${standing.points}, as the gradebook has it.`,
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
