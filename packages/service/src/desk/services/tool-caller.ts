import { Refusal } from '@bathyscribe/contract'
import { checkAccessToken, holdsScope, readJws, verifyJws } from '@bathyscribe/core/lti13'
import { verifyRs256 } from '../../keys/rsa.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { ClientRow } from '../../records/statements/clients.js'
import { NO_LINK } from '../../records/statements/messages.js'
import type { Context } from '../context.js'

/** A tool that calls a service, in one course. */
export interface ToolCaller {
  tool: ClientRow
  course: CourseRecord
}

/**
 * Finds which tool calls a service, and that it may in this course: our own token, its scope, the tool still enabled, the course one that it is used in.
 * @throws Refusal `service_token.*`
 */
export async function toolCaller(
  context: Context,
  call: { bearer: string | undefined; scope: string; courseId: string },
): Promise<ToolCaller> {
  if (!call.bearer) throw new Refusal('service_token.missing')
  const jws = readJws(call.bearer)
  if ('code' in jws || verifyJws(jws, await context.keyring.published(), verifyRs256))
    throw new Refusal('service_token.unknown')
  const token = checkAccessToken(jws.claims, {
    issuer: context.settings.publicUrl,
    nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
  })
  const tool = token && (await context.statements.findClient(token.clientId))
  if (!token || !tool || (tool.state !== 'enabled' && tool.state !== 'suspended'))
    throw new Refusal('service_token.unknown')
  // A scope that was taken back since the token was granted opens nothing any more.
  if (!holdsScope(token.scopes, call.scope) || !holdsScope(tool.scopes, call.scope))
    throw new Refusal('service_token.scope', call.scope)
  const isThere = await context.records.tools.isInCourse(tool.id, call.courseId)
  if (!isThere) throw new Refusal('service_token.other_course')
  return { tool, course: await context.records.courses.byRef(call.courseId) }
}

/** Leaves the wire entry of a service call. */
export async function leaveServiceEntry(
  context: Context,
  caller: ToolCaller | undefined,
  call: { url: string; started: number; kind?: 'service' | 'score' },
  found: { outcome: 'accepted' | 'refused'; statement: string; code?: string; detail?: string | undefined },
): Promise<void> {
  await context.statements.writeMessage({
    ...NO_LINK,
    at: context.clock.now(),
    kind: call.kind ?? 'service',
    direction: 'received',
    code: null,
    ...found,
    detail: found.detail ?? null,
    registrationId: caller?.tool.id ?? null,
    courseId: caller?.course.id ?? null,
    durationMs: performance.now() - call.started,
    request: { method: call.kind === 'score' ? 'POST' : 'GET', url: call.url.slice(0, 2000) },
  })
}
