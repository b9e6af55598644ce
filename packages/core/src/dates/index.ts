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
    const whole = Number.isInteger(serial)
    return inZone(at.getUTCFullYear(), at.getUTCMonth() + 1, at.getUTCDate(), ...timeOf(whole, at, endOfDay), zone)
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
  const [year, month, day] = iso ? [iso[1], iso[2], iso[3]] : [dotted![3], dotted![2], dotted![1]]
  const [hour, minute] = (iso ?? dotted)!.slice(4, 6)
  return inZone(
    Number(year),
    Number(month),
    Number(day),
    hour === undefined ? (endOfDay ? 23 : 0) : Number(hour),
    minute === undefined ? (endOfDay ? 59 : 0) : Number(minute),
    zone,
  )
}

function timeOf(whole: boolean, at: Date, endOfDay: boolean): [number, number] {
  return whole ? (endOfDay ? [23, 59] : [0, 0]) : [at.getUTCHours(), at.getUTCMinutes()]
}

function inZone(y: number, m: number, d: number, h: number, min: number, zone: string): CellRead<string | null> {
  const utc = Date.UTC(y, m - 1, d, h, min)
  const check = new Date(utc)
  if (check.getUTCMonth() !== m - 1 || check.getUTCDate() !== d || h > 23 || min > 59)
    return { problem: `${y}-${m}-${d} ${h}:${String(min).padStart(2, '0')} is not in the calendar` }
  // Twice, because the first guess may stand on the other side of a change of the clocks.
  const first = utc - offsetMs(new Date(utc), zone)
  return { value: new Date(utc - offsetMs(new Date(first), zone)).toISOString() }
}

/** Whether the name is a time zone of the IANA list, as this machine knows it. */
export function isTimeZone(name: string): boolean {
  try {
    return Boolean(new Intl.DateTimeFormat('en', { timeZone: name }))
  } catch {
    return false
  }
}

/** How far a zone is ahead of UTC at a moment. */
function offsetMs(at: Date, zone: string): number {
  const parts = new Intl.DateTimeFormat('en-US', {
    timeZone: zone, hourCycle: 'h23', year: 'numeric', month: 'numeric', day: 'numeric', hour: 'numeric', minute: 'numeric',
  }).formatToParts(at) // oxfmt-ignore
  const part = (type: string) => Number(parts.find((one) => one.type === type)?.value)
  return (
    Date.UTC(part('year'), part('month') - 1, part('day'), part('hour'), part('minute')) -
    Math.floor(at.getTime() / 60_000) * 60_000
  )
}

/** A moment as the clocks of a zone show it: `2026-12-12T23:59`. */
export function wallTime(at: Date, zone: string): string {
  const minutes = Math.floor(at.getTime() / 60_000) * 60_000
  return new Date(minutes + offsetMs(at, zone)).toISOString().slice(0, 16)
}
