import type { Verdict } from '../checks/index.js'

/** What a link is against the sweep before. `first`: it was not in it. */
export const LINK_CHANGES = ['newly_broken', 'still_broken', 'fixed', 'slower', 'same', 'first'] as const
export type LinkChange = (typeof LINK_CHANGES)[number]

/** How a link came out of one sweep. */
export interface LinkOutcome {
  verdict: Verdict
  /** From its beginning to its end; milliseconds. */
  tookMs: number
}

/** Below this, a link that takes longer than before is not called slower: machines differ by that from hour to hour. */
const SLOWER_BY_MS = 1000
const SLOWER_TIMES = 2

/** Compares how a link came out with how it did the time before. What could not be tried is never called broken. */
export function compareLink(now: LinkOutcome, before: LinkOutcome | undefined): LinkChange {
  if (!before) return 'first'
  const [broken, wasBroken] = [now.verdict === 'fail', before.verdict === 'fail']
  if (broken) return wasBroken ? 'still_broken' : 'newly_broken'
  if (wasBroken) return now.verdict === 'skipped' ? 'same' : 'fixed'
  return now.tookMs > before.tookMs * SLOWER_TIMES && now.tookMs - before.tookMs > SLOWER_BY_MS ? 'slower' : 'same'
}

/** Whether a sweep ought to make somebody look: for exit codes and mail. */
export function needsSomebody(change: LinkChange, verdict: Verdict): boolean {
  return change === 'newly_broken' || (change === 'first' && verdict === 'fail')
}
