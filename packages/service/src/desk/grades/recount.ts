import type { RecountPreview, RecountQuestion } from '@bathyscribe/contract'
import { derive, pointsOf, sameNumber, type Counting, type TrailStep } from '@bathyscribe/core/scores'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import type { Context } from '../context.js'

/** What results would be under a column with these points and this way of counting, `from` its trail or that of several. */
export async function foresee(
  records: Records,
  from: readonly string[],
  column: { id: string; points: string; counting: Counting },
): Promise<RecountPreview> {
  const trails = new Map<string, TrailStep[]>()
  // They come in the order of time, whichever of the columns they were sent to.
  for (const { personId, ...step } of await records.scores.steps(from))
    trails.set(personId, [...(trails.get(personId) ?? []), step])
  const standing = new Map((await records.columns.standings(column.id)).map((one) => [one.personId, one]))
  const people = new Map((await records.people.refs([...trails.keys()])).map((one) => [one.id, one]))
  const changes: RecountPreview['changes'] = []
  let stays = 0
  let overridden = 0
  for (const [personId, steps] of trails) {
    const now = standing.get(personId)
    if (now?.overridden || now?.exempt) {
      overridden += 1
      continue
    }
    const { fraction } = derive(steps, column.counting)
    const then = fraction === null ? null : pointsOf(fraction, column.points)
    const before = now?.points ?? null
    const person = people.get(personId)
    if (!person || (before === null ? then === null : then !== null && sameNumber(before, then))) stays += 1
    else changes.push({ person, now: before, then })
  }
  changes.sort((a, b) => a.person.fullName.localeCompare(b.person.fullName))
  return { changes, stays, overridden }
}

/** Says which results would change, before anything is done. */
export function previewRecount(
  { records }: Context,
  column: AssignmentRecord,
  wanted: z.output<typeof RecountQuestion>,
): Promise<RecountPreview> {
  return foresee(records, [column.id], {
    id: column.id,
    points: wanted.points ?? column.points,
    counting: wanted.counting ?? column.counting,
  })
}
