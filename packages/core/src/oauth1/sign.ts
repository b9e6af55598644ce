import { signatureBaseString, type SignedRequest } from './base-string.js'
import { hmacBase64, type SignatureMethod } from './digest.js'
import { percentEncode, type Parameter } from './encoding.js'

/** What signing needs besides the request. `timestampSeconds` and `nonce` are passed in: this code has neither clock nor chance. */
export interface SigningOptions {
  consumerKey: string
  sharedSecret: string
  signatureMethod: SignatureMethod
  timestampSeconds: number
  nonce: string
}

/** The signature of RFC 5849 section 3.4.2 over a request whose `oauth_*` parameters are already among its parameters. */
export function signatureOf(
  request: SignedRequest,
  method: SignatureMethod,
  sharedSecret: string,
  tokenSecret = '',
): string {
  return hmacBase64(
    method,
    `${percentEncode(sharedSecret)}&${percentEncode(tokenSecret)}`,
    signatureBaseString(request),
  )
}

/**
 * The `oauth_*` parameters that complete a request, `oauth_signature` last.
 * `extra` (for instance `oauth_callback` or `oauth_body_hash`) is signed along.
 */
export function oauthParameters(
  request: SignedRequest,
  options: SigningOptions,
  extra: readonly Parameter[] = [],
): Parameter[] {
  const parameters: Parameter[] = [
    ['oauth_consumer_key', options.consumerKey],
    ['oauth_nonce', options.nonce],
    ['oauth_signature_method', options.signatureMethod],
    ['oauth_timestamp', String(options.timestampSeconds)],
    ['oauth_version', '1.0'],
    ...extra,
  ]
  const complete = { ...request, parameters: [...request.parameters, ...parameters] }
  const signature = signatureOf(complete, options.signatureMethod, options.sharedSecret)
  return [...parameters, ['oauth_signature', signature]]
}
