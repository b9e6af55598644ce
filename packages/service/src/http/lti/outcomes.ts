import { Refusal } from '@bathyscribe/contract'
import { OUTCOMES_MAX_BYTES } from '@bathyscribe/core/lti1'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Context } from '../../desk/context.js'
import { outcomeFailure } from '../../inbound/messages/outcome.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { leaveUnread } from '../../inbound/unread.js'
import { toRefusal } from '../problems.js'

const XML = 'application/xml; charset=utf-8'

/** `POST /lti/outcomes`: Basic Outcomes. Every answer, of errors too, is an envelope. */
export async function registerOutcomes(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => {
    scope.removeAllContentTypeParsers()
    scope.addContentTypeParser(
      ['application/xml', 'text/xml'],
      { parseAs: 'buffer', bodyLimit: OUTCOMES_MAX_BYTES },
      (_, body, done) => done(null, body),
    )
    scope.setErrorHandler((error, request, reply) => sendFailure(context, toOutcomeRefusal(error, request), reply))

    scope.post<{ Body: Buffer | undefined }>('/lti/outcomes', { schema: { hide: true } }, async (request, reply) => {
      const { status, xml } = await run(context, INBOUND.outcome, {
        path: request.url,
        headers: request.headers,
        body: request.body ?? Buffer.alloc(0),
      })
      return reply.code(status).type(XML).send(xml)
    })
  })
}

function toOutcomeRefusal(error: unknown, request: FastifyRequest): Refusal {
  const refusal = toRefusal(error, request)
  if (refusal.code === 'request.too_large') return new Refusal('outcomes.too_large')
  if (refusal.code === 'request.media_type')
    return new Refusal('outcomes.media_type', (request.headers['content-type'] ?? 'none').slice(0, 80))
  return refusal
}

/** What was refused before it could be read leaves a wire entry as well, as long as the records can be reached. */
async function sendFailure(context: Context, refusal: Refusal, reply: FastifyReply): Promise<FastifyReply> {
  const xml = outcomeFailure(context, refusal)
  const { request } = reply
  await leaveUnread(context, refusal, {
    kind: 'outcome',
    statement: refusal.toProblem().title,
    durationMs: reply.elapsedTime,
    request: {
      method: request.method,
      url: request.url,
      headers: { 'content-length': request.headers['content-length'] ?? '' },
    },
    response: { status: refusal.status, body: xml },
  })
  if (refusal.status === 503) void reply.header('retry-after', '5')
  return reply.code(refusal.status).type(XML).send(xml)
}
