import { EXPORT_FIELDS, RECONCILED_CLASSES, RECONCILED_REASONS } from '@bathyscribe/core/reconciliation'
import { z } from 'zod'
import { Points } from './assignments.js'
import { AssignmentRef, Decimal, line, Moment, PersonRef, ToolRef } from './common.js'

export { RECONCILED_CLASSES, RECONCILED_REASONS } from '@bathyscribe/core/reconciliation'

export const ExportReading = z.partialRecord(z.enum(EXPORT_FIELDS), line(120))

/** A tool's export, and how it is to be read. */
export const ReconcileQuestion = z.strictObject({
  fileName: line(200).min(1).describe('names the file as evidence'),
  table: z.string().min(1).max(4_000_000).describe('the export as CSV or pasted cells; the first line holds the heads'),
  reading: ExportReading.optional().describe('which head holds what; guessed, or as it was confirmed, unless given'),
  maximum: Points.nullable()
    .optional()
    .describe('what scores are out of where no column says; the column’s points unless given'),
  confirm: z.boolean().default(false).describe('remembers this reading for exports of this tool with the same heads'),
})
export const ReconcileTake = ReconcileQuestion.extend({
  lines: z.array(z.int().min(1)).min(1).max(2000).describe('numbers of lines whose value is taken over'),
})

export const ReconciledRow = z.object({
  line: z.int().nullable().describe('null: the export does not name the person'),
  person: PersonRef.nullable(),
  called: z.string().describe('who it is in the file’s own words'),
  matchedBy: z.enum(['identifier', 'email', 'name']).nullable(),
  doubtful: z.boolean().describe('only the name says who it is'),
  class: z.enum(RECONCILED_CLASSES),
  ours: Decimal.nullable(),
  theirs: z.string().nullable(),
  theirPoints: Decimal.nullable().describe('theirs in points of the column'),
  reason: z.enum(RECONCILED_REASONS).nullable(),
  statement: z.string().describe('the reason as a sentence'),
  certainty: z
    .enum(['seen', 'likely'])
    .nullable()
    .describe('seen: trail or wire log show it; likely: nothing else is left; null: no reason is named'),
  at: Moment.nullable(),
})
export type ReconciledRow = z.infer<typeof ReconciledRow>

export const Reconciliation = z.object({
  column: AssignmentRef.extend({ points: Decimal }),
  tool: ToolRef,
  fileName: z.string(),
  sha256: z.string(),
  heads: z.array(z.string()),
  reading: ExportReading,
  confirmed: z.boolean().describe('whether the reading was confirmed before'),
  maximum: Decimal.nullable(),
  counts: z.record(z.enum(RECONCILED_CLASSES), z.int()),
  rows: z.array(ReconciledRow),
  taken: z.int(),
})
export type Reconciliation = z.infer<typeof Reconciliation>
