import { found, type Found } from '@bathyscribe/core/checks'
import type { Context } from '../../context.js'
import { recompute } from '../../assignments/recompute.js'
import type { Run } from './run.js'

/** Takes what the sounding left out of everybody's numbers: entries stay in the trail, marked, and what stood before stands again. */
export async function soundCleanup({ context, sounding, assignment, learner }: Run): Promise<Found[]> {
  if (!learner) return [found('not tried', 'nobody_scored', {})]
  const { person } = learner.link
  const count = await setAside(context, {
    assignmentId: assignment.id,
    personId: person.id,
    since: learner.lastScoreId,
    by: sounding.id,
  })
  return [
    count === 0 ? found('set aside', 'nothing', {}) : found('set aside', 'entries', { count, who: person.fullName }),
  ]
}

/** Sets entries of one person aside and derives the result anew. @returns how many entries */
export function setAside(
  context: Pick<Context, 'records'>,
  mark: { assignmentId: string; personId: string; since: string | null; by: string },
): Promise<number> {
  return context.records.transaction(async (records) => {
    await records.assignments.lockAll([mark.assignmentId])
    const count = await records.scores.setAside({ ...mark, soundingId: mark.by })
    if (count > 0) await recompute(records, [mark.assignmentId], mark.personId)
    return count
  })
}
