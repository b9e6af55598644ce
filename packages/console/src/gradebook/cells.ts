import { UNKNOWN_CELL, type Cell, type Gradebook, type GradeColumn } from '@bathyscribe/contract'

export type Row = Gradebook['rows'][number]

/** The cell of a person in a column; nothing is known where none came. */
export function cellOf(row: Row, column: string): Cell {
  return row.cells[column] ?? UNKNOWN_CELL
}

const WORDS: Record<Cell['state'], string> = {
  never_opened: 'never opened',
  opened: 'opened, no score',
  started: 'started',
  submitted: 'handed in',
  waiting: 'waits to be graded',
  graded: '',
  commented: 'graded, with comment',
  failed: 'failed at the tool',
  cleared: 'cleared',
  refused: 'score refused',
  exempt: 'exempt',
}
/** What stands in a narrow cell where there are no points. */
export const SHORT: Record<Cell['state'], string> = {
  ...WORDS,
  never_opened: '·',
  opened: 'opened',
  waiting: 'waiting',
  failed: 'failed',
  cleared: '–',
  refused: '',
}

const TOOL_WORDS: Record<string, string> = {
  Initialized: 'opened',
  Started: 'started',
  InProgress: 'at work',
  Submitted: 'handed in',
  Completed: 'done',
  NotReady: 'nothing to grade yet',
  Pending: 'the tool will grade it',
  PendingManual: 'waits to be graded by a person',
  Failed: 'grading failed at the tool',
  FullyGraded: 'graded',
}
/** What a tool said of work on its way, in people's words (AGS 2.0 sections 3.4.6 and 3.4.7). */
export function toolWords(activity: string | null, grading: string | null): string {
  return [activity, grading].flatMap((one) => (one === null ? [] : [TOOL_WORDS[one] ?? one])).join(', ')
}

/** Everything that a cell says, as words. */
export function wordsOf(cell: Cell): string {
  return [
    WORDS[cell.state],
    cell.overridden ? 'set by the instructor' : '',
    cell.late ? 'late' : '',
    cell.attempts > 1 ? `${cell.attempts} scores` : '',
  ]
    .filter(Boolean)
    .join(', ')
}

export const FILTERS = {
  all: 'all learners',
  scored: 'with a score',
  opened: 'opened, no score',
  never_opened: 'never opened',
  waiting: 'waiting to be graded',
  late: 'late',
  refused: 'score refused',
  overridden: 'set by hand',
  exempt: 'exempt',
} as const
export type Filter = keyof typeof FILTERS

const FITS: Record<Exclude<Filter, 'all'>, (cell: Cell) => boolean> = {
  scored: (cell) => cell.points !== null,
  opened: (cell) => cell.points === null && (cell.state === 'opened' || cell.state === 'started'),
  never_opened: (cell) => cell.state === 'never_opened',
  waiting: (cell) => cell.state === 'waiting' || cell.state === 'submitted',
  late: (cell) => cell.late,
  refused: (cell) => cell.state === 'refused',
  overridden: (cell) => cell.overridden,
  exempt: (cell) => cell.exempt,
}

/** Whether a row has a cell that a filter asks for. */
export function fits(row: Row, columns: readonly GradeColumn[], filter: Filter): boolean {
  if (filter === 'all') return true
  const test = FITS[filter]
  return columns.some((column) => test(cellOf(row, column.id)))
}

/** What a column's tool is doing about scores, in a word. */
export function sending(column: GradeColumn): { word: string; tone: 'good' | 'look' | 'bad' | 'quiet' } {
  if (column.refused > 0) return { word: `${column.refused} refused`, tone: 'bad' }
  if (column.waiting > 0) return { word: `${column.waiting} waiting`, tone: 'look' }
  if (column.lastScoreAt === null) return { word: 'nothing heard', tone: 'quiet' }
  return { word: `${column.scored} scored`, tone: 'good' }
}
