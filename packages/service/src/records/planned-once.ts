import { createHash } from 'node:crypto'
import pg from 'pg'

const MARK = '/* planned once */ '

/**
 * Marks a statement that is asked often and whose best plan is the same whatever it is asked for: each connection plans it a few times and keeps the plan. Planning costs more than
 * running where a statement names many tables and finds its rows by their keys.
 *
 * Not for one with conditions that may be left out (`$1 is null or …`), nor for one that reads on until a limit is reached among rows that it may have to skip: the plan that is kept
 * knows neither. Where a list may hold one or many, see `oneOrAny`.
 */
export function plannedOnce(sql: string): string {
  return MARK + sql
}

/** One row is looked for by its key, several by a list of which the plan that is kept knows no length. `$1` is `ids`. */
export const oneOrAny = (all: readonly string[]): { which: string; ids: unknown } =>
  all.length === 1 ? { which: '= $1', ids: all[0] } : { which: '= any($1)', ids: all }

const OPTIONAL = /\$\d+(?:::\w+(?:\[\])?)? is null or/i

/** Marked statements by their names; as many as there are in the sources. */
const names = new Map<string, string>()

/** @returns a name of its own for each text, so that two statements never pass for one (PREPARE: names are those of a connection); undefined for a text that is not marked */
function nameOf(text: unknown): string | undefined {
  if (typeof text !== 'string' || !text.startsWith(MARK)) return undefined
  const known = names.get(text)
  if (known !== undefined) return known
  if (OPTIONAL.test(text)) throw new Error('A statement with conditions that may be left out is planned each time.')
  const name = createHash('sha256').update(text).digest('base64url').slice(0, 22)
  names.set(text, name)
  return name
}

/** A connection that has marked statements prepared by the server, and asks all others as they are. */
export class PlanningClient extends pg.Client {
  constructor(config?: string | pg.ClientConfig) {
    super(config)
    const query = this.query.bind(this) as (...args: unknown[]) => unknown
    this.query = ((text: unknown, ...rest: unknown[]) => {
      const name = nameOf(text)
      return name === undefined ? query(text, ...rest) : query({ name, text }, ...rest)
    }) as typeof this.query
  }
}
