import { readMomentCell } from '@bathyscribe/contract'
import { EXIT, Failure } from './failure.js'

/**
 * A moment as people write it, in the zone of a course; a date alone is the beginning or the end of that day. `none` is null.
 * @throws Failure for what is no moment
 */
export function dateIn(zone: string, text: string, dateIs: 'beginning' | 'end'): string | null {
  if (text === 'none') return null
  const read = readMomentCell(text, zone, dateIs === 'end')
  if ('problem' in read || read.value === null)
    throw new Failure(
      'problem' in read ? `${read.problem}.` : 'A date is missing.',
      EXIT.usage,
      `Write it as 2026-12-31 or 2026-12-31 23:59 (${zone}), or “none”.`,
    )
  return read.value
}
