import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import {
  checkAccessToken,
  holdsScope,
  LINE_ITEM_READ_SCOPE,
  OUTCOMES_SCOPE,
  readJws,
  RESULT_READ_SCOPE,
  SCORE_SCOPE,
  verifyJws,
  type Claims,
} from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import { verifyRs256 } from '../../keys/verify-rsa.js'
import type { CallerRow } from '../../records/statements/service-callers.js'

/** A call of a service by its token. `column` and `subject` are looked up beside it. */
export interface ServiceCall {
  bearer: string | undefined
  scope: string
  courseId: string
  column?: string | undefined
  subject?: string | undefined
}

/** A token of ours that is good, and whose it is. */
export interface AccessToken {
  clientId: string
  scopes: string[]
  connection: string | undefined
}

/** That the bearer's token is one of ours, whole and not over (RFC 6750, RFC 9068 section 4). Does NOT check what it opens. */
export async function accessToken(context: Context, bearer: string | undefined): Promise<AccessToken | Refusal> {
  if (!bearer) return new Refusal('service_token.missing')
  const claims = await claimsOf(context, bearer)
  const token =
    claims &&
    checkAccessToken(claims, {
      issuer: context.settings.publicUrl,
      nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
    })
  return token ?? new Refusal('service_token.unknown')
}

/** Who calls, and what is known of the column and the person that are named: one query. */
export async function callerOf(context: Context, token: AccessToken, call: ServiceCall): Promise<CallerRow | Refusal> {
  const caller = await context.statements.findCaller({
    ...call,
    clientId: token.clientId,
    connection: token.connection,
  })
  return caller ?? new Refusal('service_token.other_course')
}

/** That the tool may do so in this course now, whatever its token was granted for: its state, its scopes, its place, its connection. */
export async function mayCall(
  context: Context,
  { token, caller, scope }: { token: AccessToken; caller: CallerRow; scope: string },
): Promise<Refusal | undefined> {
  const { tool } = caller
  if (tool.state !== 'enabled' && tool.state !== 'suspended') return new Refusal('service_token.unknown')
  if (tool.state === 'suspended' && !(tool.scoresWhileSuspended && WHILE_SUSPENDED.includes(scope)))
    return new Refusal('service_token.suspended')
  // A scope that was taken back since the token was granted opens nothing any more.
  if (!holdsScope(token.scopes, scope) || !holdsScope(tool.scopes, scope))
    return new Refusal('service_token.scope', scope)
  if (!caller.isThere) return new Refusal('service_token.other_course')
  if (token.connection === undefined) return undefined
  if (!holdsScope(caller.connectionScopes ?? [], scope)) return new Refusal('service_token.scope', scope)
  await noteUse(context, token.connection)
  return undefined
}

/** What a suspended tool still needs where its scores are taken: to send them, and to see where they go. Nothing else. */
const WHILE_SUSPENDED: readonly string[] = [SCORE_SCOPE, LINE_ITEM_READ_SCOPE, RESULT_READ_SCOPE, OUTCOMES_SCOPE]

/** A tool by an instructor's consent, for what belongs to no single course. */
export async function connected(context: Context, token: AccessToken) {
  const tool = await context.statements.findClient(token.clientId)
  if (!token.connection || !tool || (tool.state !== 'enabled' && tool.state !== 'suspended'))
    return new Refusal('service_token.unknown')
  if (tool.state === 'suspended') return new Refusal('service_token.suspended')
  const connection = await context.records.connections.one(token.connection)
  if (!connection || connection.revokedAt || connection.tool.id !== tool.id) return new Refusal('service_token.unknown')
  await noteUse(context, token.connection)
  return { tool, connection }
}

const NOTE_EVERY_MS = 60_000

/** A burst of scores does not write the use of its connection down with each. */
async function noteUse({ records, clock, memory }: Context, connectionId: string): Promise<void> {
  const now = clock.now()
  if (now.getTime() - (memory.connectionUses.get(connectionId) ?? 0) < NOTE_EVERY_MS) return
  memory.connectionUses.set(connectionId, now.getTime())
  await records.connections.noteUse(connectionId, now)
}

async function claimsOf({ keyring, memory }: Context, bearer: string): Promise<Claims | undefined> {
  const keys = await keyring.published()
  const seen = memory.verifiedTokens.get(bearer)
  // A key that is not published any more takes its tokens with it.
  if (seen && keys.some((key) => key.kid === seen.kid)) return seen.claims
  const jws = readJws(bearer)
  // Another kind of token under our keys, an id_token above all, is none that opens a service (RFC 9068 section 4).
  if (jws instanceof Problem || jws.type !== 'at+jwt' || verifyJws(jws, keys, verifyRs256)) return undefined
  memory.verifiedTokens.set(bearer, { kid: jws.keyId ?? '', claims: jws.claims })
  return jws.claims
}
