import {
  Refusal,
  type IdentityProvider,
  type IdentityProviderChange,
  type NewIdentityProvider,
} from '@bathyscribe/contract'
import { isThisMachine } from '@bathyscribe/core/links'
import type { z } from 'zod'
import { violatedKey } from '../../records/database.js'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { ProviderRow } from '../../records/identities.js'
import { SEALED_FOR } from '../../records/key-mark.js'
import { act, type Actor, type Context } from '../context.js'
import { redirectUriOf } from './begin.js'
import { afterSignOutUri } from './leave.js'

const signOutUriOf = (publicUrl: string, handle: string) => `${publicUrl}/sign-on/${handle}/sign-out`

export async function listProviders(context: Context): Promise<IdentityProvider[]> {
  return (await context.records.identities.providers()).map((row) => viewOf(context, row))
}

/** @throws Refusal */
export async function showProvider(context: Context, ref: string): Promise<IdentityProvider> {
  const found = (await listProviders(context)).find(({ id, handle }) => id === ref || handle === ref)
  if (!found) throw new Refusal('sign_on.provider_not_found', ref.slice(0, 40))
  return found
}

/** Adds a provider; one that is switched on has to describe itself first. @throws Refusal */
export async function addProvider(
  context: Context,
  actor: Actor,
  { clientSecret, ...wanted }: z.output<typeof NewIdentityProvider>,
): Promise<IdentityProvider> {
  const id = context.ids.next()
  const provider: IdentityProviderRecord = {
    ...wanted,
    id,
    secretSealed: sealed(context, id, clientSecret ?? null),
    revision: 1,
    createdAt: context.clock.now(),
  }
  await requireUsable(context, provider)
  const adding = { doer: actor, action: 'add identity provider', subject: `identity provider ${provider.handle}` }
  await act(
    context,
    adding,
    ({ identities }) => identities.insertProvider(provider),
    () => ({ after: told(provider) }),
  ).catch(asTaken(provider))
  tellChange(context)
  return viewOf(context, { provider, people: 0, lastAt: null })
}

/** Changes a provider; switched off, it ends the sessions that were begun by it. @throws Refusal */
export async function changeProvider(
  context: Context,
  actor: Actor,
  ref: string,
  { revision, clientSecret, ...wanted }: z.output<typeof IdentityProviderChange>,
): Promise<IdentityProvider> {
  const before = await context.records.identities.knownProvider(ref)
  const given = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value !== undefined))
  const after: IdentityProviderRecord = {
    ...before,
    ...given,
    ...(clientSecret !== undefined && { secretSealed: sealed(context, before.id, clientSecret) }),
    revision: revision + 1,
  }
  await requireUsable(context, after)
  const changing = { doer: actor, action: 'change identity provider', subject: `identity provider ${before.handle}` }
  await act(
    context,
    changing,
    async ({ identities }) => {
      const now = await identities.lockProvider(before.id)
      if (now?.revision !== revision) throw new Refusal('record.changed_meanwhile')
      await identities.updateProvider(before.id, after)
      if (!after.enabled || after.issuer !== before.issuer) await identities.endSessions(before.id)
      // Another issuer calls other people by the same subjects.
      if (after.issuer !== before.issuer) await identities.untieAll(before.id)
    },
    () => ({
      before: told(before),
      after: { ...told(after), ...(clientSecret !== undefined && { clientSecret: 'set' }) },
    }),
  ).catch(asTaken(after))
  tellChange(context)
  return showProvider(context, before.id)
}

/** Removes a provider with its ties; accounts stay. @throws Refusal */
export async function removeProvider(context: Context, actor: Actor, ref: string): Promise<void> {
  const provider = await context.records.identities.knownProvider(ref)
  const removing = { doer: actor, action: 'remove identity provider', subject: `identity provider ${provider.handle}` }
  await act(
    context,
    removing,
    ({ identities }) => identities.removeProvider(provider.id),
    () => ({ before: told(provider) }),
  )
  tellChange(context)
}

/** @throws Refusal where people could not sign in by it */
async function requireUsable(context: Context, provider: IdentityProviderRecord): Promise<void> {
  const { protocol, hostname, origin } = new URL(provider.issuer)
  if (protocol === 'http:' && !isThisMachine(hostname)) throw new Refusal('sign_on.plain_http', provider.issuer)
  // Our own description is one for tools.
  if (origin === new URL(context.settings.publicUrl).origin)
    throw new Refusal('sign_on.not_a_provider', 'it is this service itself')
  if (provider.enabled) await context.providers.readNow(provider)
}

const sealed = ({ keys }: Context, id: string, secret: string | null) =>
  secret === null ? null : keys.seal(secret, SEALED_FOR.identityProvider + id)

function asTaken({ handle, issuer }: IdentityProviderRecord): (error: unknown) => never {
  return (error) => {
    const key = violatedKey(error)
    if (key === 'identity_provider_handle') throw new Refusal('sign_on.handle_taken', handle)
    if (key === 'identity_provider_issuer') throw new Refusal('sign_on.issuer_taken', issuer)
    throw error
  }
}

/** What the audit says of a provider: all but the secret. */
const told = ({ id: _, secretSealed: __, revision: ___, createdAt: ____, ...rest }: IdentityProviderRecord) => rest

function viewOf({ settings: { publicUrl } }: Context, { provider, people, lastAt }: ProviderRow): IdentityProvider {
  const { secretSealed, createdAt: _, ...rest } = provider
  return {
    ...rest,
    hasSecret: secretSealed !== null,
    people,
    lastAt: lastAt?.toISOString() ?? null,
    redirectUri: redirectUriOf(publicUrl, provider.handle),
    signOutUri: signOutUriOf(publicUrl, provider.handle),
    afterSignOutUri: afterSignOutUri(publicUrl),
  }
}

function tellChange({ changes }: Context): void {
  changes.publish({ kind: 'people', courseId: null, assignmentId: null, personId: null })
}
