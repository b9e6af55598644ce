import { Refusal, type GradeAct } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import { by, type Actor, type Context } from '../context.js'

/** An act of a person on one result; `evidence` says what it was done by, when not by hand. */
export interface HandAct {
  personId: string
  act: GradeAct
  evidence?: string
}

const AUDIT = { override: 'set points', lift: 'lift points', exempt: 'exempt', count: 'count again' } as const

/**
 * The instructor's own word on a result: points that stay until they are lifted, or that it is not counted at all. What tools send later enters the trail, but does not move it.
 * @throws Refusal for anybody but learners, and for lifting what is not set
 */
export async function gradeByHand(
  context: Context,
  actor: Actor,
  column: AssignmentRecord,
  personRef: string,
  act: GradeAct,
): Promise<void> {
  const { person, enrolment } = await context.records.people.memberByRef(column.courseId, personRef)
  if (!isScored(enrolment.role)) throw new Refusal('result.person_not_scored', person.fullName)
  await gradeMany(context, actor, column, [{ personId: person.id, act }])
}

/** The same for many results of one column, all or none. */
export async function gradeMany(
  context: Context,
  actor: Actor,
  column: AssignmentRecord,
  acts: readonly HandAct[],
): Promise<void> {
  const at = context.clock.now()
  await context.records.transaction(async (records) => {
    const locked = await records.assignments.lock(column.id)
    if (locked.state === 'merged') throw new Refusal('column.not_mergeable', locked.title)
    for (const { personId, act, evidence } of acts) {
      if (act.act === 'lift' && !(await records.scores.standing(column.id, personId))?.overridden)
        throw new Refusal('result.not_overridden')
      await records.scores.actByHand({
        assignmentId: column.id,
        personId,
        at,
        byPersonId: actor.id,
        operation: act.act,
        points: act.act === 'override' ? act.points : null,
        comment: act.act === 'override' && act.comment ? act.comment : null,
        outOf: locked.points,
        evidence: evidence ?? null,
      })
    }
    await records.audit.add({
      at,
      ...by(actor),
      action: acts.length === 1 ? AUDIT[acts[0]!.act.act] : `set ${acts.length} results`,
      subject: `column ${column.slug}`,
      courseId: column.courseId,
      after: acts.length === 1 ? { person: acts[0]!.personId, ...acts[0]!.act } : { results: acts.length },
    })
  })
  for (const { personId } of acts.slice(0, 200))
    context.changes.publish({ kind: 'score', courseId: column.courseId, assignmentId: column.id, personId })
}
