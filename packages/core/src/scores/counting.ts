import Big from 'big.js'
import { QUOTIENT_DECIMALS } from './points.js'

/** Which of the scores received counts as the result. */
export const COUNTING = ['latest', 'best', 'first', 'mean'] as const
export type Counting = (typeof COUNTING)[number]

/** What an accepted entry of the trail did: a score, a score taken back, or only a sign of progress. */
export interface TrailStep {
  id: string
  operation: 'replace' | 'delete' | 'progress'
  /** Exact decimal text; null unless `replace`. */
  fraction: string | null
  /** What the tool sent, and out of what: `64.5` of `100`. */
  sent: string | null
  sentOutOf: string | null
}

/** The result that a trail comes to, as far as tools have a say in it. */
export interface Derived {
  fraction: string | null
  sent: string | null
  sentOutOf: string | null
  /** The entry it stands by; with `mean` the last that entered it. Null as long as no score came. */
  scoreId: string | null
  /** How many scores came at all. */
  attempts: number
  /** How many scores came since the last was taken back, and their sum. */
  counted: number
  sum: string
}

/**
 * Derives a result from a trail, oldest entry first. A score that is taken back clears what came before it: the next one starts anew.
 * Of equal best scores the earlier stands. A mean is rounded half up at 30 decimals, everything else is exact.
 */
export function derive(trail: readonly TrailStep[], counting: Counting): Derived {
  let now: Derived = { fraction: null, sent: null, sentOutOf: null, scoreId: null, attempts: 0, counted: 0, sum: '0' }
  for (const step of trail) {
    if (step.operation === 'delete')
      now = { ...now, fraction: null, sent: null, sentOutOf: null, scoreId: step.id, counted: 0, sum: '0' }
    if (step.operation !== 'replace' || step.fraction === null) continue
    const sum = new Big(now.sum).plus(step.fraction)
    const counted = now.counted + 1
    const takesOver =
      now.fraction === null ||
      counting === 'latest' ||
      counting === 'mean' ||
      (counting === 'best' && new Big(step.fraction).gt(now.fraction))
    now = {
      ...now,
      ...(takesOver && {
        fraction: counting === 'mean' ? mean(sum, counted) : new Big(step.fraction).toFixed(),
        sent: step.sent,
        sentOutOf: step.sentOutOf,
        scoreId: step.id,
      }),
      attempts: now.attempts + 1,
      counted,
      sum: sum.toFixed(),
    }
  }
  return now
}

function mean(sum: Big, count: number): string {
  const exact = Big()
  exact.DP = QUOTIENT_DECIMALS
  return exact(sum).div(count).toFixed()
}
