import { ERRORS, Refusal, type ErrorCode } from '@bathyscribe/contract'
import { isThisMachine } from '@bathyscribe/core/links'
import { createRemoteJWKSet, customFetch as keysFetch } from 'jose'
import { LRUCache } from 'lru-cache'
import * as oidc from 'openid-client'
import type { Keys } from '../../keys/key-file.js'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { Settings } from '../../settings/settings.js'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { Outgoing } from '../../wire/outgoing.js'

/** An identity provider as it described itself, with our client there and its keys. */
export interface Provider {
  configuration: oidc.Configuration
  /** Its public keys; a key that is not among them makes them be read again, once in a while. */
  keys: ReturnType<typeof createRemoteJWKSet>
}

/** What is known of identity providers. */
export interface Providers {
  /** Read once per cache time, and whenever the provider's settings were changed. @throws Refusal */
  of(provider: IdentityProviderRecord): Promise<Provider>
  /** Read now. @throws Refusal */
  readNow(provider: IdentityProviderRecord): Promise<Provider>
}

interface Parts {
  keys: Pick<Keys, 'unseal'>
  outgoing: Outgoing
  settings: Pick<Settings, 'keysetMinutes' | 'clockToleranceSeconds'>
}

/** A made-up key identifier cannot make us ask the provider more often than this. */
const ASK_AGAIN_MS = 2_000
const MOST_PROVIDERS = 200
// oxlint-disable-next-line typescript/no-deprecated -- marked so by its authors to stand out; here it is for this machine only
const allowPlain: (configuration: oidc.Configuration) => void = oidc.allowInsecureRequests

export function createProviders(parts: Parts): Providers {
  const known = new LRUCache<string, Promise<Provider>>({
    max: MOST_PROVIDERS,
    ttl: parts.settings.keysetMinutes * 60_000,
  })
  const readNow = (provider: IdentityProviderRecord): Promise<Provider> => {
    const name = `${provider.id} ${provider.revision}`
    const reading = read(parts, provider)
    known.set(name, reading)
    // What failed is asked again by the next one who comes.
    reading.catch(() => known.peek(name) === reading && known.delete(name))
    return reading
  }
  return { readNow, of: (provider) => known.get(`${provider.id} ${provider.revision}`) ?? readNow(provider) }
}

/** The secret of our client at a provider; undefined for a public one. */
function secretOf(keys: Pick<Keys, 'unseal'>, { id, secretSealed }: IdentityProviderRecord): string | undefined {
  return secretSealed ? keys.unseal(secretSealed, SEALED_FOR.identityProvider + id) : undefined
}

async function read(parts: Parts, provider: IdentityProviderRecord): Promise<Provider> {
  const issuer = new URL(provider.issuer)
  const secret = secretOf(parts.keys, provider)
  const fetching = fetchBy(parts.outgoing)
  // By its address alone a provider without TLS is only taken on this machine.
  const isPlain = issuer.protocol === 'http:' && isThisMachine(issuer.hostname)
  try {
    const found = await oidc.discovery(issuer, provider.clientId, undefined, oidc.None(), {
      [oidc.customFetch]: fetching,
      ...(isPlain && { execute: [allowPlain] }),
    })
    const metadata = found.serverMetadata()
    const configuration = new oidc.Configuration(
      metadata,
      provider.clientId,
      { [oidc.clockTolerance]: parts.settings.clockToleranceSeconds },
      proofOfClient(secret, metadata.token_endpoint_auth_methods_supported),
    )
    configuration[oidc.customFetch] = fetching
    if (isPlain) allowPlain(configuration)
    const keys = createRemoteJWKSet(endpointOf(metadata.jwks_uri, isPlain), {
      [keysFetch]: (url, { headers, signal }) =>
        fetching(url, { method: 'GET', headers: plain(headers), body: null, redirect: 'manual', signal }),
      cooldownDuration: ASK_AGAIN_MS,
      cacheMaxAge: parts.settings.keysetMinutes * 60_000,
    })
    return { configuration, keys }
  } catch (error) {
    throw toRefusal(error, issuer.host, 'description')
  }
}

/** Which way of proving oneself a provider takes is its own to say; OpenID Connect Discovery 1.0 section 3 names the usual one. */
function proofOfClient(secret: string | undefined, ways: readonly string[] = ['client_secret_basic']): oidc.ClientAuth {
  if (secret === undefined) return oidc.None()
  return ways.includes('client_secret_basic') ? oidc.ClientSecretBasic(secret) : oidc.ClientSecretPost(secret)
}

function endpointOf(address: string | undefined, isPlain: boolean): URL {
  if (address === undefined || !URL.canParse(address)) throw new Refusal('sign_on.not_a_provider', 'jwks_uri')
  const url = new URL(address)
  if (url.protocol !== 'https:' && !isPlain) throw new Refusal('sign_on.not_a_provider', 'jwks_uri is not https')
  return url
}

const plain = (headers: ConstructorParameters<typeof Headers>[0]) => Object.fromEntries(new Headers(headers))

/** `fetch` by our one guarded way out: bounded in bytes and time, to no address that may not be called, following no redirects. */
function fetchBy(outgoing: Outgoing): oidc.CustomFetch {
  return async (url, { method, headers, body, signal }) => {
    const answer = await outgoing.send({
      method: method as 'GET' | 'POST',
      url: new URL(url),
      headers: plain(headers),
      ...(body !== null && body !== undefined && { body: String(body) }),
      signal,
    })
    const { 'content-encoding': _, 'content-length': __, ...rest } = answer.headers
    const hasBody = answer.status !== 204 && answer.status !== 205 && answer.status !== 304
    return new Response(hasBody ? answer.body : null, { status: answer.status, headers: rest })
  }
}

/**
 * What went wrong between us and a provider, in our words. The cause keeps the library's own for the log.
 * @param read what was read: a description that is none is no provider’s, an answer that is none is one’s
 */
export function toRefusal(error: unknown, host: string, read: 'description' | 'answer' = 'answer'): Refusal {
  const refusal = (code: ErrorCode, detail: string) => new Refusal(code, detail, undefined, { cause: error })
  for (let at = error; at instanceof Error; at = at.cause)
    if (at instanceof Refusal)
      return at.code.startsWith('sign_on.')
        ? at
        : refusal('sign_on.provider_away', `${host}: ${ERRORS[at.code].sentence}`)
  const { code = '', error: word = '', error_description: said = '' } = error as Record<string, string | undefined>
  if (error instanceof oidc.AuthorizationResponseError) return refusal('sign_on.refused', inWords(word, said))
  if (error instanceof oidc.ResponseBodyError)
    return refusal(word === 'invalid_grant' ? 'sign_on.begun_elsewhere' : 'sign_on.provider_away', inWords(word, said))
  const { cause } = error as Error
  if (cause instanceof Response && cause.status >= 500)
    return refusal('sign_on.provider_away', `${host} answers ${cause.status}`)
  const known = DETAILS[code]
  return refusal(
    known?.code ?? (read === 'answer' ? 'sign_on.answer_wrong' : 'sign_on.not_a_provider'),
    `${host}: ${known?.says ?? reasonOf(error)}`,
  )
}

const DETAILS: Readonly<Record<string, { code?: 'sign_on.provider_away'; says: string }>> = {
  OAUTH_RESPONSE_IS_NOT_CONFORM: { says: 'it answers with another status than 200' },
  OAUTH_RESPONSE_IS_NOT_JSON: { says: 'the answer is not JSON' },
  OAUTH_PARSE_ERROR: { says: 'the answer cannot be read' },
  OAUTH_JSON_ATTRIBUTE_COMPARISON_FAILED: { says: 'it calls itself by another issuer' },
  OAUTH_MISSING_SERVER_METADATA: { says: 'its description lacks an address' },
  OAUTH_HTTP_REQUEST_FORBIDDEN: { says: 'one of its addresses is not https' },
  OAUTH_JWT_CLAIM_COMPARISON_FAILED: {
    says: 'the token is for somebody else, from somebody else, or of another sign-in',
  },
  OAUTH_JWT_TIMESTAMP_CHECK_FAILED: {
    says: 'the token has expired, or the clocks differ',
  },
  ERR_JWKS_NO_MATCHING_KEY: {
    says: 'the token is signed with a key that is not among its keys',
  },
  ERR_JWS_SIGNATURE_VERIFICATION_FAILED: { says: 'the signature of the token is wrong' },
  OAUTH_TIMEOUT: { code: 'sign_on.provider_away', says: 'no answer in time' },
}

/** Words of the other end, kept short. */
const inWords = (word: string, said: string) => (said ? `${word}: ${said}` : word).slice(0, 300)

function reasonOf(error: unknown): string {
  const { message, cause } = error as Error
  return (cause instanceof Error ? cause.message : message).slice(0, 200)
}
