import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import type { OutcomesRequest } from '@bathyscribe/core/lti1'
import { pointsOf, readFraction } from '@bathyscribe/core/scores'
import type { ScoredLink } from '../../records/statements/scored-links.js'
import type { MessageToWrite } from '../../records/statements/messages.js'

export type Score = NonNullable<MessageToWrite['score']>

/** What a request of Basic Outcomes makes of a result: a score with exact points, and why it is refused for what it says. */
export function scoreOf(asked: OutcomesRequest, link: ScoredLink): { score: Score; refusal: Refusal | undefined } {
  const common = { outOf: link.resource.points, code: null, fraction: null, points: null }
  if (asked.operation === 'deleteResult')
    return {
      score: { ...common, operation: 'delete', outcome: 'accepted', sent: null, handedIn: null },
      refusal: undefined,
    }
  const sent = asked.score ?? ''
  const replacing = { ...common, operation: 'replace' as const, handedIn: asked.handedIn ?? null }
  const fraction = readFraction(sent)
  return fraction instanceof Problem
    ? {
        score: { ...replacing, outcome: 'refused', code: fraction.code, sent: sent.slice(0, 200) },
        refusal: new Refusal(fraction.code, `“${sent.slice(0, 200)}”`),
      }
    : {
        score: {
          ...replacing,
          outcome: 'accepted',
          sent: fraction.sent,
          fraction: fraction.value,
          points: pointsOf(fraction.value, link.resource.points),
        },
        refusal: undefined,
      }
}

/** The same in words, for the answer and the wire log. */
export function describe(asked: OutcomesRequest, score: Score | undefined, link: ScoredLink): string {
  if (!score)
    return link.result?.fraction == null ? 'There is no score yet.' : `The score is ${link.result.fraction} of 1.`
  return asked.operation === 'deleteResult'
    ? 'The score was cleared.'
    : `${score.sent} of 1 recorded: ${score.points} of ${link.resource.points} points.`
}
