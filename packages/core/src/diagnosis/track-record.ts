import { partsOfCode, type Diagnosis } from './cause.js'
import { GERMAN } from './letter/german.js'

/** The codes of all causes that can be told. */
export const CAUSE_CODES: readonly string[] = Object.keys(GERMAN).sort()

/** A cause that was wrong so often is no longer told as proven until somebody has looked at it. */
export const MOST_WRONG = 2

/** How a diagnosis may be told when some causes are in doubt: what rests on one of them is likely, and no more. */
export function asDoubted(
  found: Diagnosis,
  doubted: { has: (code: string) => boolean },
): { found: Diagnosis; doubts: string[] } {
  const doubts = found.causes.flatMap(({ code }) => partsOfCode(code)).filter((code) => doubted.has(code))
  return {
    found: doubts.length > 0 && found.certainty === 'proven' ? { ...found, certainty: 'likely' } : found,
    doubts: [...new Set(doubts)],
  }
}

/** What was said afterwards of one cause, in one month. */
export interface CountedCause {
  code: string
  /** Such as `2026-11`, in UTC. */
  month: string
  /** Told, and said to be right; by people, and by the next message that passed. */
  right: number
  rightByItself: number
  /** Told, and said to be wrong. */
  wrong: number
  /** It was this, and another or none was told. */
  missed: number
}

export interface TrackRecord extends Omit<CountedCause, 'code' | 'month'> {
  /** Of those told that were judged, the part that was right; null where none was. */
  precision: number | null
  /** Of those that it was, the part that was told; null where there was none. */
  recall: number | null
}

/** How often causes were right, over all that is counted. */
export function trackRecord(counted: readonly Omit<CountedCause, 'code' | 'month'>[]): TrackRecord {
  const sum = (name: 'right' | 'rightByItself' | 'wrong' | 'missed') => counted.reduce((n, one) => n + one[name], 0)
  const [right, rightByItself, wrong, missed] = [sum('right'), sum('rightByItself'), sum('wrong'), sum('missed')]
  const good = right + rightByItself
  const part = (of: number) => (of === 0 ? null : good / of)
  return { right, rightByItself, wrong, missed, precision: part(good + wrong), recall: part(good + missed) }
}
