import Big from 'big.js'
import { sameNumber } from '../scores/points.js'
import type { Reconciled } from './compare.js'

export const RECONCILED_REASONS = [
  'never_launched',
  'never_sent',
  'refused',
  'overridden',
  'exempt',
  'dropped',
  'not_sent_again',
  'file_older',
  'cleared',
  'another_counts',
  'not_final',
  'unexplained',
] as const
export type ReconciledReason = (typeof RECONCILED_REASONS)[number]

/** What the trail cannot show: it is what is left when everything that it does show is ruled out. */
export const LIKELY_REASONS: readonly ReconciledReason[] = ['never_sent', 'not_sent_again', 'file_older', 'not_final']

/** What the trail knows of one person in the column. Points are of the column as it is now. */
export interface TrailFacts {
  openedAt: Date | null
  overridden: boolean
  exempt: boolean
  dropped: boolean
  /** Accepted scores, oldest first; null points: taken back. */
  received: readonly { at: Date; points: string | null }[]
  /** What the tool's own score would be, without the instructor's word. */
  derived: string | null
  waiting: boolean
  /** The last score that was refused. */
  refused: { at: Date; code: string; sent: string | null } | null
}

/** Why a line differs, with what it rests on. */
export interface Explained {
  reason: ReconciledReason
  at: Date | null
  /** The error's code, for `refused`. */
  code: string | null
}

/**
 * Names the reason for a difference out of the trail; nothing for lines that agree. A reason is only named when the trail shows it: everything else is `unexplained`.
 */
export function reasonFor(found: Reconciled, facts: TrailFacts | undefined): Explained | null {
  if (!facts || found.class === 'same' || found.class === 'rounding' || found.class === 'scale') return null
  const say = (reason: ReconciledReason, at: Date | null = null, code: string | null = null): Explained => ({
    reason,
    at,
    code,
  })
  const last = facts.received.at(-1)
  const theirs = found.theirPoints
  if (facts.exempt) return say('exempt')
  if (facts.overridden) return say('overridden')
  // What the file leaves out, the trail here cannot explain.
  if (found.class === 'missing_there') return null
  // A refusal after the last score that was taken is what kept theirs away.
  if (facts.refused && (!last || facts.refused.at > last.at))
    return say('refused', facts.refused.at, facts.refused.code)
  if (facts.dropped) return say('dropped')
  if (!last) return facts.waiting ? say('not_final') : facts.openedAt ? say('never_sent') : say('never_launched')
  if (last.points === null) return say('cleared', last.at)
  if (theirs === null) return say('unexplained')
  const earlier = facts.received.filter((one) => one.points !== null && near(one.points, theirs))
  // What they have was sent once: another one counts here, or theirs is from before our last.
  if (earlier.length > 0)
    return facts.derived !== null && !near(facts.derived, last.points)
      ? say('another_counts', earlier.at(-1)!.at)
      : say('file_older', last.at)
  return facts.waiting ? say('not_final', last.at) : say('not_sent_again', last.at)
}

/** The same but for decimals that an export does not keep. */
function near(a: string, b: string): boolean {
  return sameNumber(a, b) || new Big(a).minus(b).abs().lt('0.006')
}
