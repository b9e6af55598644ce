import { createHash, randomBytes } from 'node:crypto'
import { LaunchRefused } from '../lti1/verify-launch.js'
import { clientAssertion } from '../lti13/service-token.js'
import type { Platform, SigningKey } from '../lti13/state.js'

const ASSERTION = 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer'

/** What a platform says of its authorisation server (RFC 8414). */
export interface Server {
  authorization_endpoint: string
  token_endpoint: string
  revocation_endpoint: string
  'urn:bathyscribe:courses': string
}
/** What a connection is held by. */
export interface Held {
  access: string
  refresh: string
  expiresAt: number
}

export async function discover(platform: Platform): Promise<Server> {
  const response = await fetch(`${platform.issuer}/.well-known/oauth-authorization-server`)
  if (!response.ok) throw new LaunchRefused(502, 'The platform does not say how it is connected with.')
  return (await response.json()) as Server
}

/** Where an instructor is sent, and what has to be kept until the way back (RFC 6749 section 4.1.1, RFC 7636). */
export function beginning(server: Server, platform: Platform, redirectUri: string, scopes: readonly string[]) {
  const verifier = randomBytes(32).toString('base64url')
  const state = randomBytes(16).toString('base64url')
  const to = new URL(server.authorization_endpoint)
  to.search = String(
    new URLSearchParams({
      response_type: 'code',
      client_id: platform.clientId,
      redirect_uri: redirectUri,
      scope: scopes.join(' '),
      state,
      code_challenge: createHash('sha256').update(verifier).digest('base64url'),
      code_challenge_method: 'S256',
    }),
  )
  return { url: to.href, state, verifier }
}

/** Exchanges a code or a refresh token. @throws LaunchRefused */
export async function exchange(
  server: Server,
  platform: Platform,
  key: SigningKey,
  grant: Record<string, string>,
): Promise<Held> {
  const response = await fetch(server.token_endpoint, {
    method: 'POST',
    body: new URLSearchParams({
      ...grant,
      client_assertion_type: ASSERTION,
      client_assertion: await clientAssertion(platform, key),
    }),
  })
  const body = (await response.json()) as Record<string, unknown>
  if (typeof body['access_token'] !== 'string' || typeof body['refresh_token'] !== 'string')
    throw new LaunchRefused(502, `The platform gave no token: ${String(body['error_description'] ?? body['error'])}`)
  return {
    access: body['access_token'],
    refresh: body['refresh_token'],
    expiresAt: Date.now() + Number(body['expires_in'] ?? 300) * 1000 - 30_000,
  }
}

/** Gives a connection back (RFC 7009). */
export async function giveBack(server: Server, platform: Platform, key: SigningKey, token: string): Promise<void> {
  await fetch(server.revocation_endpoint, {
    method: 'POST',
    body: new URLSearchParams({
      token,
      client_assertion_type: ASSERTION,
      client_assertion: await clientAssertion(platform, key),
    }),
  })
}
