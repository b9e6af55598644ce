import { readMomentCell, wallTime } from '@bathyscribe/contract'

/** What an input of date and time holds for a moment, in the zone of the course; empty for none. */
export function toInput(iso: string | null, zone: string): string {
  return iso === null ? '' : wallTime(new Date(iso), zone)
}

/**
 * The moment that such an input holds, in the zone of the course; null for none. What is no moment, as an hour that clocks are put forward
 * over, goes as it stands: the service refuses it by its field, rather than that a date is lost in silence.
 */
export function fromInput(text: string, zone: string): string | null {
  const read = readMomentCell(text, zone, true)
  return 'value' in read ? read.value : text
}

const PARTS = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' } as const
const SHORT = new Intl.DateTimeFormat('en-GB', PARTS)
/** `1 Dec, 23:59` in the person's zone: when something was. */
export function shortMoment(iso: string): string {
  return SHORT.format(new Date(iso))
}

const ZONED = new Map<string, Intl.DateTimeFormat>()
/** `1 Dec, 23:59 CET` in the zone of a course: dates that people have to keep. What a tool says that is no moment stands as it said it. */
export function courseMoment(iso: string, zone: string): string {
  if (Number.isNaN(Date.parse(iso))) return iso
  const format =
    ZONED.get(zone) ?? new Intl.DateTimeFormat('en-GB', { ...PARTS, timeZone: zone, timeZoneName: 'short' })
  ZONED.set(zone, format)
  return format.format(new Date(iso))
}
