import { Refusal } from '@bathyscribe/contract'

export interface Page<T> {
  items: T[]
  next: string | null
}

/** Reads a cursor made by `toPage`: the sort values of the last row of the page before. @throws Refusal for anything else. */
export function readCursor(cursor: string | undefined, parts: number): string[] | undefined {
  if (cursor === undefined) return undefined
  try {
    const values: unknown = JSON.parse(Buffer.from(cursor, 'base64url').toString('utf8'))
    if (
      Array.isArray(values) &&
      values.length === parts &&
      values.every((one) => typeof one === 'string' && one.length < 300 && !one.includes('\u0000'))
    )
      return values as string[]
  } catch {
    // falls through to the refusal
  }
  throw new Refusal('request.invalid', 'cursor', [{ path: 'cursor', message: 'is not one that a page before gave' }])
}

/** A whole number out of a cursor. @throws Refusal when it is none. */
export function serialOf(cursor: string | undefined): string | undefined {
  const value = readCursor(cursor, 1)?.[0]
  if (value !== undefined && !/^\d{1,18}$/.test(value)) throw new Refusal('request.invalid', 'cursor')
  return value
}

/** A moment out of a cursor. @throws Refusal when it is none. */
export function momentOf(text: string): Date {
  const at = new Date(text)
  // Years of other lengths are read by JavaScript, but not by PostgreSQL.
  if (Number.isNaN(at.getTime()) || !/^\d{4}-/.test(text)) throw new Refusal('request.invalid', 'cursor')
  return at
}

/** Where a list of learners in assignments, by time, goes on. */
export interface LearnerPlace {
  since: Date
  assignmentId: string
  personId: string
}

/** The place out of a cursor that `placeOf` made. @throws Refusal for anything else */
export function readPlace(cursor: string | undefined): LearnerPlace | undefined {
  const [since, assignmentId, personId] = readCursor(cursor, 3) ?? []
  if (since === undefined) return undefined
  return { since: momentOf(since), assignmentId: assignmentId!, personId: personId! }
}

/** The sort values of such a row. */
export function placeOf(row: { since: Date; assignment: { id: string }; person: { id: string } }): string[] {
  return [row.since.toISOString(), row.assignment.id, row.person.id]
}

/** Cuts `limit + 1` rows into a page: the row too many only says that there is a next one. */
export function toPage<T>(rows: readonly T[], limit: number, cursorOf: (last: T) => string[]): Page<T> {
  const items = rows.slice(0, limit)
  const next = rows.length > limit ? Buffer.from(JSON.stringify(cursorOf(items.at(-1)!))).toString('base64url') : null
  return { items, next }
}

/** A search text as a pattern for `ilike`: found anywhere, its own wildcards taken as they stand. */
export function likePattern(search: string): string {
  return `%${search
    .trim()
    .replaceAll('\u0000', '')
    .replace(/[\\%_]/g, '\\$&')}%`
}
