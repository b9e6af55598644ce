import { Problem } from '../result/index.js'
import { plainLine } from '../content/item.js'
import { readMomentCell, type CellRead } from '../dates/index.js'
import { readDecimalCell, readFlagCell } from './cells.js'
import { isFormula, readTable, type TableProblem } from './table.js'

/** The columns of the assignment table, each with its other heads and what stands in it. */
export const ASSIGNMENT_COLUMNS = {
  key: {
    also: ['row key', 'id'],
    means: 'names the row for ever: the same key again changes nothing new; made of the title unless given',
  },
  title: { also: ['name', 'assignment'], means: 'the assignment’s title' },
  tool: { also: ['registration'], means: 'short name of the tool' },
  points: { also: ['maximum', 'max'], means: 'such as 10 or 12.5; 0 only beside `in total` no' },
  'in total': { also: ['counted', 'graded'], means: 'yes or no; yes unless given' },
  category: { also: [], means: 'name of one of the course’s categories' },
  unit: { also: ['week'], means: 'title of its unit; created if there is none' },
  opens: { also: ['opens at', 'visible from', 'start'], means: 'such as 2026-12-01 08:00, in the course’s time' },
  due: { also: ['due at', 'deadline', 'due date'], means: 'a date alone means 23:59' },
  closes: { also: ['closes at', 'last day', 'end'], means: 'a date alone means 23:59' },
  attempts: { also: [], means: 'a whole number; empty for unlimited' },
  'opens in': { also: ['target', 'open'], means: 'frame or window; the tool’s own unless given' },
  address: { also: ['url', 'launch url', 'link'], means: 'the content’s own address; the tool’s unless given' },
  instructions: { also: ['text', 'description'], means: 'for learners' },
  groups: { also: ['group'], means: 'names of groups, separated by |; everyone unless given' },
  publish: { also: ['published'], means: 'yes or no; no unless given' },
} as const satisfies Record<string, { also: readonly string[]; means: string }>
export type AssignmentColumn = keyof typeof ASSIGNMENT_COLUMNS

/** One row as asked for. Undefined fields were not in the table, null ones were left empty. */
export interface AssignmentRow {
  line: number
  key: string
  title: string | undefined
  tool: string | undefined
  points: string | null | undefined
  counted: boolean | null | undefined
  category: string | null | undefined
  unit: string | null | undefined
  opensAt: string | null | undefined
  dueAt: string | null | undefined
  closesAt: string | null | undefined
  attempts: number | null | undefined
  documentTarget: 'frame' | 'window' | null | undefined
  launchUrl: string | null | undefined
  instructions: string | undefined
  groups: string[] | undefined
  publish: boolean | null | undefined
  customParameters: Record<string, string>
  problems: { column: string; message: string }[]
}

const CUSTOM = /^custom[ ._:](.+)$/i

function columnOf(head: string): string | undefined {
  const custom = CUSTOM.exec(head.trim())
  if (custom) return `custom.${custom[1]!.trim()}`
  const name = head
    .trim()
    .toLowerCase()
    .replace(/[\s_]+/g, ' ')
  return Object.entries(ASSIGNMENT_COLUMNS).find(
    ([own, { also }]) => own === name || (also as readonly string[]).includes(name),
  )?.[0]
}

/**
 * Reads a table of assignments, every row by itself: what is wrong in one is said beside it. Does NOT know tools, categories or units.
 * @param zone of the course, for moments without one
 */
export function readAssignmentTable(
  text: string,
  zone: string,
): { rows: AssignmentRow[]; unknown: string[]; columns: string[] } | TableProblem {
  const table = readTable(text, columnOf)
  if (table instanceof Problem) return table
  const rows = table.rows.map(({ line, cells }) => readRow(line, cells, zone))
  markTwins(rows)
  return { rows, unknown: table.unknown, columns: table.columns }
}

function readRow(line: number, cells: Readonly<Record<string, string>>, zone: string): AssignmentRow {
  const problems: AssignmentRow['problems'] = []
  for (const [column, cell] of Object.entries(cells))
    if (isFormula(cell)) problems.push({ column, message: `holds a formula (“${cell.slice(0, 30)}”), not a value` })
  const cell = (column: AssignmentColumn) => cells[column]
  function take<T>(column: AssignmentColumn, read: (text: string) => CellRead<T>): T | undefined {
    const given = cell(column)
    if (given === undefined || isFormula(given)) return undefined
    const found = read(given)
    if ('value' in found) return found.value
    problems.push({ column, message: found.problem })
    return undefined
  }
  const line200 = (text: string): CellRead<string | null> => ({ value: plainLine(text) || null })
  const title = take('title', line200) ?? undefined
  if (cell('title') !== undefined && title === undefined && !isFormula(cell('title')!))
    problems.push({ column: 'title', message: 'is empty' })
  const groups = cell('groups')
  return {
    line,
    key: (plainLine(cell('key')) || title || '').toLowerCase().replace(/\s+/g, ' '),
    title,
    tool: take('tool', line200) ?? undefined,
    points: take('points', readDecimalCell),
    counted: take('in total', readFlagCell),
    category: take('category', line200),
    unit: take('unit', line200),
    opensAt: take('opens', (text) => readMomentCell(text, zone, false)),
    dueAt: take('due', (text) => readMomentCell(text, zone, true)),
    closesAt: take('closes', (text) => readMomentCell(text, zone, true)),
    attempts: take('attempts', readAttempts),
    documentTarget: take('opens in', readTarget),
    launchUrl: take('address', (text) => ({ value: text.trim() || null })),
    instructions: cell('instructions'),
    groups:
      groups === undefined
        ? undefined
        : groups
            .split('|')
            .map((one) => plainLine(one))
            .filter(Boolean),
    publish: take('publish', readFlagCell),
    customParameters: Object.fromEntries(
      Object.entries(cells).flatMap(([name, value]) =>
        name.startsWith('custom.') && value !== '' ? [[name.slice(7), value]] : [],
      ),
    ),
    problems,
  }
}

function readAttempts(text: string): CellRead<number | null> {
  const cell = text.trim().toLowerCase()
  if (cell === '' || cell === 'unlimited') return { value: null }
  const n = Number(cell)
  return /^\d{1,3}$/.test(cell) && n > 0
    ? { value: n }
    : { problem: `“${cell.slice(0, 20)}” is no number from 1 to 999` }
}

function readTarget(text: string): CellRead<'frame' | 'window' | null> {
  const cell = text.trim().toLowerCase()
  if (cell === '') return { value: null }
  return cell === 'frame' || cell === 'window'
    ? { value: cell }
    : { problem: `“${cell.slice(0, 20)}” is neither frame nor window` }
}

/** Two rows of one key in one table cannot both be meant. */
function markTwins(rows: readonly AssignmentRow[]): void {
  const seen = new Map<string, AssignmentRow>()
  for (const row of rows) {
    const first = row.key === '' ? undefined : seen.get(row.key)
    if (first)
      row.problems.push({
        column: 'key',
        message: `is the same as in line ${first.line}; give each row a key of its own`,
      })
    else seen.set(row.key, row)
  }
}
