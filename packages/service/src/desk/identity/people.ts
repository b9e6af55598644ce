import { Refusal, type NewPerson, type PersonChange } from '@bathyscribe/contract'
import type { z } from 'zod'
import { violatedKey } from '../../records/database.js'
import type { PersonRecord } from '../../records/entities/people.js'
import { by, type Actor, type Context } from '../context.js'
import { hashPassword } from './guarded-password.js'
import { requireStrong } from './password-strength.js'

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
  context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: person.id })
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
  const changed = await context.records.transaction(async (records) => {
    const administrators = await records.people.openAdministrators()
    const person = await records.people.known(ref)
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
    if (wanted.siteRole !== undefined) await records.identities.forgetGivenRole(person.id)
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
  context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: changed.id })
  return changed
}
