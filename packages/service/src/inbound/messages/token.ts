import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import { accessTokenClaims, codeVerifies, grantedScopes, type Scope } from '@bathyscribe/core/lti13'
import { plainAscii } from '@bathyscribe/core/text'
import type { Context } from '../../desk/context.js'
import { explainToken } from '../../desk/diagnosis/diagnose-token.js'
import { tokenUrl } from '../../desk/platform/addresses.js'
import { fingerprint } from '../../keys/key-file.js'
import { kidKey } from '../../records/statements/key-use.js'
import { isOurs, type About, type Refused, type Taken } from '../message.js'
import type { Form, WithAssertion, WithNamed } from '../steps/client-assertion.js'

const LIFETIME_SECONDS = 3600
const REFRESH_DAYS = 180
const DAY_MS = 86_400_000
const GRANT_TYPES: readonly string[] = ['client_credentials', 'authorization_code', 'refresh_token']

export interface TokenAnswer {
  status: 200 | 400 | 401 | 503
  body: Record<string, string | number>
}

/** What a code or a refresh token opens: a connection with the scopes that an instructor agreed to. */
interface Granted {
  id: string
  scopes: string[]
}
type WithGrant = WithAssertion & { connection: Granted | undefined }
type WithScopes = WithGrant & { scopes: Scope[] }

/** The kind of grant that is asked for (RFC 6749 section 4). */
export function grantType(_: Context, { form }: WithNamed): object | Refusal {
  const type = form['grant_type']
  if (type === undefined) return new Refusal('token.request', 'grant_type')
  return GRANT_TYPES.includes(type) ? {} : new Refusal('token.grant_type', type.slice(0, 60))
}

/** A code or refresh token, used up: what it opens. One that comes twice was stolen, by the one or by the other: the connection ends (RFC 6749 section 10.5). */
export async function connectionGranted(
  { records, clock }: Context,
  { form, client }: WithAssertion,
): Promise<{ connection: Granted | undefined } | Refusal> {
  if (form['grant_type'] === 'client_credentials') return { connection: undefined }
  const kind = form['grant_type'] === 'authorization_code' ? 'code' : 'refresh'
  const bad = (detail: string) => new Refusal('token.grant', detail)
  const name = kind === 'code' ? 'code' : 'refresh_token'
  const given = form[name]
  if (!given) return new Refusal('token.request', name)
  const now = clock.now()
  const grant = await records.connections.useGrant(fingerprint(given), kind, client.id, now)
  if (!grant) return bad('unknown')
  if (grant.usedAt) {
    await records.connections.revoke(grant.connectionId, 'misuse', now)
    return bad('used before')
  }
  if (grant.revokedAt) return bad('the connection has ended')
  if (grant.expiresAt <= now) return bad('over')
  if (kind === 'code') {
    if (form['redirect_uri'] !== grant.redirectUri) return bad('redirect_uri')
    if (!codeVerifies(form['code_verifier'] ?? '', grant.challenge ?? '')) return bad('code_verifier')
  }
  return { connection: { id: grant.connectionId, scopes: grant.scopes } }
}

/** Of the scopes that are asked for those that the tool has, and the connection (RFC 6749 section 3.3). */
export function scopesGranted(_: Context, { form, client, connection }: WithGrant): { scopes: Scope[] } | Refusal {
  const held = connection ? connection.scopes.filter((one) => client.scopes.includes(one)) : client.scopes
  const scopes = grantedScopes(form['scope'] ?? (connection ? held.join(' ') : ''), held)
  return scopes.length > 0 ? { scopes } : new Refusal('token.scope_not_granted', (form['scope'] ?? '').slice(0, 300))
}

/** Signs the token beside the writing of the entry; it is answered once both are done (Security Framework 1.0 section 4.1). */
export function serviceTokenGranted(context: Context, call: WithScopes): Taken<TokenAnswer> {
  const { client, scopes, connection, jws } = call
  const now = context.clock.now()
  const claims = accessTokenClaims({
    issuer: context.settings.publicUrl,
    clientId: client.clientId,
    scopes,
    nowSeconds: Math.floor(now.getTime() / 1000),
    lifetimeSeconds: LIFETIME_SECONDS,
    id: context.ids.secret(),
    ...(connection && { connection: connection.id }),
  })
  const token = context.keyring.sign(claims, 'at+jwt')
  return {
    statement: `Granted ${scopes.length} of the scopes asked for to “${client.name}”.`,
    beside: token,
    answer: async () => {
      context.keyUses.note(client.id, kidKey(jws.keyId), now)
      return {
        status: 200,
        body: {
          access_token: await token,
          token_type: 'Bearer',
          expires_in: LIFETIME_SECONDS,
          scope: scopes.join(' '),
          ...(connection && { refresh_token: await newRefreshToken(context, connection.id, now) }),
        },
      }
    },
  }
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

export function aboutForm({ settings }: Context, { form }: Form): About {
  // The assertion opens the door for an hour: its claims are kept, its signature is not.
  const assertion = (form['client_assertion'] ?? '').split('.').slice(0, 2).join('.').slice(0, 4000)
  return {
    entry: {
      registrationId: null,
      request: {
        method: 'POST',
        url: tokenUrl(settings),
        parameters: [
          ['grant_type', (form['grant_type'] ?? '').slice(0, 200)],
          ['scope', (form['scope'] ?? '').slice(0, 2000)],
          ['client_assertion', `${assertion}.…`],
        ],
      },
    },
  }
}

export function aboutClient(context: Context, call: WithNamed): About {
  const { named } = call
  return {
    entry: {
      ...aboutForm(context, call).entry,
      registrationId: named?.id ?? null,
      courseId: named?.courseId ?? null,
    },
  }
}

/** The words of RFC 6749 section 5.2; whatever is wrong with the assertion itself is `invalid_client`. */
const WORDS: Partial<Record<ErrorCode, string>> = {
  'token.request': 'invalid_request',
  'token.grant_type': 'unsupported_grant_type',
  'token.grant': 'invalid_grant',
  'token.scope_not_granted': 'invalid_scope',
}

export function refuseRequest(
  context: Context,
  call: Form & Partial<WithNamed>,
  refusal: Refusal,
): Refused<TokenAnswer> {
  const word = WORDS[refusal.code]
  const { named } = call
  return {
    // The others are about what was asked for, and by whom.
    ...(word === undefined && {
      explain: (wireEntryId: string) =>
        explainToken(context, wireEntryId, {
          token: call.form['client_assertion'] ?? '',
          kind: 'assertion',
          registrationId: named?.id ?? null,
          courseId: named?.courseId ?? null,
          isAsked: false,
        }),
    }),
    answer: () => {
      if (isOurs(refusal)) throw refusal
      return {
        status: word === undefined ? 401 : 400,
        body: {
          error: word ?? 'invalid_client',
          error_description: plainAscii(`${refusal.code}: ${sentenceOf(refusal)}`),
        },
      }
    },
  }
}
