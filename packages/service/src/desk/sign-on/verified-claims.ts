import { Refusal } from '@bathyscribe/contract'
import { matchedClaim, type IdentityClaims } from '@bathyscribe/core/identity'
import * as oidc from 'openid-client'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { Context } from '../context.js'
import { toRefusal, type Provider } from './provider-client.js'
import { redirectUriOf } from './begin.js'
import type { Begun } from './sign-on-state.js'
import { verifyToken } from './verify-token.js'

/** What a provider proved of somebody. */
export interface Verified {
  subject: string
  claims: IdentityClaims
  idToken: string
  /** What the provider calls its session. */
  session: string | null
  /** When the person last signed in there; null where it does not say. */
  authenticatedAt: Date | null
}

/**
 * Takes an authorization response: state, issuer (RFC 9207), the code with its PKCE verifier, and the ID token by OpenID Connect Core
 * section 3.1.3.7, its signature too, though it came straight from the provider.
 * @param answer the address at which the browser came back
 * @throws Refusal
 */
export async function takeAnswer(
  { settings, providers }: Pick<Context, 'settings' | 'providers'>,
  { provider, begun, answer }: { provider: IdentityProviderRecord; begun: Begun; answer: URL },
): Promise<Verified> {
  const known = await providers.of(provider)
  try {
    const tokens = await oidc.authorizationCodeGrant(
      known.configuration,
      new URL(`${redirectUriOf(settings.publicUrl, provider.handle)}${answer.search}`),
      {
        pkceCodeVerifier: begun.verifier,
        expectedState: begun.state,
        expectedNonce: begun.nonce,
        idTokenExpected: true,
      },
    )
    const idToken = tokens.id_token!
    const holds = () => verifyToken({ settings }, known, { provider, token: idToken })
    // It came from the provider itself: a key that is not known yet is worth asking for at once.
    await holds().catch(async (error: unknown) => {
      if ((error as { code?: string }).code !== 'ERR_JWKS_NO_MATCHING_KEY') throw error
      await known.keys.reload()
      await holds()
    })
    const claims = tokens.claims()!
    return {
      subject: claims.sub,
      claims: await withUserInfo(known, provider, claims, tokens.access_token),
      idToken,
      session: typeof claims['sid'] === 'string' ? claims['sid'].slice(0, 300) : null,
      authenticatedAt: typeof claims.auth_time === 'number' ? new Date(claims.auth_time * 1000) : null,
    }
  } catch (error) {
    throw toRefusal(error, new URL(provider.issuer).host)
  }
}

/** Most providers tell names and groups only where they are asked for them (OpenID Connect Core section 5.3). The token’s own claims come first. */
async function withUserInfo(
  { configuration }: Provider,
  provider: IdentityProviderRecord,
  claims: IdentityClaims & { sub: string },
  accessToken: string,
): Promise<IdentityClaims> {
  const { match, administratorClaim, admits } = provider
  const wanted = [
    matchedClaim(provider),
    administratorClaim,
    ...(match === 'email' ? ['email_verified'] : []),
    ...(admits === 'everybody' ? ['name', 'preferred_username'] : []),
  ]
  const hasAll = wanted.every((claim) => claim === undefined || claim === null || claims[claim] !== undefined)
  if (hasAll || configuration.serverMetadata().userinfo_endpoint === undefined) return claims
  return { ...(await oidc.fetchUserInfo(configuration, accessToken, claims.sub)), ...claims }
}

/** By how much the provider’s clock may be behind ours. */
const BEHIND_MS = 60_000

/** That the person signed in there after this was begun. @throws Refusal */
export function requireJustNow(begun: Begun, { authenticatedAt }: Verified): void {
  if (!authenticatedAt || authenticatedAt.getTime() < begun.at - BEHIND_MS) throw new Refusal('sign_on.not_fresh')
}
