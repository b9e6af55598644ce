import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { checkAssertion, claimsAsTheyStand, readJws, type Assertion, type Jws } from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import { tokenUrl } from '../../desk/platform/addresses.js'
import type { ClientRow } from '../../records/statements/clients.js'
import { leewaySeconds, tokenNonce } from './freshness.js'
import { verifiedByKeyset } from './keyset-signature.js'

// A tool says who it is by a token that it signed itself (RFC 7523 section 3; Security Framework 1.0 section 4.1.1).

const ASSERTION_TYPE = 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer'

/** The form of a request at the token endpoint. Values given twice are refused before. */
export interface Form {
  form: Readonly<Record<string, string>>
}
export type WithNamed = Form & { named: ClientRow | undefined }
export type WithJws = WithNamed & { jws: Jws }
export type WithClient = WithJws & { client: ClientRow }
export type WithAssertion = WithClient & { assertion: Assertion }

/** Whom an assertion names, be it good or not, so that its refusal is found beside that tool. Opens nothing. */
export async function clientNamed({ statements }: Context, { form }: Form) {
  const sub = claimsAsTheyStand(form['client_assertion'] ?? '')?.['sub']
  return { named: typeof sub === 'string' && sub.length <= 64 ? await statements.findClient(sub) : undefined }
}

export function assertionGiven(_: Context, { form }: WithNamed): { jws: Jws } | Refusal {
  if (form['client_assertion_type'] !== ASSERTION_TYPE) return new Refusal('token.request', 'client_assertion_type')
  if (!form['client_assertion']) return new Refusal('token.request', 'client_assertion')
  const jws = readJws(form['client_assertion'])
  return jws instanceof Problem ? Refusal.of(jws) : { jws }
}

/** That the tool is one of ours, and may still come. */
export function clientAtWork(_: Context, { named, jws }: WithJws): { client: ClientRow } | Refusal {
  if (!named) return new Refusal('token.client_unknown', `“${String(jws.claims['sub']).slice(0, 80)}”`)
  return named.state === 'enabled' || (named.state === 'suspended' && named.scoresWhileSuspended)
    ? { client: named }
    : new Refusal('token.client_disabled', named.state)
}

export async function assertionSigned(context: Context, { client, jws }: WithClient): Promise<object | Refusal> {
  return (await verifiedByKeyset(context, client, jws)) ?? {}
}

export function assertionClaims(context: Context, { client, jws }: WithClient): { assertion: Assertion } | Refusal {
  const { settings, clock } = context
  const assertion = checkAssertion(jws.claims, {
    clientId: client.clientId,
    audiences: [tokenUrl(settings), settings.publicUrl],
    nowSeconds: Math.floor(clock.now().getTime() / 1000),
    leewaySeconds: leewaySeconds(context),
  })
  return assertion instanceof Problem ? Refusal.of(assertion) : { assertion }
}

/** An assertion is used once, whatever it was for. */
export function assertionNonce(context: Context, { assertion: { id, expiresSeconds } }: WithAssertion) {
  return { nonce: tokenNonce(context, `assertion ${id}`, expiresSeconds) }
}

export function assertionUsed({ assertion }: WithAssertion): Refusal {
  return new Refusal('token.assertion_used', assertion.id.slice(0, 60))
}
