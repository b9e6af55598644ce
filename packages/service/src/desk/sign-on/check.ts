import type { SignOnChecked, SignOnFinding } from '@bathyscribe/contract'
import { matchedClaim } from '@bathyscribe/core/identity'
import * as oidc from 'openid-client'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { Context } from '../context.js'
import { redirectUriOf } from './begin.js'
import { toRefusal, type Provider } from './provider-client.js'
import { showProvider } from './providers.js'
import { ALGORITHMS } from './verify-token.js'

/** Looks at a provider as far as nobody has to sign in for it. @throws Refusal when it cannot be read at all */
export async function checkProvider(context: Context, ref: string): Promise<SignOnChecked> {
  const provider = await context.records.identities.knownProvider(ref)
  const known = await context.providers.readNow(provider)
  const findings = [
    good('description', `read from ${provider.issuer}; the issuer agrees`),
    ...described(provider, known),
    await keysFinding(context, known),
    await clientFinding(context, provider, known),
  ]
  return { provider: await showProvider(context, provider.id), findings }
}

const good = (what: string, says: string): SignOnFinding => ({ what, state: 'good', says })
const look = (what: string, says: string): SignOnFinding => ({ what, state: 'look', says })
const bad = (what: string, says: string): SignOnFinding => ({ what, state: 'bad', says })

/** What the description says for itself (OpenID Connect Discovery 1.0 section 3). */
function described(provider: IdentityProviderRecord, { configuration }: Provider): SignOnFinding[] {
  const metadata = configuration.serverMetadata()
  const challenges = metadata.code_challenge_methods_supported
  const signing = metadata['id_token_signing_alg_values_supported'] ?? ['RS256']
  const verifiable = signing.filter((one) => ALGORITHMS.includes(one))
  const missing = provider.scopes.split(' ').filter((one) => metadata.scopes_supported?.includes(one) === false)
  const claim = matchedClaim(provider)
  const told = metadata.claims_supported
  return [
    metadata.response_types_supported?.includes('code') === false
      ? bad('code flow', 'it does not offer response_type=code, which is what is used here')
      : good('code flow', 'offered'),
    challenges?.includes('S256')
      ? good('PKCE', 'S256 is supported')
      : look(
          'PKCE',
          'it does not say that it supports S256; sent anyway, and ignored by providers that do not know it',
        ),
    verifiable.length > 0
      ? good('signatures', verifiable.join(', '))
      : bad('signatures', `it signs by ${signing.join(', ')} only, which nobody else can verify`),
    missing.length > 0
      ? look('scopes', `it does not name ${missing.join(', ')} among the scopes that it supports`)
      : good('scopes', provider.scopes),
    ...(claim !== undefined && told?.includes(claim) === false
      ? [look('claims', `it does not name ${claim} among its claims, by which people are found`)]
      : []),
    metadata.end_session_endpoint === undefined
      ? look('signing out', 'it has no page for it: whoever signs out here stays signed in there')
      : good('signing out', 'people are signed out there, too'),
  ]
}

async function keysFinding({ settings }: Context, { configuration, keys }: Provider): Promise<SignOnFinding> {
  const { jwks_uri: at = '' } = configuration.serverMetadata()
  try {
    // No token names this key: what comes back is that the keyset was read, and has no such key.
    await keys({ alg: 'RS256', kid: `asked by ${settings.publicUrl}` }, { payload: '', signature: '' })
    return good('keys', `read from ${at}`)
  } catch (error) {
    const { code } = error as { code?: string }
    if (code === 'ERR_JWKS_NO_MATCHING_KEY' || code === 'ERR_JWKS_MULTIPLE_MATCHING_KEYS')
      return good('keys', `read from ${at}`)
    return bad('keys', `cannot be read from ${at}: ${toRefusal(error, at).detail ?? ''}`)
  }
}

/** A code that nobody was given: who knows the client refuses the code, and who does not refuses the client (RFC 6749 section 5.2). */
async function clientFinding(
  { settings }: Context,
  provider: IdentityProviderRecord,
  { configuration }: Provider,
): Promise<SignOnFinding> {
  try {
    await oidc.genericGrantRequest(configuration, 'authorization_code', {
      code: oidc.randomState(),
      redirect_uri: redirectUriOf(settings.publicUrl, provider.handle),
      code_verifier: oidc.randomPKCECodeVerifier(),
    })
    return bad('client', 'a made-up code was taken for a good one')
  } catch (error) {
    if (error instanceof oidc.ResponseBodyError && error.error === 'invalid_grant')
      return good('client', 'client ID and secret are known there')
    if (error instanceof oidc.ResponseBodyError && /^(invalid|unauthorized)_client$/.test(error.error))
      return bad('client', `client ID or secret is wrong: ${(error.error_description ?? error.error).slice(0, 200)}`)
    if (error instanceof oidc.WWWAuthenticateChallengeError) return bad('client', 'client ID or secret is wrong')
    return look('client', `not known: ${toRefusal(error, provider.issuer).detail ?? ''}`)
  }
}
