import type { FastifyInstance } from 'fastify'
import type { Context } from '../../desk/context.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { answerErrors, flat, NOT_KEPT, takeForms } from './oauth.js'

/** Where tools get tokens, and give connections back. */
export async function registerTokens(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => {
    await takeForms(scope)
    answerErrors(scope)
    const messages = { '/lti/token': INBOUND.token, '/oauth/revoke': INBOUND.revocation }
    for (const [url, message] of Object.entries(messages))
      scope.post(url, { schema: { hide: true } }, async (request, reply) => {
        const { status, body } = await run(context, message, { form: flat(request.body) })
        return reply.code(status).headers(NOT_KEPT).send(body)
      })
  })
}
