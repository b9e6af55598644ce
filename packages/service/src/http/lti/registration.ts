import { bearerToken } from '@bathyscribe/core/lti13'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Context } from '../../desk/context.js'
import type { RegistrationAnswer } from '../../inbound/messages/registration.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { answerErrors, takeForms } from './oauth.js'

const METADATA_LIMIT = 128 * 1024

/** Where tools register themselves, and change what they said. */
export async function registerRegistration(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => {
    await takeForms(scope)
    answerErrors(scope)
    const token = (request: FastifyRequest) => bearerToken(request.headers.authorization, 200) ?? ''
    scope.post('/lti/register', { schema: { hide: true }, bodyLimit: METADATA_LIMIT }, async (request, reply) => {
      const call = { method: 'POST' as const, token: token(request), sent: request.body ?? null }
      return answer(reply, await run(context, INBOUND.registration, call))
    })
    for (const method of ['GET', 'PUT'] as const)
      scope.route<{ Params: { clientId: string } }>({
        method,
        url: '/lti/register/:clientId',
        schema: { hide: true },
        bodyLimit: METADATA_LIMIT,
        handler: async (request, reply) => {
          const sent = method === 'PUT' ? (request.body ?? null) : undefined
          const call = { method, token: token(request), sent, clientId: request.params.clientId }
          return answer(reply, await run(context, INBOUND.registrationChange, call))
        },
      })
  })
}

function answer(reply: FastifyReply, { status, body }: RegistrationAnswer): FastifyReply {
  if (status === 401) void reply.header('www-authenticate', 'Bearer error="invalid_token"')
  return reply.code(status).header('cache-control', 'no-store').send(body)
}
