import { Problem } from '../result/index.js'
import type { SignedRequest } from './base-string.js'
import { bodyHash, isSignatureMethod, sameDigest, type SignatureMethod } from './digest.js'
import type { Parameter } from './encoding.js'
import { signatureOf } from './sign.js'

/** Why a signed request is refused; `detail` names the parameter or the figures, never a secret. */
export type OAuthProblem = Problem<
  | 'oauth.parameter_missing'
  | 'oauth.parameter_repeated'
  | 'oauth.method_unsupported'
  | 'oauth.version_unsupported'
  | 'oauth.timestamp_malformed'
  | 'oauth.timestamp_outside_window'
  | 'oauth.nonce_too_long'
  | 'oauth.body_hash_missing'
  | 'oauth.body_hash_mismatch'
  | 'oauth.signature_mismatch'
>

/** The `oauth_*` parameters of a request, each present exactly once. */
export interface OAuthParameters {
  consumerKey: string
  signatureMethod: SignatureMethod
  signature: string
  timestampSeconds: number
  nonce: string
  bodyHash: string | undefined
}

const REQUIRED = [
  'oauth_consumer_key',
  'oauth_signature_method',
  'oauth_signature',
  'oauth_timestamp',
  'oauth_nonce',
] as const

const MAX_NONCE_CHARACTERS = 255

/** Reads and checks the form of the `oauth_*` parameters (RFC 5849 section 3.1). Verifies no signature. */
export function readOAuthParameters(parameters: readonly Parameter[]): OAuthParameters | OAuthProblem {
  const values = new Map<string, string>()
  for (const [name, value] of parameters) {
    if (!name.startsWith('oauth_')) continue
    if (values.has(name)) return new Problem('oauth.parameter_repeated', name)
    values.set(name, value)
  }
  for (const name of REQUIRED) if (!values.get(name)) return new Problem('oauth.parameter_missing', name)

  const version = values.get('oauth_version')
  if (version !== undefined && version !== '1.0') return new Problem('oauth.version_unsupported', version)
  const method = values.get('oauth_signature_method')!
  if (!isSignatureMethod(method)) return new Problem('oauth.method_unsupported', method)
  const timestamp = values.get('oauth_timestamp')!
  if (!/^[0-9]{1,15}$/.test(timestamp)) return new Problem('oauth.timestamp_malformed', timestamp)
  const nonce = values.get('oauth_nonce')!
  if (nonce.length > MAX_NONCE_CHARACTERS)
    return new Problem('oauth.nonce_too_long', `${nonce.length} characters, ${MAX_NONCE_CHARACTERS} at most`)
  return {
    consumerKey: values.get('oauth_consumer_key')!,
    signatureMethod: method,
    signature: values.get('oauth_signature')!,
    timestampSeconds: Number(timestamp),
    nonce,
    bodyHash: values.get('oauth_body_hash'),
  }
}

export interface VerificationOptions {
  sharedSecret: string
  /** The method agreed for this registration; any other is refused even if its signature matches. */
  signatureMethod: SignatureMethod
  nowSeconds: number
  /** How far the other clock may be off, either way. */
  windowSeconds: number
  /** The raw body, for services that sign it; undefined for form posts, whose parameters are signed themselves. */
  body?: Uint8Array
}

/**
 * Checks method, timestamp, body hash and signature, in this order (RFC 5849 section 3.2).
 * Does NOT check that the nonce is fresh: that is one atomic statement of the records.
 * @returns undefined when the request is good.
 */
export function verifyRequest(
  request: SignedRequest,
  oauth: OAuthParameters,
  options: VerificationOptions,
): OAuthProblem | undefined {
  if (oauth.signatureMethod !== options.signatureMethod)
    return new Problem('oauth.method_unsupported', `${oauth.signatureMethod} instead of ${options.signatureMethod}`)

  const offSeconds = oauth.timestampSeconds - options.nowSeconds
  if (Math.abs(offSeconds) > options.windowSeconds)
    return new Problem(
      'oauth.timestamp_outside_window',
      `${Math.abs(offSeconds)} seconds ${offSeconds < 0 ? 'behind' : 'ahead of'} our clock, ${options.windowSeconds} allowed`,
    )

  if (options.body) {
    if (oauth.bodyHash === undefined) return new Problem('oauth.body_hash_missing', 'oauth_body_hash')
    if (!sameDigest(oauth.bodyHash, bodyHash(oauth.signatureMethod, options.body)))
      return new Problem('oauth.body_hash_mismatch', `${options.body.length} bytes received`)
  }

  const expected = signatureOf(request, oauth.signatureMethod, options.sharedSecret)
  return sameDigest(oauth.signature, expected)
    ? undefined
    : new Problem('oauth.signature_mismatch', oauth.signatureMethod)
}
