/**
 * When something that is done each day, or each Monday, is done next.
 * @param hour of the day, UTC, 0 to 23
 * @returns the first such moment after `now`
 */
export function nextOccurrence(now: Date, every: 'day' | 'week', hour: number): Date {
  const next = new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth(), now.getUTCDate(), hour))
  if (next <= now) next.setUTCDate(next.getUTCDate() + 1)
  if (every === 'week') while (next.getUTCDay() !== 1) next.setUTCDate(next.getUTCDate() + 1)
  return next
}
