import { Refusal } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import type { CallerRow } from '../../records/statements/service-callers.js'
import { clip } from '../../wire/mask.js'
import type { About } from '../message.js'
import { accessToken, callerOf, mayCall, type AccessToken } from '../steps/service-token.js'

// What every call of a service has in common, whichever it is.

/** A call of a service as it came in. `url` is the whole address that was asked, at ours. */
export interface Call {
  method: string
  url: string
  bearer: string | undefined
  scope: string
  courseId: string
  /** The line item that is named in the address. */
  column?: string | undefined
  /** As it crossed the wire. */
  text: string | undefined
}
export type WithToken<C extends Call = Call> = C & { token: AccessToken }
export type WithCaller<C extends Call = Call> = WithToken<C> & { caller: CallerRow }

/** That the bearer's token is one of ours. */
export async function serviceToken(context: Context, { bearer }: Call): Promise<{ token: AccessToken } | Refusal> {
  const token = await accessToken(context, bearer)
  return token instanceof Refusal ? token : { token }
}

/** Which tool it is, in which course, about which column and whom. */
export async function callerInCourse(
  context: Context,
  { token, bearer, scope, courseId, column, subject }: WithToken & { subject?: string | undefined },
): Promise<{ caller: CallerRow } | Refusal> {
  const caller = await callerOf(context, token, { bearer, scope, courseId, column, subject })
  return caller instanceof Refusal ? caller : { caller }
}

/** That its state, scopes, place and connection open this service now. */
export async function serviceOpen(context: Context, call: WithCaller): Promise<object | Refusal> {
  return (await mayCall(context, call)) ?? {}
}

export function aboutCall(_: Context, call: Call): About {
  return { entry: { registrationId: null, request: requestOf(call) } }
}

function requestOf({ method, url, text }: Call): object {
  return { method, url: url.slice(0, 2000), body: text === undefined ? undefined : clip(text) }
}

/** Whose token it is is told; what does not exist any more is nobody's. */
export function aboutTool(_: Context, call: WithCaller): About {
  const { id, state } = call.caller.tool
  const isThere = state === 'enabled' || state === 'suspended'
  return { entry: { registrationId: isThere ? id : null, request: requestOf(call) } }
}

export function aboutCaller(_: Context, call: WithCaller): About {
  const { tool, course, column, person } = call.caller
  return {
    entry: {
      registrationId: tool.id,
      request: requestOf(call),
      courseId: course.id,
      assignmentId: column?.id ?? null,
      personId: person?.id ?? null,
    },
  }
}
