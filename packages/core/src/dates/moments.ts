import { DateTime, IANAZone } from 'luxon'

/** What a text holds, or why it cannot be read. */
export type CellRead<T> = { value: T } | { problem: string }

const EXCEL_EPOCH_MS = Date.UTC(1899, 11, 30)

/**
 * A moment out of a cell: ISO 8601, `2026-12-01 23:59`, `1.12.2026 23:59`, or a spreadsheet's serial number. Without a zone it is the course's own time; a date alone is
 * its end (23:59) when `endOfDay`, else its beginning.
 */
export function readMomentCell(text: string, zone: string, endOfDay: boolean): CellRead<string | null> {
  const cell = text.trim()
  if (cell === '') return { value: null }
  if (/^\d{5}([.,]\d+)?$/.test(cell)) {
    const serial = Number(cell.replace(',', '.'))
    const at = new Date(EXCEL_EPOCH_MS + Math.round(serial * 1440) * 60_000)
    const day = { year: at.getUTCFullYear(), month: at.getUTCMonth() + 1, day: at.getUTCDate() }
    return Number.isInteger(serial)
      ? dayIn(zone, day, endOfDay)
      : momentIn(zone, { ...day, hour: at.getUTCHours(), minute: at.getUTCMinutes() })
  }
  if (/^\d{4}-\d{2}-\d{2}T.*([zZ]|[+-]\d{2}:?\d{2})$/.test(cell)) {
    const at = new Date(cell)
    return Number.isNaN(at.getTime()) ? { problem: `“${cell}” is no moment` } : { value: at.toISOString() }
  }
  const time = '(?:[T ,]+(\\d{1,2})[:.](\\d{2})(?:[:.]\\d{2})?)?$'
  const iso = new RegExp(`^(\\d{4})-(\\d{1,2})-(\\d{1,2})${time}`).exec(cell)
  const dotted = new RegExp(`^(\\d{1,2})\\.(\\d{1,2})\\.(\\d{4})${time}`).exec(cell)
  if (!iso && !dotted)
    return /^\d{1,2}\/\d{1,2}\/\d{2,4}/.test(cell)
      ? { problem: `“${cell}”: day and month cannot be told apart; write it as 2026-12-31 23:59` }
      : { problem: `“${cell.slice(0, 40)}” is no date; write it as 2026-12-31 23:59` }
  const [year, month, date] = (iso ? [iso[1], iso[2], iso[3]] : [dotted![3], dotted![2], dotted![1]]).map(Number)
  const day: Day = { year: year!, month: month!, day: date! }
  const [hour, minute] = (iso ?? dotted)!.slice(4, 6)
  return hour === undefined
    ? dayIn(zone, day, endOfDay)
    : momentIn(zone, { ...day, hour: Number(hour), minute: Number(minute) })
}

/** By the calendar; months count from 1. */
interface Day {
  year: number
  month: number
  day: number
}

type Minute = Day & { hour: number; minute: number }

/** A day's first moment, or its last minute: some days begin at 01:00. */
function dayIn(zone: string, day: Day, endOfDay: boolean): CellRead<string> {
  if (endOfDay) return momentIn(zone, { ...day, hour: 23, minute: 59 })
  const noon = localIn(zone, { ...day, hour: 12, minute: 0 }, written(day))
  return 'problem' in noon ? noon : { value: noon.value.startOf('day').toJSDate().toISOString() }
}

/** A moment by the clocks of a zone. Of the two moments that a clock put back shows alike it is the later, as for a date that something has to be done by. */
function momentIn(zone: string, wanted: Minute): CellRead<string> {
  const local = localIn(zone, wanted, `${written(wanted)} ${two(wanted.hour)}:${two(wanted.minute)}`)
  if ('problem' in local) return local
  const moments = local.value.getPossibleOffsets().map((one) => one.toMillis())
  return { value: new Date(Math.max(...moments)).toISOString() }
}

function localIn(zone: string, wanted: Minute, shown: string): CellRead<DateTime> {
  const local = DateTime.fromObject(wanted, { zone })
  if (!local.isValid || wanted.hour > 23) return { problem: `${shown} is not in the calendar` }
  const isThere = (['day', 'hour', 'minute'] as const).every((unit) => local[unit] === wanted[unit])
  return isThere ? { value: local } : { problem: `${shown} does not exist in ${zone}: clocks are put forward over it` }
}

const two = (n: number) => String(n).padStart(2, '0')
const written = ({ year, month, day }: Day) => `${year}-${two(month)}-${two(day)}`

/** A moment as interfaces carry it (ISO 8601 with zone), or none. */
export function toDate(iso: string | null): Date | null {
  return iso === null ? null : new Date(iso)
}

/** Whether the name is a time zone of the IANA list, as this machine knows it. */
export function isTimeZone(name: string): boolean {
  return IANAZone.isValidZone(name)
}

/** A moment as the clocks of a zone show it: `2026-12-12T23:59`. */
export function wallTime(at: Date, zone: string): string {
  return DateTime.fromJSDate(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm")
}
