import { z } from 'zod'
import { AssignmentRef, CourseRef, Decimal, Id, Moment, PersonRef, SerialId, ToolRef } from './common.js'

export const CELL_STATES = ['never_opened', 'opened', 'graded', 'cleared', 'refused'] as const

export const Cell = z.object({
  state: z.enum(CELL_STATES),
  points: Decimal.nullable(),
  shown: z.string().nullable().describe('rounded half up for display only'),
  sent: z.string().nullable().describe('the fraction as the tool sent it'),
  at: Moment.nullable(),
})
export type Cell = z.infer<typeof Cell>

export const Gradebook = z.object({
  course: CourseRef,
  columns: z.array(
    AssignmentRef.extend({
      points: Decimal,
      category: z.string().nullable(),
      state: z.enum(['draft', 'published']),
      tool: ToolRef,
      lastScoreAt: Moment.nullable(),
      scored: z.int(),
    }),
  ),
  rows: z.array(
    z.object({
      person: PersonRef,
      state: z.enum(['active', 'dropped']),
      isTestLearner: z.boolean(),
      cells: z.record(Id, Cell).describe('by assignment'),
      total: Decimal,
      shownTotal: z.string(),
    }),
  ),
  outOf: Decimal,
})
export type Gradebook = z.infer<typeof Gradebook>

export const TrailEntry = z.object({
  id: SerialId,
  at: Moment,
  operation: z.enum(['replace', 'delete']),
  outcome: z.enum(['accepted', 'refused']),
  code: z.string().nullable().describe('why it was refused'),
  sent: z.string().nullable(),
  points: Decimal.nullable(),
  outOf: Decimal,
  wireEntryId: SerialId.nullable(),
  counts: z.boolean().describe('the result stands by this entry'),
  resultData: z.object({ kind: z.enum(['text', 'url']), value: z.string() }).nullable(),
})
export type TrailEntry = z.infer<typeof TrailEntry>

export const Trail = z.object({
  person: PersonRef,
  assignment: AssignmentRef,
  course: CourseRef,
  points: Decimal.describe('of the assignment'),
  cell: Cell,
  explained: z.string().describe('how the number came to be'),
  items: z.array(TrailEntry),
  next: z.string().nullable(),
})
export type Trail = z.infer<typeof Trail>
