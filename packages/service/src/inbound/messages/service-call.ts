import { Problem } from '@bathyscribe/core/result'
import type { Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import type { ServiceAnswer } from '../../desk/services/answer.js'
import type { Context } from '../../desk/context.js'
import type { CallerRow } from '../../records/statements/service-callers.js'
import type { Taken } from '../message.js'
import type { Call, WithCaller } from './service.js'

/** What a service is asked, beside who asks. */
export interface Asked {
  query: Readonly<Record<string, string | undefined>>
  /** The line item that is named in the address. */
  item: string
  body: unknown
}

export interface ServiceCall extends Call {
  query: Readonly<Record<string, string | undefined>>
  /** What the wire log calls it. */
  says: string
  serve: (context: Context, caller: CallerRow, asked: Asked) => Promise<ServiceAnswer>
}

/** Does what the service is for. What it refuses is refused in its form. */
export async function served(
  context: Context,
  { caller, serve, says, query, column, text }: WithCaller<ServiceCall>,
): Promise<Taken<ServiceAnswer> | Refusal> {
  const read = text === undefined ? undefined : readJson(text)
  const body = read === undefined || read instanceof Problem ? undefined : read.value
  const answer = await serve(context, caller, { query, item: column ?? '', body })
  return { statement: `${says} of ${caller.course.code}.`, answer: () => answer }
}
