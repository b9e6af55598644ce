import formbody from '@fastify/formbody'
import { anyone, ERRORS, LocalPath } from '@bathyscribe/contract'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import { z } from 'zod'
import type { Context } from '../desk/context.js'
import { beginSignOn, type SignOnBegun } from '../desk/sign-on/begin.js'
import { finishSignOn } from '../desk/sign-on/finish.js'
import { takeProviderSignOut } from '../desk/sign-on/provider-sign-out.js'
import { BEGUN_MS } from '../desk/sign-on/sign-on-state.js'
import { limited } from './api/routes.js'
import { findActor, hostCookie, hostCookieSet, sessionCookie } from './caller.js'
import { sendNotice } from './pages.js'
import { sendProblem, toRefusal } from './problems.js'

const Provider = z.object({ provider: z.string().max(40) })
/** What one browser may have begun at once; who begins more has left the first ones. */
const MOST_BEGUN = 4
/** More than a whole class behind one address comes to in a minute. */
const PER_MINUTE = 300
const FORM_LIMIT = 32 * 1024

/** The addresses of signing in by an identity provider that browsers and providers open. */
export async function registerSignOn(scope: FastifyInstance, context: Context): Promise<void> {
  const typed = scope.withTypeProvider<ZodTypeProvider>()
  const rateLimit = (name: string) => ({ rateLimit: limited(name, anyone, PER_MINUTE) })

  typed.get(
    '/sign-on/:provider',
    {
      schema: { hide: true, params: Provider, querystring: z.object({ next: LocalPath.catch('/').default('/') }) },
      config: rateLimit('begin sign-on'),
      errorHandler: (error, request, reply) => void refuse(error, request, reply),
    },
    async (request, reply) => {
      const { provider } = request.params
      const begun = await beginSignOn(context, { provider, next: request.query.next, purpose: 'sign-in' })
      keep(context, request, reply, begun)
      return reply.header('cache-control', 'no-store').redirect(begun.location.href, 303)
    },
  )

  typed.get(
    '/sign-on/:provider/return',
    {
      schema: { hide: true, params: Provider, querystring: z.looseObject({ state: z.string().max(200).optional() }) },
      config: rateLimit('finish sign-on'),
      errorHandler: (error, request, reply) => void refuse(error, request, reply),
    },
    async (request, reply) => {
      const name = cookieName(context, request.query.state ?? '')
      void reply.clearCookie(name, hostCookieSet(context.settings))
      const { next, opened } = await finishSignOn(context, {
        provider: request.params.provider,
        answer: new URL(request.url, context.settings.publicUrl),
        kept: request.cookies[name],
        actor: await findActor(context, request),
        userAgent: request.headers['user-agent'] ?? '',
        address: request.ip,
      })
      if (opened)
        void reply.setCookie(sessionCookie(context.settings), opened.token, {
          ...hostCookieSet(context.settings),
          expires: opened.expiresAt,
        })
      return reply.header('cache-control', 'no-store').redirect(next, 303)
    },
  )

  await scope.register(async (inner) => {
    await inner.register(formbody, { bodyLimit: FORM_LIMIT })
    inner.withTypeProvider<ZodTypeProvider>().post(
      '/sign-on/:provider/sign-out',
      {
        schema: { hide: true, params: Provider, body: z.looseObject({ logout_token: z.string().min(1).max(20_000) }) },
        config: rateLimit('sign-out by provider'),
        errorHandler: (error, request, reply) => {
          const refusal = toRefusal(error, request)
          // OpenID Connect Back-Channel Logout 1.0 section 2.8: a token that does not hold is answered 400.
          if (refusal.code !== 'sign_on.answer_wrong') void sendProblem(reply, refusal, request.id)
          else void reply.code(400).send({ error: 'invalid_request', error_description: refusal.detail ?? '' })
        },
      },
      async (request, reply) => {
        await takeProviderSignOut(context, request.params.provider, request.body.logout_token)
        return reply.header('cache-control', 'no-store').code(200).send()
      },
    )
  })
}

const prefixOf = ({ settings }: Context) => hostCookie(settings, 'bathyscribe_sign_on_')

/** One for each that was begun, so that two windows do not get in each other’s way. */
const cookieName = (context: Context, state: string) =>
  prefixOf(context) + state.replace(/[^A-Za-z0-9_-]/g, '').slice(0, 12)

/** Lets the browser keep what was begun, and forget what was left. */
export function keep(
  context: Context,
  request: FastifyRequest,
  reply: FastifyReply,
  { state, kept }: SignOnBegun,
): void {
  const before = Object.keys(request.cookies).filter((name) => name.startsWith(prefixOf(context)))
  if (before.length >= MOST_BEGUN)
    for (const name of before) void reply.clearCookie(name, hostCookieSet(context.settings))
  void reply.setCookie(cookieName(context, state), kept, {
    ...hostCookieSet(context.settings),
    maxAge: BEGUN_MS / 1000,
  })
}

/** A refusal as a page: whoever meets it has just come from another site. */
function refuse(error: unknown, request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const refusal = toRefusal(error, request)
  const { sentence, hint, status } = ERRORS[refusal.code]
  request.log.warn({ code: refusal.code, reason: String(refusal.cause ?? refusal.detail ?? '') }, 'sign-on refused')
  return sendNotice(reply, {
    title: sentence,
    text: hint,
    detail: refusal.detail === undefined ? undefined : `What is known: ${refusal.detail}`,
    back: { url: '/sign-in', text: 'Back to the sign-in page' },
    status,
  })
}
