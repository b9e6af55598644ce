import { Refusal, type EnrolmentChange, type NewEnrolment } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { EnrolmentRecord } from '../../records/entities/people.js'
import type { MemberRow } from '../../records/people.js'
import { by, type Actor, type Context } from '../context.js'

/** Puts a person into a course, or back into it. A course has one test learner: the database decides. */
export async function enrol(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: z.output<typeof NewEnrolment>,
): Promise<MemberRow> {
  const person = await context.records.people.known(wanted.person)
  if ((wanted.role === 'test_learner') !== person.isTestLearner)
    throw new Refusal('access.denied', 'only a course’s own test learner has that role, and no other')
  const enrolment: EnrolmentRecord = {
    courseId,
    personId: person.id,
    role: wanted.role,
    state: 'active',
    since: context.clock.now(),
    droppedAt: null,
  }
  await context.records.transaction(async (records) => {
    const before = await records.people.enrolment(courseId, person.id)
    await records.people.enrol(enrolment)
    await records.audit.add({
      at: enrolment.since,
      ...by(actor),
      action: 'enrol',
      subject: `person ${person.username}`,
      courseId,
      before: before && { role: before.role, state: before.state },
      after: { role: wanted.role },
    })
  })
  context.changes.publish({ kind: 'people', courseId, assignmentId: null, personId: person.id })
  return { person, enrolment }
}

export async function changeEnrolment(
  context: Context,
  actor: Actor,
  courseId: string,
  ref: string,
  wanted: z.output<typeof EnrolmentChange>,
): Promise<MemberRow> {
  const now = context.clock.now()
  const person = await context.records.people.known(ref)
  if (wanted.role !== undefined && (wanted.role === 'test_learner') !== person.isTestLearner)
    throw new Refusal('access.denied', 'only a course’s own test learner has that role, and no other')
  const member = await context.records.transaction(async (records) => {
    const before = await records.people.enrolment(courseId, person.id)
    if (!before) throw new Refusal('enrolment.not_found', person.username)
    const change: Partial<EnrolmentRecord> = {
      ...(wanted.role !== undefined && { role: wanted.role }),
      ...(wanted.state !== undefined && {
        state: wanted.state,
        droppedAt: wanted.state === 'dropped' ? (before.droppedAt ?? now) : null,
      }),
    }
    await records.people.setEnrolment(courseId, person.id, change)
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'change enrolment',
      subject: `person ${person.username}`,
      courseId,
      before: { role: before.role, state: before.state },
      after: change,
    })
    return { person, enrolment: { ...before, ...change } }
  })
  context.changes.publish({ kind: 'people', courseId, assignmentId: null, personId: person.id })
  return member
}
