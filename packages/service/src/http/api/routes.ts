import { operations, type Access, type CallAnswer, type OperationName, type Operations } from '@bathyscribe/contract'
import { countedAddress } from '@bathyscribe/core/identity'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import type { z } from 'zod'
import type { Context } from '../../desk/context.js'
import { Abandoned, readFor } from '../../records/abandoned.js'
import { admit, type Caller } from '../caller.js'

type Parsed<S> = S extends z.ZodType ? z.output<S> : undefined

/** What a handler gets: the request's parts as the contract parsed them, and who calls. */
export interface Call<N extends OperationName> {
  params: Parsed<Operations[N]['params']>
  query: Parsed<Operations[N]['query']>
  body: Parsed<Operations[N]['body']>
  caller: Caller
  request: FastifyRequest
  reply: FastifyReply
}
export type Handler<N extends OperationName> = (call: Call<N>) => Promise<CallAnswer<N>>
export type Handlers = { [N in OperationName]: Handler<N> }

/** Counted when it is known who asks, and before the body is read. */
export const limited = (name: string, access: Access, max: number, timeWindow: '1 minute' | '1 hour' = '1 minute') => ({
  max,
  timeWindow,
  hook: 'preParsing' as const,
  keyGenerator: (request: FastifyRequest) =>
    `${name} ${access.who === 'anyone' ? countedAddress(request.ip) : request.caller!.actor.id}`,
})
// Whole files come as text in these.
const FILE_LIMIT = 6 * 1024 * 1024
const TAKES_FILES: readonly OperationName[] = ['reconcileScores', 'takeReconciled', 'importRoster']

/** Registers every call of the contract; the type of `handlers` sees to it that none is missing. */
export function registerOperations(app: FastifyInstance, context: Context, handlers: Handlers): void {
  const typed = app.withTypeProvider<ZodTypeProvider>()
  for (const name of Object.keys(operations) as OperationName[]) {
    const operation = operations[name]
    const handle = handlers[name] as Handler<OperationName>
    typed.route({
      method: operation.method,
      url: operation.path,
      ...(TAKES_FILES.includes(name) && { bodyLimit: FILE_LIMIT }),
      schema: {
        operationId: name,
        summary: operation.summary,
        tags: [operation.tag],
        ...(operation.params && { params: operation.params }),
        ...(operation.query && { querystring: operation.query }),
        ...(operation.body && { body: operation.body }),
        ...(operation.answer && { response: { [operation.status]: operation.answer } }),
      },
      ...(operation.bulky && { serializerCompiler: () => (answer: unknown) => JSON.stringify(answer) }),
      config: operation.perMinute === null ? {} : { rateLimit: limited(name, operation.access, operation.perMinute) },
      // Who may call is decided before the body is even read: strangers neither learn from its faults nor make us work.
      onRequest: async (request, reply) => {
        request.caller = await admit(app, context, operation.access, request, reply)
      },
      preValidation: async (request) => {
        // Who says nothing gets what is usual; what has to be said is then named as missing.
        if (operation.body) request.body ??= {}
      },
      handler: async (request, reply) => {
        const call = {
          params: request.params,
          query: request.query,
          body: request.body,
          caller: request.caller!,
          request,
          reply,
        } as Call<OperationName>
        const answer = await (operation.method === 'GET' ? readFor(untilGone(reply), () => handle(call)) : handle(call))
        return reply.code(operation.status).send(answer)
      },
    })
  }
}

/** Aborts when the caller hangs up before the answer. */
function untilGone(reply: FastifyReply): AbortSignal {
  const gone = new AbortController()
  reply.raw.once('close', () => {
    if (!reply.raw.writableFinished) gone.abort(new Abandoned())
  })
  return gone.signal
}

declare module 'fastify' {
  interface FastifyRequest {
    caller: Caller | null
    /** The session that a CSRF token has to belong to. */
    sessionId: string
  }
}
