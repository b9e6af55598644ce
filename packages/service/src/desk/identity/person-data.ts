import { Refusal, type PersonData, type PersonRemoval, type PersonRemoved } from '@bathyscribe/contract'
import type { z } from 'zod'
import { by, type Actor, type Context } from '../context.js'
import { personRef } from './person-ref.js'

/** Hands out all that is kept of a person; that it was done stands in the audit. @throws Refusal */
export async function showPersonData(context: Context, actor: Actor, ref: string): Promise<PersonData> {
  const at = context.clock.now()
  return context.records.transaction(async (records) => {
    const person = await records.people.known(ref)
    await records.audit.add({ at, ...by(actor), action: 'hand out data', subject: `person ${person.username}` })
    return { at: at.toISOString(), person: personRef(person), kinds: await records.personData.read(person) }
  })
}

/**
 * Removes for good who a person was: names, address, ways in, connections and messages. Results, visits and acts stay as those of an account without
 * a name, because courses and audits are counted by them. @throws Refusal
 */
export async function removePerson(
  context: Context,
  actor: Actor,
  ref: string,
  { username }: z.output<typeof PersonRemoval>,
): Promise<z.infer<typeof PersonRemoved>> {
  const at = context.clock.now()
  const removed = await context.records.transaction(async (records) => {
    const person = await records.people.lockByRef(ref)
    if (!person) throw new Refusal('person.not_found', ref)
    if (person.username !== username.trim().toLowerCase()) throw new Refusal('person.other_name', username)
    if (person.isTestLearner) throw new Refusal('person.of_course')
    if (person.closedAt === null) throw new Refusal('person.open', person.username)
    const counted = await records.personData.remove(person, at)
    const nameless = {
      username: `removed-${person.id}`,
      fullName: 'Removed person',
      givenName: '',
      familyName: '',
      email: null,
      sourcedId: null,
      siteRole: 'none',
      passwordHash: null,
      // Tools knew the person by it; nobody who comes later is that person to them.
      subject: context.ids.secret().slice(0, 32),
    } as const
    await records.people.update(person.id, nameless)
    await records.audit.add({ at, ...by(actor), action: 'remove person', subject: `person ${nameless.username}` })
    return { person: personRef({ ...person, ...nameless }), ...counted }
  })
  context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: removed.person.id })
  return removed
}
