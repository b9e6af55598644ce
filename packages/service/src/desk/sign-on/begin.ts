import { Refusal } from '@bathyscribe/contract'
import * as oidc from 'openid-client'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { Actor, Context } from '../context.js'
import { toRefusal } from './provider-client.js'
import { sealBegun, type Begun } from './sign-on-state.js'

/** Where the browser goes, and what it keeps meanwhile under `state`. */
export interface SignOnBegun {
  location: URL
  state: string
  kept: string
}

/** A provider that people may sign in by. @throws Refusal */
export async function openProvider({ records }: Context, ref: string): Promise<IdentityProviderRecord> {
  const provider = await records.identities.providerByRef(ref)
  if (!provider?.enabled) throw new Refusal('sign_on.provider_not_found', ref.slice(0, 40))
  return provider
}

/** Where a provider sends the browser back to: an address of its own for each, so that one cannot answer in the place of another (RFC 9700 section 4.4.2.2). */
export const redirectUriOf = (publicUrl: string, handle: string) => `${publicUrl}/sign-on/${handle}/return`

/**
 * Begins the authorization code flow (OpenID Connect Core section 3.1) with PKCE (RFC 7636), state and nonce.
 * @param given `actor`: who confirms or ties, signed in
 * @throws Refusal
 */
export async function beginSignOn(
  context: Context,
  given: { provider: string; next: string; purpose: Begun['purpose']; actor?: Actor },
): Promise<SignOnBegun> {
  const provider = await openProvider(context, given.provider)
  const { configuration } = await context.providers.of(provider)
  const begun: Begun = {
    state: oidc.randomState(),
    nonce: oidc.randomNonce(),
    verifier: oidc.randomPKCECodeVerifier(),
    providerId: provider.id,
    purpose: given.purpose,
    next: given.next,
    sessionId: given.actor?.viaId ?? null,
    at: context.clock.now().getTime(),
  }
  try {
    const location = oidc.buildAuthorizationUrl(configuration, {
      redirect_uri: redirectUriOf(context.settings.publicUrl, provider.handle),
      scope: provider.scopes,
      state: begun.state,
      nonce: begun.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(begun.verifier),
      code_challenge_method: 'S256',
      // Whoever confirms or ties signs in anew there, and is not the one who left that browser open.
      ...(given.purpose !== 'sign-in' && { prompt: 'login', max_age: '0' }),
    })
    return { location, state: begun.state, kept: sealBegun(context, begun) }
  } catch (error) {
    throw toRefusal(error, provider.issuer)
  }
}
