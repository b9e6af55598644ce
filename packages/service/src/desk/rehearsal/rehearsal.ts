import { Refusal, type CallAnswer } from '@bathyscribe/contract'
import type { Actor, Context } from '../context.js'
import { by } from '../context.js'
import { gradeByHand } from '../grades/grade-by-hand.js'
import { setAside } from '../soundings/stages/cleanup.js'

/** What the course's test learner has opened, and what came of it. @throws Refusal without a test learner */
export async function showRehearsal(context: Context, courseId: string): Promise<CallAnswer<'showRehearsal'>> {
  const testLearner = await testLearnerOf(context, courseId)
  const rows = await context.records.rehearsals.list(courseId, testLearner.id)
  return {
    testLearner: { id: testLearner.id, fullName: testLearner.fullName },
    traces: rows.reduce((sum, row) => sum + row.traces, 0),
    items: rows.map(({ traces: _, overridden: __, lastAt, ...row }) => ({
      ...row,
      lastAt: lastAt?.toISOString() ?? null,
    })),
  }
}

/** Takes away what the test learner left in a course: visits go, scores stay in the trail but are not used. Audited. @throws Refusal */
export async function clearTestLearner(
  context: Context,
  actor: Actor,
  courseId: string,
): Promise<{ visits: number; scores: number }> {
  const testLearner = await testLearnerOf(context, courseId)
  const rows = await context.records.rehearsals.list(courseId, testLearner.id)
  let scores = 0
  for (const { assignment, traces, overridden } of rows) {
    if (traces === 0) continue
    if (overridden) {
      const column = await context.records.assignments.byRef(assignment.id)
      await gradeByHand(context, actor, column, testLearner.id, { act: 'lift' })
      scores++
    }
    const mark = { assignmentId: assignment.id, personId: testLearner.id, since: null, by: 'reset' }
    scores += await setAside(context, mark)
  }
  const visits = await context.records.transaction(async (records) => {
    const forgotten = await records.rehearsals.forgetVisits(courseId, testLearner.id)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'rehearsal.reset',
      subject: `course ${courseId}`,
      courseId,
      after: { visits: forgotten, scores },
    })
    return forgotten
  })
  context.changes.publish({ kind: 'score', courseId })
  return { visits, scores }
}

async function testLearnerOf({ records }: Context, courseId: string) {
  const testLearner = await records.people.firstOfRole(courseId, 'test_learner')
  if (!testLearner) throw new Refusal('launch.no_test_learner')
  return testLearner
}
