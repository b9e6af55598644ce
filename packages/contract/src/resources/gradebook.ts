import { writeTable } from '@bathyscribe/core/formats'
import { COUNTING, TWIN_REASONS, WORK_STATES } from '@bathyscribe/core/scores'
import { z } from 'zod'
import { Points } from './assignments.js'
import {
  AssignmentRef,
  CourseRef,
  Decimal,
  Id,
  line,
  Moment,
  PageQuery,
  PersonRef,
  prose,
  SerialId,
  ToolRef,
} from './common.js'

export { COUNTING, WORK_STATES, type Counting, type WorkState } from '@bathyscribe/core/scores'

/** One person in one column. Cells that nothing is known of are left out. */
export const Cell = z.object({
  state: z.enum(WORK_STATES),
  points: Decimal.nullable().describe('exactly'),
  shown: z.string().nullable().describe('rounded half up for display only'),
  sent: z.string().nullable().describe('as the tool sent it'),
  sentOutOf: z.string().nullable(),
  at: Moment.nullable(),
  late: z.boolean().describe('handed in after it was due'),
  overridden: z.boolean().describe('the instructor’s own points apply'),
  exempt: z.boolean(),
  attempts: z.int().describe('scores that came'),
  comment: z.string().nullable(),
})
export type Cell = z.infer<typeof Cell>

/** A cell of which nothing is known. */
export const UNKNOWN_CELL: Cell = {
  state: 'never_opened',
  points: null,
  shown: null,
  sent: null,
  sentOutOf: null,
  at: null,
  late: false,
  overridden: false,
  exempt: false,
  attempts: 0,
  comment: null,
}

export const COLUMN_STATES = ['draft', 'published', 'column'] as const
export const GradeColumn = AssignmentRef.extend({
  points: Decimal,
  category: z.object({ id: Id, name: z.string() }).nullable(),
  counted: z.boolean(),
  counting: z.enum(COUNTING),
  state: z.enum(COLUMN_STATES).describe('`column`: made by the tool, no assignment of ours'),
  released: z.boolean().describe('whether learners see their results'),
  reviewable: z.boolean().describe('whether the tool shows single submissions'),
  dueAt: Moment.nullable(),
  tool: ToolRef,
  lastScoreAt: Moment.nullable(),
  scored: z.int(),
  waiting: z.int().describe('learners whose work waits for a person'),
  refused: z.int().describe('scores refused since the last one that was taken'),
  merged: z.array(AssignmentRef).describe('columns of the tool merged into it'),
})
export type GradeColumn = z.infer<typeof GradeColumn>

export const Gradebook = z.object({
  course: CourseRef,
  settings: z.object({
    shownDecimals: z.int(),
    missingCounts: z.boolean(),
    weights: z.array(z.object({ id: Id, name: z.string(), weight: Decimal.nullable() })),
  }),
  columns: z.array(GradeColumn),
  learners: z.int().describe('in the course; more than there are rows when only the first were asked for'),
  rows: z.array(
    z.object({
      person: PersonRef,
      state: z.enum(['active', 'dropped']),
      isTestLearner: z.boolean(),
      cells: z.record(Id, Cell).describe('by column; a column that is not there was never opened'),
      total: Decimal.nullable(),
      outOf: Decimal,
      shownTotal: z.string().nullable(),
    }),
  ),
})
export type Gradebook = z.infer<typeof Gradebook>

/** A gradebook as CSV (RFC 4180) with exact points, nothing for what has none. @param rows those to write; all unless given */
export function gradebookCsv(book: Gradebook, rows: readonly Gradebook['rows'][number][] = book.rows): string {
  return writeTable(
    ['name', 'user name', ...book.columns.map(({ title, points }) => `${title} (${points})`), 'total', 'total out of'],
    rows.map((row) => [
      row.person.fullName,
      row.person.username,
      ...book.columns.map((column) => row.cells[column.id]?.points ?? ''),
      row.total ?? '',
      row.outOf,
    ]),
  )
}

export const GradebookSettings = z.strictObject({
  shownDecimals: z.int().min(0).max(4).optional(),
  missingCounts: z.boolean().optional().describe('whether what has no score counts as nothing earned'),
  weights: z
    .record(line(80), z.union([Points, z.null()]))
    .optional()
    .describe('percent by category; null takes it away. Without any, points are added up'),
})

/** Other points, or another way of counting, of a column that had scores: every result of it was computed anew. */
export const ColumnChange = z.object({
  id: SerialId,
  at: Moment,
  column: AssignmentRef,
  pointsBefore: Decimal,
  pointsAfter: Decimal,
  countingBefore: z.enum(COUNTING),
  countingAfter: z.enum(COUNTING),
  results: z.int().describe('results that stood then'),
  by: z.string().nullable().describe('null where it was the tool, or is not known'),
})
export type ColumnChange = z.infer<typeof ColumnChange>
/** What changed of a column: `of 10 → of 100, latest → best`. */
export function columnChangeInWords(one: ColumnChange): string {
  return [
    ...(one.pointsBefore === one.pointsAfter ? [] : [`of ${one.pointsBefore} → of ${one.pointsAfter} points`]),
    ...(one.countingBefore === one.countingAfter ? [] : [`${one.countingBefore} → ${one.countingAfter} counts`]),
  ].join(', ')
}

export const SCORE_ACTS = ['replace', 'delete', 'progress', 'override', 'lift', 'exempt', 'count'] as const
export const TrailEntry = z.object({
  id: SerialId,
  at: Moment,
  operation: z.enum(SCORE_ACTS).describe('the last four are the instructor’s own'),
  outcome: z.enum(['accepted', 'refused']),
  code: z.string().nullable().describe('why it was refused'),
  sent: z.string().nullable(),
  sentOutOf: z.string().nullable(),
  sentAt: Moment.nullable().describe('when the tool says that it was made'),
  activity: z.string().nullable(),
  grading: z.string().nullable(),
  points: Decimal.nullable(),
  outOf: Decimal,
  pointsBefore: Decimal.nullable().describe('what stood before it'),
  comment: z.string().nullable(),
  wireEntryId: SerialId.nullable(),
  counts: z.boolean().describe('the result is based on this entry'),
  by: PersonRef.nullable().describe('who acted, when it was not a tool'),
  evidence: z.string().nullable(),
  mergedFrom: z.string().nullable().describe('title of the tool’s own column that it was sent to'),
  setAsideBy: z
    .string()
    .nullable()
    .describe('the sounding that left it, or `reset` when the rehearsal was cleared; it is not used'),
  handedIn: z.object({ kind: z.enum(['text', 'url']), value: z.string() }).nullable(),
})
export type TrailEntry = z.infer<typeof TrailEntry>

export const Trail = z.object({
  person: PersonRef,
  assignment: AssignmentRef,
  course: CourseRef,
  points: Decimal.describe('of the column'),
  counting: z.enum(COUNTING),
  reviewable: z.boolean(),
  cell: Cell,
  explained: z.string().describe('how the number came to be'),
  items: z.array(TrailEntry),
  changes: z.array(ColumnChange).describe('of the column, in the time of these entries'),
  next: z.string().nullable(),
})
export type Trail = z.infer<typeof Trail>

/** The instructor's own word on one result. */
export const GradeAct = z.discriminatedUnion('act', [
  z.strictObject({
    act: z.literal('override'),
    points: Points.nullable().describe('null: no points, whatever the tool says'),
    comment: prose(4000).default(''),
  }),
  z.strictObject({ act: z.literal('lift') }),
  z.strictObject({ act: z.literal('exempt') }),
  z.strictObject({ act: z.literal('count') }),
])
export type GradeAct = z.infer<typeof GradeAct>

export const ScoreQuery = PageQuery.extend({
  search: z.string().max(100).optional().describe('part of a person’s name or of a column’s title'),
  person: z.string().max(100).optional(),
  assignment: z.string().max(200).optional(),
  outcome: z.enum(['accepted', 'refused']).optional(),
  by: z.enum(['tool', 'person']).optional(),
})
/** One entry of the history of a gradebook. */
export const ScoreEntry = TrailEntry.omit({ counts: true, mergedFrom: true, handedIn: true }).extend({
  person: PersonRef,
  column: AssignmentRef,
  tool: ToolRef,
})
export type ScoreEntry = z.infer<typeof ScoreEntry>

/** Scores and changes of whole columns (those that have `results`) as one list, newest first. */
export function historyLines(page: { items: ScoreEntry[]; changes: ColumnChange[] }): (ScoreEntry | ColumnChange)[] {
  return [...page.items, ...page.changes].sort((a, b) => Date.parse(b.at) - Date.parse(a.at))
}

/** Many scores of one tool in a row, seen as the one thing that happened. */
export const ScoreBurst = z.object({
  tool: ToolRef,
  from: Moment,
  to: Moment,
  scores: z.int(),
  changed: z.int().describe('results that are other than before'),
  columns: z.array(AssignmentRef),
  firstId: SerialId,
  lastId: SerialId,
})
export type ScoreBurst = z.infer<typeof ScoreBurst>

export const UNSCORED_REASONS = [
  'dropped',
  'not_for_them',
  'refused',
  'never_launched',
  'no_score_yet',
  'waiting',
] as const
export const Unscored = z.object({
  person: PersonRef,
  why: z.enum(UNSCORED_REASONS),
  statement: z.string(),
  at: Moment.nullable(),
})
export type Unscored = z.infer<typeof Unscored>

/** A column that a tool made beside one of ours for the same work. */
export const Twin = z.object({
  made: AssignmentRef.extend({ points: Decimal, scored: z.int() }),
  ours: AssignmentRef.extend({ points: Decimal, scored: z.int() }),
  tool: ToolRef,
  reasons: z.array(z.enum(TWIN_REASONS)),
})
export type Twin = z.infer<typeof Twin>

export const Merge = z.strictObject({
  into: z.string().max(200).describe('identifier or COURSE/short-name of one of ours'),
})
export const ResultChange = z.object({
  person: PersonRef,
  now: Decimal.nullable(),
  then: Decimal.nullable(),
})
export const MergePreview = z.object({
  made: AssignmentRef,
  ours: AssignmentRef,
  kept: z.int().describe('entries of the trail; none is lost'),
  changes: z.array(ResultChange).describe('results that will be other than now'),
  stays: z.int().describe('results that stay as they are'),
})
export type MergePreview = z.infer<typeof MergePreview>

export const RecountQuestion = z.strictObject({ points: Points.optional(), counting: z.enum(COUNTING).optional() })
export const RecountPreview = z.object({ changes: z.array(ResultChange), stays: z.int(), overridden: z.int() })
export type RecountPreview = z.infer<typeof RecountPreview>
