import { hintOf, passes, skips, tells, type RefusalFacts } from './definition.js'

/** A call of the tool that was refused, with what is known of its cause. */
type RefusedCall = {
  /** What the wire entry says of it. */
  entry: string
  code: string | null
  /** What diagnosis proved to be its cause. */
  proven: CauseFound | null
  /** What it most likely is, in words that say so, where nothing is proven. */
  likely?: CauseFound | null
}
type CauseFound = { sentence: string; remedy: string | null }

const knownOf = ({ proven, likely }: RefusedCall) => proven ?? likely
const causeOfCall = (call: RefusedCall) => knownOf(call)?.sentence ?? call.entry
const otherRegistration = (name: string) =>
  `The tool sends this assignment’s scores under another registration, “${name}”.`
const SECOND = 'The first score was taken, the second refused: '
const ONE_CLIENT = 'Have the tool’s end use the client ID that the launch came with; it knows us under more than one.'
const NO_SCORES = 'Use a registration that returns scores if the work is to be graded.'

type Sent = { sent: string | null; outOf: string | null }
const amount = ({ sent, outOf }: Sent) => `${sent ?? 'nothing'} of ${outOf ?? '1'}`

/** A call that was refused, told alike whichever score it was about. */
const call = (before: string) => ({
  other_registration: tells('fail', ({ name, entry }: { name: string; entry: string }) => ({
    statement: `A call for this assignment came under another registration, “${name}”, and was refused: ${entry}`,
    cause: before + otherRegistration(name),
    remedy: ONE_CLIENT,
  })),
  call_refused: tells('fail', (facts: RefusedCall, explain) => ({
    statement: `A call came back, but was refused: ${facts.entry}`,
    cause: before + causeOfCall(facts),
    remedy: knownOf(facts)?.remedy ?? hintOf(facts.code, explain),
  })),
})

/** What the way of a score can be found to be like, from the tool to the gradebook. */
export const SCORE = {
  'score back': {
    none_returned: tells('fail', () => ({
      statement: 'The assignment is counted, but its registration is for content that returns no scores.',
      cause: 'No score of this assignment can come back: its registration returns none.',
      remedy: `${NO_SCORES} Otherwise take it out of the totals.`,
    })),
    not_proven: tells('warn', (facts: { assignment: string; tool: string }) => ({
      statement: UNTRIED,
      cause: 'Whether its score comes back is not proven.',
      remedy: tryIt(facts),
    })),
  },
  received: {
    score: passes(({ who, ...sent }: Sent & { who: string }) =>
      sent.sent === null ? `The tool sent a cleared score for ${who}.` : `The tool sent ${amount(sent)} for ${who}.`,
    ),
    refused: tells('fail', ({ sent, refusal }: { sent: string | null; refusal: RefusalFacts | null }, explain) => {
      const known = refusal && explain(refusal)
      return {
        statement: `The tool sent a score that was refused: “${sent ?? ''}”.`,
        cause: known?.sentence ?? null,
        remedy: known?.hint ?? null,
      }
    }),
    none: tells('fail', ({ who, waited }: { who: string; waited: { minutes: number } | { seconds: number } }) => ({
      statement: `No score came back for ${who} within ${'minutes' in waited ? `${waited.minutes} minutes` : `${waited.seconds} seconds`}.`,
      cause: 'The tool took the launch but sent no score.',
      remedy: 'Some tools send late or on demand only: check at the tool’s end, then run the sounding again.',
    })),
    ...call(''),
  },
  'line item': {
    own_column: tells('fail', ({ title, ...sent }: Sent & { title: string }) => ({
      statement: `The tool sent ${amount(sent)} to a column of its own, “${title}”, instead of the one that the launch named.`,
      cause: 'The tool sends scores to a column of its own beside the assignment.',
      remedy: 'Have its support use the line item of the launch; until then merge the two columns in the gradebook.',
    })),
  },
  'read back': {
    as_it_stands: passes(({ told }: { told: string }) => `Asked for it, we would tell the tool ${told} of 1.`),
    other: tells('fail', ({ told, stands }: { told: string | null; stands: string | null }) => ({
      statement: `Asked for the result, we would tell the tool ${told ?? 'nothing'}, but the gradebook has ${stands ?? 'nothing'}.`,
      cause: 'What the tool would read back is not what the gradebook has.',
      remedy: 'Open the trail of the test learner.',
    })),
  },
  comment: {
    kept: passes(() => 'The comment that came with it is kept.'),
    lost: tells('fail', () => ({
      statement: 'The comment that came with it is not shown with the result.',
      cause: 'The comment of the score was lost.',
    })),
  },
  'expected score': {
    within: passes(
      ({ from, to }: { from: string; to: string }) => `The score lies between ${from} and ${to}, as expected.`,
    ),
    outside: tells('fail', ({ fraction, from, to }: { fraction: string | null; from: string; to: string }) => ({
      statement: `The score is ${fraction ?? 'cleared'} of 1; from ${from} to ${to} was expected.`,
      cause: 'The score is not what is expected of it.',
      remedy: 'Was the content changed at the tool’s end? If it is meant, change what is expected.',
    })),
  },
  value: {
    cleared: tells('warn', () => ({ statement: 'The tool cleared the score, so there is nothing to compare.' })),
    agrees: passes(
      (facts: Stands) =>
        `${facts.sent} of ${facts.outOf} × ${facts.points} points = ${facts.value}, as the gradebook has it.`,
    ),
    other: tells('fail', ({ value, expected }: { value: string | null; expected: string }) => ({
      statement: `The gradebook has ${value ?? 'nothing'} where ${expected} was expected.`,
      cause: 'The gradebook value is not what was sent times points.',
      remedy: 'Open the trail of the test learner.',
    })),
  },
  'second score': {
    as_it_counts: passes(
      ({ counting }: { counting: string }) => `A second score came, and the result follows “${counting}”.`,
    ),
    not_as_it_counts: tells(
      'fail',
      ({ standsBy, expected, counting }: { standsBy: string | null; expected: string | null; counting: string }) => ({
        statement: `After the second score the gradebook uses entry ${standsBy ?? 'none'}, but “${counting}” gives ${expected ?? 'none'}.`,
        cause: 'The gradebook does not follow the second score.',
        remedy: 'Open the trail.',
      }),
    ),
    refused: tells('fail', ({ code }: { code: string }) => ({
      statement: `The second score was refused: ${code}.`,
      cause: `${SECOND}${code}.`,
      remedy: 'Look at the wire entry: does the tool send each score with a time of its own?',
    })),
    ...call(SECOND),
  },
  'set aside': {
    nothing: passes(() => 'The tool left nothing that would count.'),
    entries: passes(({ count, who }: { count: number; who: string }) => {
      const [what, were, it] = count === 1 ? ['One entry', 'was', 'it'] : [`${count} entries`, 'were', 'them']
      return `${what} of ${who} ${were} set aside: the trail keeps ${it}, and the earlier result is back.`
    }),
  },
} as const

/** What stands in the gradebook, and by what arithmetic. */
type Stands = { sent: string; outOf: string; points: string; value: string }

const UNTRIED = 'No score was waited for: nobody does the work, and the tool was not told how to score by itself.'
function tryIt({ assignment, tool }: { assignment: string; tool: string }): string {
  return `Do the work yourself while it waits (“Run a sounding” on its page, or \`bathyscribe sounding run ${assignment} --wait 10\`). If the tool can score by itself, say how: \`bathyscribe tool change ${tool} --sounding NAME=VALUE\`.`
}

/** Stages of the score's way that were not tried. */
export const NO_SCORE = {
  no_scores_returned: skips(
    () => 'The registration is for content that returns no scores, so none is expected.',
    () => NO_SCORES,
  ),
  score_not_waited_for: skips(() => UNTRIED, tryIt),
  no_score_to_compare: skips(() => 'No score came back, so there is nothing to compare.'),
  no_second_score: skips(() => 'No second score came, so nothing shows which would count after one.'),
  nobody_scored: skips(() => 'Nobody was launched who could be scored, so there is nothing to take back.'),
} as const
