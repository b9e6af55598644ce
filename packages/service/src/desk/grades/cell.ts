import { UNKNOWN_CELL, type Cell } from '@bathyscribe/contract'
import { shown, stateOf } from '@bathyscribe/core/scores'
import type { CellRow } from '../../records/scores.js'

/** How a column shows what stands in it. */
export interface Showing {
  decimals: number
  dueAt: Date | null
}

/** What one cell says. */
export function toCell(row: CellRow | undefined, { decimals, dueAt }: Showing): Cell {
  if (!row) return UNKNOWN_CELL
  const { state, at } = stateOf(row)
  const handedInAt =
    row.submittedAt ?? (row.hasResult ? row.resultAt : row.activity === 'Submitted' ? row.heardAt : null)
  return {
    state,
    points: row.points,
    shown: row.points === null ? null : shown(row.points, decimals),
    sent: row.sent,
    sentOutOf: row.sentOutOf,
    at: at?.toISOString() ?? null,
    late: dueAt !== null && handedInAt !== null && !row.overridden && handedInAt > dueAt,
    overridden: row.overridden,
    exempt: row.exempt,
    attempts: row.attempts,
    comment: row.comment,
  }
}
