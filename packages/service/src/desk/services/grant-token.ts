import { plainAscii } from '@bathyscribe/core/text'
import { ERRORS, Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import {
  accessTokenClaims,
  checkAssertion,
  claimsAsTheyStand,
  codeVerifies,
  grantedScopes,
  readJws,
  verifyJws,
  type Assertion,
  type Jws,
} from '@bathyscribe/core/lti13'
import { fingerprint } from '../../keys/key-file.js'
import { verifyRs256 } from '../../keys/rsa.js'
import type { ClientRow } from '../../records/statements/clients.js'
import { kidKey } from '../../records/statements/key-use.js'
import { NO_LINK } from '../../records/statements/messages.js'
import type { Context } from '../context.js'
import { tokenUrl } from '../platform/addresses.js'

const ASSERTION_TYPE = 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer'
const LIFETIME_SECONDS = 3600
const REFRESH_DAYS = 180
const DAY_MS = 86_400_000
const GRANT_TYPES: readonly (string | undefined)[] = ['client_credentials', 'authorization_code', 'refresh_token']

/** The form of a token request, as it came in. Values given twice are refused before. */
export type TokenRequest = Readonly<Record<string, string>>

export interface TokenAnswer {
  status: 200 | 400 | 401 | 503
  body: Record<string, string | number>
}

/** The words of RFC 6749 section 5.2. */
type TokenError = 'invalid_request' | 'invalid_client' | 'invalid_grant' | 'unsupported_grant_type' | 'invalid_scope'

interface Refused {
  error: TokenError
  code: ErrorCode
  detail: string
}

/**
 * Grants a service token (Security Framework 1.0 section 4.1; RFC 7523). The steps, in their order: the form, the client that the assertion names, its
 * signature by the tool's keys, its claims, the scopes, its single use. The wire entry is committed before the token is answered.
 */
export async function grantToken(context: Context, request: TokenRequest): Promise<TokenAnswer> {
  const started = performance.now()
  const reached: Reached = { context, request, started, tool: undefined }
  const jws = readRequest(request)
  if ('error' in jws) return refuse({ ...reached, tool: await clientNamed(context, request) }, jws)
  const tool = await clientOf(reached, jws)
  if ('error' in tool) return refuse(reached, tool)
  reached.tool = tool
  const unverified = await checkSignature(context, tool, jws)
  if (unverified) return refuse(reached, unverified)

  const now = context.clock.now()
  const nowSeconds = Math.floor(now.getTime() / 1000)
  const assertion = checkClaims(context, tool, jws, nowSeconds)
  if ('code' in assertion) return refuse(reached, { error: 'invalid_client', ...assertion })
  const connected = await connectionOf(reached, tool, now)
  if (connected && 'error' in connected) return refuse(reached, connected)
  const held = connected ? connected.scopes.filter((one) => tool.scopes.includes(one)) : tool.scopes
  const scopes = grantedScopes(request['scope'] ?? (connected ? held.join(' ') : ''), held)
  if (scopes.length === 0)
    return refuse(reached, {
      error: 'invalid_scope',
      code: 'token.scope_not_granted',
      detail: (request['scope'] ?? '').slice(0, 300),
    })

  const id = context.ids.secret()
  const claims = accessTokenClaims({
    issuer: context.settings.publicUrl,
    clientId: tool.clientId,
    scopes,
    nowSeconds,
    lifetimeSeconds: LIFETIME_SECONDS,
    id,
    ...(connected && { connection: connected.id }),
  })
  const [token, written] = await Promise.all([
    context.keyring.sign(claims, 'at+jwt'),
    leaveEntry(
      reached,
      { outcome: 'accepted', statement: `Granted ${scopes.length} of the scopes asked for to “${tool.name}”.` },
      usedUp(assertion),
    ),
  ])
  if (!written.written) return refuse(reached, usedBefore(assertion))
  context.keyUses.note(tool.id, kidKey(jws.keyId), now)
  return {
    status: 200,
    body: {
      access_token: token,
      token_type: 'Bearer',
      expires_in: LIFETIME_SECONDS,
      scope: scopes.join(' '),
      ...(connected && { refresh_token: await newRefreshToken(context, connected.id, now) }),
    },
  }
}

/** A code or refresh token, used up: what it opens. One that comes twice was stolen, by the one or by the other: the connection ends (RFC 6749 section 10.5). */
async function connectionOf(
  { context, request }: Reached,
  tool: ClientRow,
  now: Date,
): Promise<{ id: string; scopes: string[] } | Refused | undefined> {
  const kind = request['grant_type'] === 'authorization_code' ? 'code' : 'refresh'
  if (request['grant_type'] === 'client_credentials') return undefined
  const bad = (detail: string): Refused => ({ error: 'invalid_grant', code: 'token.grant', detail })
  const given = request[kind === 'code' ? 'code' : 'refresh_token']
  if (!given)
    return { error: 'invalid_request', code: 'token.request', detail: kind === 'code' ? 'code' : 'refresh_token' }
  const grant = await context.records.connections.useGrant(fingerprint(given), kind, tool.id, now)
  if (!grant) return bad('unknown')
  if (grant.usedAt) {
    await context.records.connections.revoke(grant.connectionId, 'misuse', now)
    return bad('used before')
  }
  if (grant.revokedAt) return bad('the connection has ended')
  if (grant.expiresAt <= now) return bad('over')
  if (kind === 'code') {
    if (request['redirect_uri'] !== grant.redirectUri) return bad('redirect_uri')
    if (!codeVerifies(request['code_verifier'] ?? '', grant.challenge ?? '')) return bad('code_verifier')
  }
  return { id: grant.connectionId, scopes: grant.scopes }
}

async function newRefreshToken({ records, ids }: Context, connectionId: string, now: Date): Promise<string> {
  const token = ids.secret()
  await records.connections.addGrant({
    fingerprint: fingerprint(token),
    connectionId,
    kind: 'refresh',
    redirectUri: null,
    challenge: null,
    expiresAt: new Date(now.getTime() + REFRESH_DAYS * DAY_MS),
  })
  return token
}

/** Ends a connection by one of its tokens, as the tool that holds it asks (RFC 7009). Unknown tokens are answered alike. */
export async function revokeByTool(context: Context, request: TokenRequest): Promise<TokenAnswer | undefined> {
  const reached: Reached = { context, request, started: performance.now(), tool: undefined }
  const jws = readAssertion(request)
  if ('error' in jws) return refuse(reached, jws)
  const tool = await clientOf(reached, jws)
  if ('error' in tool) return refuse(reached, tool)
  const unverified = await checkSignature(context, tool, jws)
  if (unverified) return refuse({ ...reached, tool }, unverified)
  const now = context.clock.now()
  const assertion = checkClaims(context, tool, jws, Math.floor(now.getTime() / 1000))
  if ('code' in assertion) return refuse({ ...reached, tool }, { error: 'invalid_client', ...assertion })
  const written = await leaveEntry(
    { ...reached, tool },
    { outcome: 'accepted', statement: `“${tool.name}” ended a connection by its token.` },
    usedUp(assertion),
  )
  if (!written.written) return refuse({ ...reached, tool }, usedBefore(assertion))
  context.keyUses.note(tool.id, kidKey(jws.keyId), now)
  const found = await context.records.connections.connectionOfGrant(fingerprint(request['token'] ?? ''))
  if (found?.registrationId === tool.id) await context.records.connections.revoke(found.connectionId, 'tool', now)
  return undefined
}

/** So much longer than it is good an assertion is remembered: clocks differ by a minute at most. */
const REMEMBERED_SECONDS = 120

/** An assertion is used once, whatever it was for (RFC 7523 section 3). */
const usedUp = ({ id, expiresSeconds }: Assertion) => ({
  value: `assertion ${id}`,
  expiresAt: new Date((expiresSeconds + REMEMBERED_SECONDS) * 1000),
})
const usedBefore = ({ id }: Assertion): Refused => ({
  error: 'invalid_client',
  code: 'token.assertion_used',
  detail: id.slice(0, 60),
})

interface Reached {
  context: Context
  request: TokenRequest
  started: number
  tool: ClientRow | undefined
}

function readRequest(request: TokenRequest): Jws | Refused {
  const bad = (code: ErrorCode, detail: string): Refused => ({ error: 'invalid_request', code, detail })
  if (request['grant_type'] === undefined) return bad('token.request', 'grant_type')
  if (!GRANT_TYPES.includes(request['grant_type']))
    return { error: 'unsupported_grant_type', code: 'token.grant_type', detail: request['grant_type'].slice(0, 60) }
  return readAssertion(request)
}

function readAssertion(request: TokenRequest): Jws | Refused {
  const bad = (code: ErrorCode, detail: string): Refused => ({ error: 'invalid_request', code, detail })
  if (request['client_assertion_type'] !== ASSERTION_TYPE) return bad('token.request', 'client_assertion_type')
  if (!request['client_assertion']) return bad('token.request', 'client_assertion')
  const jws = readJws(request['client_assertion'])
  return 'code' in jws ? { error: 'invalid_client', code: jws.code, detail: jws.detail } : jws
}

async function clientOf({ context }: Reached, jws: Jws): Promise<ClientRow | Refused> {
  const { sub } = jws.claims
  const bad = (code: ErrorCode, detail: string): Refused => ({ error: 'invalid_client', code, detail })
  const tool = typeof sub === 'string' && sub.length <= 64 ? await context.statements.findClient(sub) : undefined
  if (!tool) return bad('token.client_unknown', `“${String(sub).slice(0, 80)}”`)
  return tool.state === 'enabled' || (tool.state === 'suspended' && tool.scoresWhileSuspended)
    ? tool
    : bad('token.client_disabled', tool.state)
}

/** Whom an assertion that cannot be read through names all the same, so that its refusal is found beside that tool. Opens nothing. */
async function clientNamed({ statements }: Context, request: TokenRequest): Promise<ClientRow | undefined> {
  const sub = claimsAsTheyStand(request['client_assertion'] ?? '')?.['sub']
  return typeof sub === 'string' && sub.length <= 64 ? statements.findClient(sub) : undefined
}

function checkClaims({ settings }: Context, tool: ClientRow, jws: Jws, nowSeconds: number) {
  return checkAssertion(jws.claims, {
    clientId: tool.clientId,
    audiences: [tokenUrl(settings), settings.publicUrl],
    nowSeconds,
    leewaySeconds: Math.min(60, settings.clockToleranceSeconds),
  })
}

async function checkSignature(context: Context, tool: ClientRow, jws: Jws): Promise<Refused | undefined> {
  try {
    const problem = verifyJws(jws, await context.toolKeysets.keysOf(tool, jws.keyId), verifyRs256)
    return problem && { error: 'invalid_client', code: problem.code, detail: problem.detail }
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return { error: 'invalid_client', code: error.code, detail: error.detail ?? '' }
  }
}

async function refuse(reached: Reached, refused: Refused): Promise<TokenAnswer> {
  await leaveEntry(reached, {
    outcome: 'refused',
    code: refused.code,
    detail: refused.detail || null,
    statement: ERRORS[refused.code].sentence,
  })
  return {
    status: refused.error === 'invalid_client' ? 401 : 400,
    body: { error: refused.error, error_description: plainAscii(`${refused.code}: ${sentenceOf(refused)}`) },
  }
}

function leaveEntry(
  { context, request, started, tool }: Reached,
  part: { outcome: 'accepted' | 'refused'; statement: string; code?: ErrorCode; detail?: string | null },
  nonce?: { value: string; expiresAt: Date },
) {
  // The assertion opens the door for an hour: its claims are kept, its signature is not.
  const assertion = (request['client_assertion'] ?? '').split('.').slice(0, 2).join('.').slice(0, 4000)
  return context.statements.writeMessage({
    ...NO_LINK,
    code: null,
    detail: null,
    ...part,
    at: context.clock.now(),
    kind: 'token',
    direction: 'received',
    registrationId: tool?.id ?? null,
    courseId: tool?.courseId ?? null,
    durationMs: performance.now() - started,
    request: {
      method: 'POST',
      url: tokenUrl(context.settings),
      parameters: [
        ['grant_type', (request['grant_type'] ?? '').slice(0, 200)],
        ['scope', (request['scope'] ?? '').slice(0, 2000)],
        ['client_assertion', `${assertion}.…`],
      ],
    },
    ...(nonce && { nonce }),
  })
}
