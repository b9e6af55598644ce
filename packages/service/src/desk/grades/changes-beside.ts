import type { ColumnChange } from '@bathyscribe/contract'
import type { Records } from '../../records/index.js'
import { serialOf, type Page } from '../../records/paging.js'

/** Changes of columns that are told beside one page. */
const MOST_CHANGES = 100

/** Changes of whole columns, in the time of the entries of one page. */
export async function changesBeside(
  records: Records,
  { items, next }: Page<{ id: string }>,
  asked: { courseId: string; columnId?: string | undefined; cursor: string | undefined },
): Promise<ColumnChange[]> {
  const rows = await records.scoreHistory.columnChanges(asked.courseId, {
    columnId: asked.columnId,
    from: next === null ? null : (items.at(-1)?.id ?? null),
    until: asked.cursor === undefined ? null : (serialOf(asked.cursor) ?? null),
    limit: MOST_CHANGES,
  })
  return rows.map((row) => ({ ...row, at: row.at.toISOString() }))
}
