import { randomUUID } from 'node:crypto'
import { SignJWT } from 'jose'
import type { Platform, SigningKey } from './state.js'

/** What the platform answered to a request for a service token. */
export interface TokenAnswer {
  status: number
  body: Record<string, unknown>
}

/** A client assertion (RFC 7523 section 3) for one token request. */
export async function clientAssertion(platform: Platform, { kid, key }: SigningKey): Promise<string> {
  return new SignJWT({})
    .setProtectedHeader({ alg: 'RS256', kid, typ: 'JWT' })
    .setIssuer(platform.clientId)
    .setSubject(platform.clientId)
    .setAudience(platform.tokenUrl)
    .setIssuedAt()
    .setExpirationTime('5m')
    .setJti(randomUUID())
    .sign(key)
}

/** The same without a signature, as no platform may take it. */
export function unsignedAssertion(platform: Platform): string {
  const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
  const now = Math.floor(Date.now() / 1000)
  const claims = {
    iss: platform.clientId,
    sub: platform.clientId,
    aud: platform.tokenUrl,
    iat: now,
    exp: now + 300,
    jti: randomUUID(),
  }
  return `${part({ alg: 'none', kid: 'none' })}.${part(claims)}.`
}

export async function requestToken(
  platform: Platform,
  assertion: string,
  scopes: readonly string[],
): Promise<TokenAnswer> {
  const response = await fetch(platform.tokenUrl, {
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body: new URLSearchParams({
      grant_type: 'client_credentials',
      client_assertion_type: 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer',
      client_assertion: assertion,
      scope: scopes.join(' '),
    }),
  })
  return { status: response.status, body: (await response.json()) as Record<string, unknown> }
}
