import {
  Refusal,
  type EnrolmentChange,
  type NewEnrolment,
  type NewPerson,
  type PersonChange,
} from '@bathyscribe/contract'
import type { z } from 'zod'
import { violatedKey } from '../records/database.js'
import type { EnrolmentRecord, PersonRecord } from '../records/entities/people.js'
import type { MemberRow } from '../records/people.js'
import { by, type Actor, type Context } from './context.js'
import { hashPassword } from './identity/guarded-password.js'
import { requireStrong } from './identity/password-strength.js'

/** A person's record, not stored yet. */
export async function newPerson(context: Context, wanted: z.output<typeof NewPerson>): Promise<PersonRecord> {
  if (wanted.password !== undefined)
    await requireStrong(wanted.password, [wanted.username, wanted.fullName, wanted.email])
  return {
    id: context.ids.next(),
    username: wanted.username,
    givenName: wanted.givenName,
    familyName: wanted.familyName,
    fullName: wanted.fullName,
    email: wanted.email ?? null,
    sourcedId: wanted.sourcedId ?? null,
    subject: context.ids.secret().slice(0, 32),
    siteRole: wanted.siteRole,
    passwordHash: wanted.password === undefined ? null : await hashPassword(wanted.password),
    isTestLearner: false,
    closedAt: null,
    createdAt: context.clock.now(),
  }
}

/** What a name that somebody else took in the same moment is refused as. */
export function asTaken(username: string): (error: unknown) => never {
  return (error) => {
    throw violatedKey(error) === undefined ? error : new Refusal('person.username_taken', username)
  }
}

export async function createPerson(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof NewPerson>,
): Promise<PersonRecord> {
  const person = await newPerson(context, wanted)
  await context.records
    .transaction(async (records) => {
      await records.people.insert(person)
      await records.audit.add({
        at: context.clock.now(),
        ...by(actor),
        action: 'make person',
        subject: `person ${person.username}`,
        after: { fullName: person.fullName, siteRole: person.siteRole },
      })
    })
    .catch(asTaken(person.username))
  return person
}

/** Changes a person. Closing an account or setting a password ends its sessions, tokens and connections. */
export async function changePerson(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof PersonChange>,
): Promise<PersonRecord> {
  const now = context.clock.now()
  if (wanted.password !== undefined) {
    const known = await context.records.people.byRef(ref)
    await requireStrong(wanted.password, [known?.username, known?.fullName, known?.email])
  }
  const passwordHash = wanted.password === undefined ? undefined : await hashPassword(wanted.password)
  return context.records.transaction(async (records) => {
    const administrators = await records.people.openAdministrators()
    const person = await records.people.byRef(ref)
    if (!person) throw new Refusal('person.not_found', ref)
    const losesAdministration =
      wanted.closed === true || (wanted.siteRole !== undefined && wanted.siteRole !== 'administrator')
    if (losesAdministration && administrators.length === 1 && administrators[0] === person.id)
      throw new Refusal('person.last_administrator')

    const { closed, password: _, ...fields } = wanted
    const change: Partial<PersonRecord> = {
      ...(Object.fromEntries(
        Object.entries(fields).filter(([, value]) => value !== undefined),
      ) as Partial<PersonRecord>),
      ...(closed !== undefined && { closedAt: closed ? (person.closedAt ?? now) : null }),
      ...(passwordHash !== undefined && { passwordHash }),
    }
    await records.people.update(person.id, change)
    if (passwordHash !== undefined) await records.signInLinks.drop(person.id)
    if (closed === true || passwordHash !== undefined) await records.signIns.endSessions(person.id)
    // Whoever had the old password may have made tokens and connections by it.
    if (closed === true || passwordHash !== undefined) {
      await records.signIns.revokeTokens(person.id, now)
      await records.connections.revokeAll(person.id, 'administrator', now)
    }
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'change person',
      subject: `person ${person.username}`,
      before: {
        fullName: person.fullName,
        email: person.email,
        siteRole: person.siteRole,
        closed: person.closedAt !== null,
      },
      after: {
        ...fields,
        ...(closed !== undefined && { closed }),
        ...(passwordHash !== undefined && { password: 'set' }),
      },
    })
    return { ...person, ...change }
  })
}

/** Puts a person into a course, or back into it. A course has one test learner: the database decides. */
export async function enrol(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: z.output<typeof NewEnrolment>,
): Promise<MemberRow> {
  const person = await context.records.people.byRef(wanted.person)
  if (!person) throw new Refusal('person.not_found', wanted.person)
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
  const person = await context.records.people.byRef(ref)
  if (!person) throw new Refusal('person.not_found', ref)
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
