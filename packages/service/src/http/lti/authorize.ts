import formbody from '@fastify/formbody'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Context } from '../../desk/context.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { findSignedIn } from '../caller.js'
import { sendForm } from '../pages.js'
import { flat } from './oauth.js'

const FORM_LIMIT = 64 * 1024

/** Where a tool sends the browser to have a launch signed. */
export async function registerAuthorize(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => {
    await scope.register(formbody, { bodyLimit: FORM_LIMIT })
    const authorize = async (incoming: FastifyRequest, reply: FastifyReply) => {
      const request = flat(incoming.query, incoming.body)
      const signedIn = await findSignedIn(context, incoming)
      const { url, fields, refused } = await run(context, INBOUND.authorization, { request, signedIn })
      return sendForm(reply, { url, fields, doing: refused ? 'Going back to' : 'Opening' })
    }
    scope.get('/lti/authorize', { schema: { hide: true } }, authorize)
    scope.post('/lti/authorize', { schema: { hide: true } }, authorize)
  })
}
