import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import {
  checkAccessToken,
  holdsScope,
  LINE_ITEM_READ_SCOPE,
  OUTCOMES_SCOPE,
  readJws,
  RESULT_READ_SCOPE,
  SCORE_SCOPE,
  verifyJws,
} from '@bathyscribe/core/lti13'
import { verifyRs256 } from '../../keys/rsa.js'
import type { CallerRow } from '../../records/statements/service-callers.js'
import { NO_LINK } from '../../records/statements/messages.js'
import { clip } from '../../wire/mask.js'
import type { Context } from '../context.js'

/** A tool that calls a service, in one course. */
export type ToolCaller = CallerRow

/** A call that was refused although its token told whose it is: it stands under that tool in the wire log. */
class CallRefused extends Refusal {
  constructor(
    readonly caller: Pick<ToolCaller, 'tool'>,
    code: ErrorCode,
    detail?: string,
  ) {
    super(code, detail)
  }
}

/** A call of a service by its token. `column` and `subject` are looked up beside it. */
export interface ServiceCall {
  bearer: string | undefined
  scope: string
  courseId: string
  column?: string | undefined
  subject?: string | undefined
}

/**
 * Finds which tool calls a service, and that it may in this course: our own token, its scope, the tool still enabled, the course one that it is used in. One query.
 * @throws Refusal `service_token.*`
 */
export async function toolCaller(context: Context, call: ServiceCall): Promise<ToolCaller> {
  if (!call.bearer) throw new Refusal('service_token.missing')
  const token = checkAccessToken(await claimsOf(context, call.bearer), {
    issuer: context.settings.publicUrl,
    nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
  })
  if (!token) throw new Refusal('service_token.unknown')
  const caller = await context.statements.findCaller({
    ...call,
    clientId: token.clientId,
    connection: token.connection,
  })
  if (!caller) throw new Refusal('service_token.other_course')
  const { tool } = caller
  const refuse = (code: ErrorCode, detail?: string) => new CallRefused(caller, code, detail)
  if (tool.state !== 'enabled' && tool.state !== 'suspended') throw new Refusal('service_token.unknown')
  if (!mayNow(tool, call.scope)) throw refuse('service_token.suspended')
  // A scope that was taken back since the token was granted opens nothing any more.
  if (!holdsScope(token.scopes, call.scope) || !holdsScope(tool.scopes, call.scope))
    throw refuse('service_token.scope', call.scope)
  if (!caller.isThere) throw refuse('service_token.other_course')
  if (token.connection !== undefined) {
    if (!holdsScope(caller.connectionScopes ?? [], call.scope)) throw refuse('service_token.scope', call.scope)
    await noteUse(context, token.connection)
  }
  return caller
}

/** What a suspended tool still needs where its scores are taken: to send them, and to see where they go. Nothing else. */
const WHILE_SUSPENDED: readonly string[] = [SCORE_SCOPE, LINE_ITEM_READ_SCOPE, RESULT_READ_SCOPE, OUTCOMES_SCOPE]

/** Whether a tool’s state lets it do something at this moment, whatever its token was granted for. */
function mayNow(tool: { state: string; scoresWhileSuspended: boolean }, scope: string): boolean {
  return tool.state === 'enabled' || (tool.scoresWhileSuspended && WHILE_SUSPENDED.includes(scope))
}

const NOTE_EVERY_MS = 60_000

/** A burst of scores does not write the use of its connection down with each. */
async function noteUse({ records, clock, memory }: Context, connectionId: string): Promise<void> {
  const now = clock.now()
  if (now.getTime() - (memory.connectionUses.get(connectionId) ?? 0) < NOTE_EVERY_MS) return
  memory.connectionUses.set(connectionId, now.getTime())
  await records.connections.noteUse(connectionId, now)
}

/** Whose token it is, for what belongs to no single course. @throws Refusal `service_token.*` */
export async function connectedCaller(context: Context, bearer: string | undefined) {
  if (!bearer) throw new Refusal('service_token.missing')
  const token = checkAccessToken(await claimsOf(context, bearer), {
    issuer: context.settings.publicUrl,
    nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
  })
  const tool = token && (await context.statements.findClient(token.clientId))
  if (!token?.connection || !tool || (tool.state !== 'enabled' && tool.state !== 'suspended'))
    throw new Refusal('service_token.unknown')
  if (tool.state === 'suspended') throw new Refusal('service_token.suspended')
  const found = await context.records.connections.one(token.connection)
  if (!found || found.revokedAt || found.tool.id !== tool.id) throw new Refusal('service_token.unknown')
  await noteUse(context, token.connection)
  return { tool, connection: found }
}

async function claimsOf({ keyring, memory }: Context, bearer: string): Promise<Record<string, unknown>> {
  const keys = await keyring.published()
  const seen = memory.verifiedTokens.get(bearer)
  // A key that is not published any more takes its tokens with it.
  if (seen && keys.some((key) => key.kid === seen.kid)) return seen.claims
  const jws = readJws(bearer)
  // Another kind of token under our keys, an id_token above all, is none that opens a service (RFC 9068 section 4).
  if ('code' in jws || jws.type !== 'at+jwt' || verifyJws(jws, keys, verifyRs256))
    throw new Refusal('service_token.unknown')
  memory.verifiedTokens.set(bearer, { kid: jws.keyId ?? '', claims: jws.claims })
  return jws.claims
}

/** Leaves the wire entry of a service call. */
export async function leaveServiceEntry(
  context: Context,
  caller:
    | ({ tool: Pick<ToolCaller['tool'], 'id'> } & Partial<Pick<ToolCaller, 'course' | 'column' | 'person'>>)
    | undefined,
  call: { method?: string; url: string; started: number; kind?: 'service' | 'score'; body?: string | undefined },
  {
    error,
    ...found
  }: {
    outcome: 'accepted' | 'refused'
    statement: string
    code?: string
    detail?: string | undefined
    /** Why it was refused; it may tell whose call it was. */
    error?: unknown
  },
): Promise<void> {
  await context.statements.writeMessage({
    ...NO_LINK,
    at: context.clock.now(),
    kind: call.kind ?? 'service',
    direction: 'received',
    code: null,
    ...found,
    detail: found.detail ?? null,
    registrationId: (caller ?? (error instanceof CallRefused ? error.caller : undefined))?.tool.id ?? null,
    courseId: caller?.course?.id ?? null,
    assignmentId: caller?.column?.id ?? null,
    personId: caller?.person?.id ?? null,
    durationMs: performance.now() - call.started,
    request: {
      method: call.method ?? 'GET',
      url: call.url.slice(0, 2000),
      ...(call.body !== undefined && { body: clip(call.body) }),
    },
  })
}
