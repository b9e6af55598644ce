import type { OutcomesRequest } from '@bathyscribe/core/lti1'
import { pointsOf, readFraction } from '@bathyscribe/core/scores'
import type { Link } from '../../records/statements/links.js'
import type { MessageToWrite } from '../../records/statements/messages.js'

export type Score = NonNullable<MessageToWrite['score']>

/** What a request of Basic Outcomes makes of a result: accepted with exact points, or refused for what it says. */
export function scoreOf(asked: OutcomesRequest, link: Link): Score {
  const outOf = link.resource.points
  if (asked.operation === 'deleteResult')
    return {
      operation: 'delete',
      outcome: 'accepted',
      code: null,
      sent: null,
      fraction: null,
      points: null,
      outOf,
      resultData: null,
    }
  const fraction = readFraction(asked.score ?? '')
  const common = { operation: 'replace' as const, outOf, resultData: asked.resultData ?? null }
  return 'code' in fraction
    ? {
        ...common,
        outcome: 'refused',
        code: fraction.code,
        sent: (asked.score ?? '').slice(0, 200),
        fraction: null,
        points: null,
      }
    : {
        ...common,
        outcome: 'accepted',
        code: null,
        sent: fraction.sent,
        fraction: fraction.value,
        points: pointsOf(fraction.value, outOf),
      }
}

/** The same in words, for the answer and the wire log. */
export function describe(asked: OutcomesRequest, score: Score | undefined, link: Link): string {
  if (asked.operation === 'readResult')
    return link.result?.fraction == null ? 'There is no score yet.' : `The score is ${link.result.fraction} of 1.`
  return score?.operation === 'delete'
    ? 'The score was cleared.'
    : `${score!.sent} of 1 recorded: ${score!.points} of ${link.resource.points} points.`
}
