import { derive, pointsOf } from '@bathyscribe/core/scores'
import type { Records } from '../../records/index.js'
import type { DerivedRow, StepRow } from '../../records/scores.js'

/**
 * Derives every result of columns anew out of their trails, as their points and counting are now. The caller holds their locks. The instructor's own word stays.
 * Two statements, however many there are.
 * @param personId one person’s results only
 */
export async function recompute(
  records: Records,
  columnIds: readonly string[],
  personId: string | null = null,
): Promise<void> {
  if (columnIds.length === 0) return
  const trails = new Map<string, StepRow[]>()
  for (const step of await records.scores.steps(columnIds, personId)) {
    const key = `${step.assignmentId} ${step.personId}`
    const trail = trails.get(key)
    if (trail) trail.push(step)
    else trails.set(key, [step])
  }
  await records.scores.setDerived(columnIds, [...trails.values()].map(derivedRow), personId)
}

function derivedRow(trail: readonly StepRow[]): DerivedRow {
  const last = trail.at(-1)!
  const { counting, columnPoints: points } = last
  const derived = derive(trail, counting)
  // Of two columns that count as one the comment that came last is the one to read.
  const commented = trail.filter((step) => step.comment !== null).sort((a, b) => (BigInt(a.id) < BigInt(b.id) ? -1 : 1))
  const submitted = trail.flatMap((step) => step.submittedAt ?? [])
  return {
    assignmentId: last.assignmentId,
    personId: last.personId,
    ...derived,
    points: derived.fraction === null ? null : pointsOf(derived.fraction, points),
    outOf: points,
    counting,
    at: trail.find((step) => step.id === derived.scoreId)?.at ?? null,
    lastId: last.id,
    lastOperation: last.operation,
    activity: last.activity,
    grading: last.grading,
    heardAt: last.at,
    sentAt: last.sentAt,
    comment: commented.at(-1)?.comment ?? null,
    submittedAt: submitted.length > 0 ? new Date(Math.max(...submitted.map((one) => one.getTime()))) : null,
  }
}
