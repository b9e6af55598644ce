import { Problem } from '../result/index.js'
import { LINE_ITEM_READ_SCOPE, LINE_ITEM_SCOPE } from './scores.js'
import type { Claims } from './jws.js'
import { isScope, type Scope } from './names.js'

/** Why a client assertion is refused (RFC 7523 section 3; Security Framework 1.0 section 4.1.1). */
export type AssertionProblem = Problem<
  | 'assertion.issuer'
  | 'assertion.audience'
  | 'assertion.expired'
  | 'assertion.lifetime'
  | 'assertion.issued_in_future'
  | 'assertion.not_yet'
  | 'assertion.identifier_missing'
>

export interface Assertion {
  /** `jti`: may be used once until `expiresSeconds`. */
  id: string
  expiresSeconds: number
}

/** How long an assertion may be good. */
export const ASSERTION_SECONDS = 3600
const MAX_ID_CHARACTERS = 255

/**
 * Checks the claims of a client assertion whose signature was verified. Does NOT check that `jti` is fresh: that is one atomic
 * statement of the records.
 */
export function checkAssertion(
  claims: Claims,
  expected: { clientId: string; audiences: readonly string[]; nowSeconds: number; leewaySeconds: number },
): Assertion | AssertionProblem {
  const { iss, sub, aud, exp, iat, nbf, jti } = claims
  const { clientId, nowSeconds, leewaySeconds } = expected
  if (iss !== clientId || sub !== clientId)
    return new Problem('assertion.issuer', `iss “${show(iss)}”, sub “${show(sub)}”`)
  const audiences = Array.isArray(aud) ? (aud as unknown[]) : [aud]
  if (!audiences.some((one) => typeof one === 'string' && expected.audiences.includes(one)))
    return new Problem('assertion.audience', `“${show(aud)}”`)
  if (typeof exp !== 'number' || !Number.isFinite(exp) || typeof iat !== 'number' || !Number.isFinite(iat))
    return new Problem('assertion.lifetime', 'iat and exp must be seconds since 1970')
  if (exp <= nowSeconds - leewaySeconds)
    return new Problem('assertion.expired', `${Math.round(nowSeconds - exp)} seconds ago`)
  if (iat > nowSeconds + leewaySeconds)
    return new Problem('assertion.issued_in_future', `${Math.round(iat - nowSeconds)} seconds ahead of our clock`)
  if (isNotYet(nbf, nowSeconds + leewaySeconds)) return new Problem('assertion.not_yet', `nbf “${show(nbf)}”`)
  if (exp > nowSeconds + ASSERTION_SECONDS + leewaySeconds)
    return new Problem('assertion.lifetime', `${Math.round(exp - nowSeconds)} seconds, ${ASSERTION_SECONDS} at most`)
  if (typeof jti !== 'string' || jti === '' || jti.length > MAX_ID_CHARACTERS)
    return new Problem('assertion.identifier_missing', 'jti')
  return { id: jti, expiresSeconds: exp }
}

/** Whether a token may not be taken yet (RFC 7519 section 4.1.5). What is no number is no moment that has come. */
export function isNotYet(nbf: unknown, nowSeconds: number): boolean {
  return nbf !== undefined && (typeof nbf !== 'number' || !Number.isFinite(nbf) || nbf > nowSeconds)
}

/** A token out of an `Authorization` header; the scheme’s name is case-insensitive (RFC 9110 section 11.1). */
export function bearerToken(header: string | undefined, most = 4000): string | undefined {
  const found = /^bearer +([\x21-\x7e]+)$/i.exec(header ?? '')?.[1]
  return found !== undefined && found.length <= most ? found : undefined
}

/** Whether scopes open what one of them opens: who may change columns may read them (AGS 2.0 section 3.1). */
export function holdsScope(held: readonly string[], wanted: string): boolean {
  return held.includes(wanted) || (wanted === LINE_ITEM_READ_SCOPE && held.includes(LINE_ITEM_SCOPE))
}

/** The scopes of those asked for that are granted, each once, in the order asked (RFC 6749 section 3.3). */
export function grantedScopes(asked: string, granted: readonly string[]): Scope[] {
  return [...new Set(asked.split(' '))].filter((one): one is Scope => isScope(one) && holdsScope(granted, one))
}

/** Claims of an access token of ours. */
export function accessTokenClaims(facts: {
  issuer: string
  clientId: string
  scopes: readonly string[]
  nowSeconds: number
  lifetimeSeconds: number
  id: string
  /** The connection that it is for, when the tool acts by an instructor's consent. */
  connection?: string
}): Claims {
  return {
    iss: facts.issuer,
    aud: facts.issuer,
    sub: facts.clientId,
    scope: facts.scopes.join(' '),
    iat: facts.nowSeconds,
    exp: facts.nowSeconds + facts.lifetimeSeconds,
    jti: facts.id,
    ...(facts.connection && { connection: facts.connection }),
  }
}

/**
 * Reads the claims of an access token of ours: who holds it, and for which scopes. The signature is verified before.
 * @returns undefined when it is another one's, or over
 */
export function checkAccessToken(
  claims: Claims,
  expected: { issuer: string; nowSeconds: number },
): { clientId: string; scopes: string[]; connection: string | undefined } | undefined {
  const { iss, aud, sub, scope, exp, connection } = claims
  if (iss !== expected.issuer || aud !== expected.issuer || typeof sub !== 'string' || typeof scope !== 'string')
    return undefined
  return typeof exp === 'number' && exp > expected.nowSeconds
    ? { clientId: sub, scopes: scope.split(' '), connection: typeof connection === 'string' ? connection : undefined }
    : undefined
}

function show(value: unknown): string {
  return (typeof value === 'string' ? value : (JSON.stringify(value) ?? 'nothing')).slice(0, 120)
}
