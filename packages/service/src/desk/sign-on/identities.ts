import { Refusal, type Identity } from '@bathyscribe/contract'
import { act, type Actor, type Context } from '../context.js'

/** The accounts at identity providers that a person's is tied to. */
export async function identitiesOf({ records }: Context, personId: string): Promise<Identity[]> {
  const rows = await records.identities.ofPerson(personId)
  return rows.map(({ administratorSince, tiedAt, lastAt, ...row }) => ({
    ...row,
    tiedAt: tiedAt.toISOString(),
    lastAt: lastAt.toISOString(),
    gaveAdministrator: administratorSince !== null,
  }))
}

/**
 * Unties an account; its sessions by that provider end. Nobody shuts themselves out by it; an administrator may shut others out.
 * @throws Refusal
 */
export async function untie(context: Context, actor: Actor, personRef: string, providerRef: string): Promise<void> {
  const person = await context.records.people.known(personRef)
  const provider = await context.records.identities.providerByRef(providerRef)
  if (!provider) throw new Refusal('sign_on.not_tied', providerRef.slice(0, 40))
  await act(
    context,
    { doer: actor, action: 'untie account', subject: `person ${person.username}` },
    async ({ identities, people }) => {
      const now = await people.lockByRef(person.id)
      const ties = await identities.ofPerson(person.id)
      const identity = await identities.identityOf(provider.id, person.id)
      if (!identity) throw new Refusal('sign_on.not_tied', provider.name)
      if (actor.id === person.id && now?.passwordHash === null && ties.length === 1)
        throw new Refusal('sign_on.last_way')
      await identities.untie(provider.id, person.id)
      await identities.endSessions(provider.id, { personId: person.id })
      return identity
    },
    ({ subject }) => ({ before: { provider: provider.handle, subject } }),
  )
  context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: person.id })
}
