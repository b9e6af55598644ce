import { Refusal } from '@bathyscribe/contract'
import { accountOf, identifierOf, judgeFirstVisit, roleChange, saysAdministrator } from '@bathyscribe/core/identity'
import type { IdentityProviderRecord, IdentityRecord } from '../../records/entities/identities.js'
import type { PersonRecord } from '../../records/entities/people.js'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { RecordsInside } from '../../records/index.js'
import type { Context } from '../context.js'
import { openSession, type OpenedSession } from '../identity/open-session.js'
import { newPerson } from '../identity/people.js'
import type { Verified } from './verified-claims.js'

const REFUSED = {
  not_known: 'sign_on.not_known',
  several: 'sign_on.several',
  tie_first: 'sign_on.tie_first',
  other_subject: 'sign_on.other_subject',
  closed: 'session.disabled',
} as const

interface Coming {
  provider: IdentityProviderRecord
  verified: Verified
  came: { userAgent: string; address: string }
}

/** Signs in whom a provider proved: by the subject, or found or made at the first visit. All of it, or nothing. @throws Refusal */
export async function signInAs(context: Context, coming: Coming): Promise<OpenedSession> {
  const { provider, verified, came } = coming
  const now = context.clock.now()
  const done = await context.records.transaction(async (inside) => {
    const known =
      (await inside.identities.identity(provider.id, verified.subject)) ??
      (await inside.identities.lockSubject(provider.id, verified.subject))
    const identity = known ?? (await tieFirst(context, inside, coming))
    const person = await inside.people.byId(identity.personId)
    if (!person || person.closedAt) throw new Refusal('session.disabled')
    await inside.identities.update(provider.id, verified.subject, { lastAt: now })
    const changed = await changeRole(context, inside, { ...coming, identity, person })
    const opened = await openSession(context, inside, person.id, {
      userAgent: came.userAgent,
      by: {
        providerId: provider.id,
        providerSession: verified.session,
        idTokenSealed: context.keys.seal(verified.idToken, SEALED_FOR.idToken),
        // Where the provider does not say when, nothing is proven of it.
        confirmedAt: earlier(verified.authenticatedAt ?? new Date(0), now),
      },
    })
    await inside.audit.add({ ...entryOf(context, coming, person), action: 'sign in' })
    return { opened, personId: person.id, isSeen: !known || changed }
  })
  if (done.isSeen)
    context.changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: done.personId })
  return done.opened
}

const earlier = (a: Date, b: Date) => (a < b ? a : b)

const entryOf = ({ clock }: Context, { provider, came }: Coming, person: PersonRecord) => ({
  at: clock.now(),
  personId: person.id,
  via: 'sign-on',
  subject: `person ${person.username}`,
  after: { provider: provider.handle, address: came.address },
})

/** Whose account it is that comes for the first time. @throws Refusal */
async function tieFirst(context: Context, inside: RecordsInside, coming: Coming): Promise<IdentityRecord> {
  const { provider, verified } = coming
  const identifier = identifierOf(provider, verified.claims)
  if (identifier.found === 'missing') throw new Refusal('sign_on.claim_missing', identifier.claim)
  if (identifier.found === 'unverified') throw new Refusal('sign_on.email_unverified')
  const accounts =
    identifier.found === 'value'
      ? await inside.identities.accounts(identifier.match, identifier.value, provider.id)
      : []
  const judged = judgeFirstVisit(provider, accounts)
  if (judged.act === 'refuse') throw new Refusal(REFUSED[judged.why])
  const person = judged.act === 'make' ? await makePerson(context, inside, verified) : undefined
  const identity: IdentityRecord = {
    providerId: provider.id,
    subject: verified.subject,
    personId: judged.act === 'tie' ? judged.personId : person!.id,
    tiedBy: judged.act === 'tie' ? 'match' : 'made',
    tiedAt: context.clock.now(),
    lastAt: context.clock.now(),
    administratorSince: null,
  }
  await inside.identities.tie(identity)
  const who = person ?? (await inside.people.byId(identity.personId))!
  await inside.audit.add({
    ...entryOf(context, coming, who),
    action: person ? 'make person' : 'tie account',
    after: { provider: provider.handle, subject: verified.subject, tiedBy: identity.tiedBy },
  })
  return identity
}

async function makePerson(context: Context, inside: RecordsInside, { claims }: Verified): Promise<PersonRecord> {
  const account = accountOf(claims)
  const person = await newPerson(context, {
    ...account,
    email: account.email ?? undefined,
    username: await inside.people.freeUsername(account.username),
    sourcedId: undefined,
    siteRole: 'none',
  })
  await inside.people.insert(person)
  return person
}

/** Follows what the claims say of the site role: never without a trace, and never away from the last administrator. @returns whether anything changed */
async function changeRole(
  context: Context,
  inside: RecordsInside,
  { identity, person, ...coming }: Coming & { identity: IdentityRecord; person: PersonRecord },
): Promise<boolean> {
  const { provider, verified } = coming
  const change = roleChange(saysAdministrator(provider, verified.claims), {
    siteRole: person.siteRole,
    givenByProvider: identity.administratorSince !== null,
  })
  if (!change) return false
  const administrators = await inside.people.openAdministrators()
  if (change === 'narrow' && administrators.length === 1 && administrators[0] === person.id) return false
  const siteRole = change === 'widen' ? 'administrator' : 'none'
  await inside.people.update(person.id, { siteRole })
  await inside.identities.update(provider.id, verified.subject, {
    administratorSince: change === 'widen' ? context.clock.now() : null,
  })
  await inside.audit.add({
    ...entryOf(context, coming, person),
    action: change === 'widen' ? 'made administrator by sign-on' : 'no longer administrator by sign-on',
    before: { siteRole: person.siteRole },
    after: { siteRole, provider: provider.handle, claim: provider.administratorClaim },
  })
  return true
}
