import { Problem } from '../result/index.js'
import Papa from 'papaparse'

/** Why a text cannot be read as a table at all. */
export type TableProblem = Problem<
  'table.empty' | 'table.too_large' | 'table.too_many_rows' | 'table.no_head' | 'table.column_twice' | 'table.quotes'
>

/** A table as read: names of columns as the reader knows them, cells by those names. */
export interface Table {
  columns: string[]
  /** Heads that the reader does not know; their cells are left out. */
  unknown: string[]
  rows: { line: number; cells: Record<string, string> }[]
}

export const TABLE_MAX_CHARACTERS = 480_000
export const TABLE_MAX_ROWS = 2_000

/**
 * Reads CSV (RFC 4180) or cells pasted from a spreadsheet: comma, semicolon or tab, with or without a byte order mark, quotes where needed. The first line is the head.
 * @param limits of what is read, those of tables that people type unless given
 * @param nameOf a column's name for a head as typed; undefined when there is no such column
 */
export function readTable(
  text: string,
  nameOf: (head: string) => string | undefined,
  limits: { characters: number; rows: number } = { characters: TABLE_MAX_CHARACTERS, rows: TABLE_MAX_ROWS },
): Table | TableProblem {
  if (text.length > limits.characters) return new Problem('table.too_large', `${text.length} characters`)
  const plain = text.replace(/^\ufeff/, '').replaceAll('\u0000', '')
  // Spreadsheets say their separator in a first line of its own.
  const body = plain.replace(/^sep=.\r?\n/i, '')
  if (body.trim() === '') return new Problem('table.empty', '')
  const delimiter = separatorOf(body)
  const { data, errors } = Papa.parse<string[]>(body, { delimiter, skipEmptyLines: false })
  const quotes = errors.find((one) => one.type === 'Quotes')
  if (quotes) return new Problem('table.quotes', `at line ${(quotes.row ?? 0) + 1}`)
  const before = body.length < plain.length ? 2 : 1
  const filled = data.flatMap((raw, i) => {
    const cells = raw.map((one) => one.trim())
    return cells.some((one) => one !== '') ? [{ line: i + before, cells }] : []
  })
  const [head, ...rows] = filled
  if (!head) return new Problem('table.empty', '')
  if (rows.length > limits.rows) return new Problem('table.too_many_rows', `${rows.length}, at most ${limits.rows}`)
  const names = head.cells.map((one) => (one === '' ? undefined : nameOf(one)))
  const columns = names.filter((one) => one !== undefined)
  if (columns.length === 0) return new Problem('table.no_head', head.cells.join(', ').slice(0, 120))
  const twice = columns.find((one, i) => columns.indexOf(one) !== i)
  if (twice !== undefined) return new Problem('table.column_twice', twice)
  return {
    columns,
    unknown: head.cells.filter((one, i) => one !== '' && names[i] === undefined),
    rows: rows.map(({ line, cells }) => ({
      line,
      cells: Object.fromEntries(names.flatMap((name, i) => (name === undefined ? [] : [[name, cells[i] ?? '']]))),
    })),
  }
}

/** The separator that the head uses most; what stands in quotes does not count. */
function separatorOf(text: string): string {
  const head = (/^[^\r\n]*/.exec(text)?.[0] ?? '').replace(/"[^"]*"/g, '')
  const count = (mark: string) => head.split(mark).length
  return ['\t', ';', ','].reduce((best, one) => (count(one) > count(best) ? one : best), ',')
}

/** Whether a spreadsheet would run a cell instead of showing it. */
export function isFormula(cell: string): boolean {
  return /^[=@]|^[+-](?![\d.,]+$)|^[\t\r]/.test(cell)
}

/** Writes CSV that spreadsheets show and never run: a cell that begins like a formula gets an apostrophe (the trade's habit). */
export function writeTable(heads: readonly string[], rows: readonly (readonly string[])[]): string {
  const safe = (cell: string) => (isFormula(cell) ? `'${cell}` : cell)
  return Papa.unparse({ fields: heads.map(safe), data: rows.map((row) => row.map(safe)) }, { newline: '\r\n' }) + '\r\n'
}
