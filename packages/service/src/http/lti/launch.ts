import { ERRORS, Refusal } from '@bathyscribe/contract'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import { z } from 'zod'
import type { Context } from '../../desk/context.js'
import { openLaunch } from '../../desk/launches/open-launch.js'
import { framedTool } from '../../desk/launches/stage-origins.js'
import { openReview } from '../../desk/launches/open-review.js'
import { isTeachingSide } from '../../desk/launches/obstacles.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import type { Link } from '../../records/statements/links.js'
import { findActor, findOwnLink, LOGIN_COOKIE, sessionCookie } from '../caller.js'
import { PAGE_ASSETS, send, sendForm, sendNotice, stagePage } from '../pages.js'
import { toRefusal } from '../problems.js'

const BACK = 'Back to the course'
const LinkParams = z.object({ link: z.string().max(32) })
const LaunchQuery = z.object({ target: z.enum(DOCUMENT_TARGETS).optional(), as: z.literal('test_learner').optional() })

/** The pages of a launch: the stage that frames it, the form that posts itself, and where the tool sends the browser back. */
export function registerLaunch(app: FastifyInstance, context: Context): void {
  const typed = app.withTypeProvider<ZodTypeProvider>()
  for (const [path, { type, text }] of Object.entries(PAGE_ASSETS))
    app.get(path, (_, reply) => reply.type(type).header('cache-control', 'public, max-age=3600').send(text))

  typed.get(
    '/lti/launch/:link',
    { schema: { hide: true, params: LinkParams, querystring: LaunchQuery } },
    async (request, reply) => {
      const started = performance.now()
      const { actor, link } = await findOwnLink(context, request, request.params.link)
      const { url, fields, version } = await openLaunch(context, actor, link, {
        target: request.query.target,
        rehearse: request.query.as === 'test_learner',
        started,
      })
      if (version === '1.3') setLoginCookie(context, request, reply)
      return sendForm(reply, { url, fields, doing: 'Opening' })
    },
  )

  typed.get(
    '/lti/review/:link/:person',
    { schema: { hide: true, params: LinkParams.extend({ person: z.string().max(32) }) } },
    async (request, reply) => {
      const actor = await findActor(context, request)
      if (!actor || actor.via !== 'session') throw new Refusal('session.required')
      const { link, person } = request.params
      const { url, fields } = await openReview(context, actor, { columnId: link, personId: person })
      setLoginCookie(context, request, reply)
      return sendForm(reply, { url, fields, doing: 'Opening' })
    },
  )

  // Frames of tools are allowed here and nowhere else: the console itself frames only this page.
  typed.get(
    '/lti/stage/:link',
    { schema: { hide: true, params: LinkParams, querystring: LaunchQuery } },
    async (request, reply) => {
      const actor = await findActor(context, request)
      if (!actor) throw new Refusal('session.required')
      const link = await context.statements.findLink({ linkId: request.params.link, personId: actor.id })
      if (!link || link.resource.kind === 'picker' || !maySee(link)) throw new Refusal('assignment.not_found')
      if (!link.resource.launchUrl) throw new Refusal('launch.no_address')
      const source = `/lti/launch/${link.resource.id}?target=frame${request.query.as ? '&as=test_learner' : ''}`
      return send(reply, stagePage({ title: link.resource.title, source, ...framedTool(link) }))
    },
  )

  app.get<{ Params: { key: string } }>('/lti/return/:key', { schema: { hide: true } }, async (request, reply) => {
    const returned = await run(context, INBOUND.return, { key: request.params.key, pathAndQuery: request.url })
    return sendNotice(reply, {
      title: returned.isError ? 'The tool reports a problem' : 'Back from the tool',
      text:
        returned.message !== null
          ? // Whoever has the address can put words into it: they are the tool's, never ours.
            `The tool says: “${returned.message}”`
          : returned.isError
            ? 'It gave no reason that is meant for you. The technologist can read it in the wire log.'
            : 'You can go on in the course.',
      back: { url: returned.backPath, text: BACK },
    })
  })
}

/** Whether a person may know of a link at all; whether it can be opened just now is said by the launch itself. */
function maySee(link: Link): boolean {
  if (isTeachingSide(link)) return true
  return link.enrolment !== undefined && link.resource.state === 'published' && link.resource.audience === 'everyone'
}

/**
 * A tool's page in a frame sends the browser to our authorisation address, and what a page of another site starts carries no
 * SameSite=Lax cookie. So the session goes along a second time, for that one address; what it opens there is only what our own sealed
 * hints name.
 */
export function setLoginCookie(context: Context, request: FastifyRequest, reply: FastifyReply): void {
  const session = request.cookies[sessionCookie(context.settings)]
  if (session === undefined) return
  const { protocol, hostname } = new URL(context.settings.publicUrl)
  const trusted = protocol === 'https:' || hostname === 'localhost'
  void reply.setCookie(LOGIN_COOKIE, session, {
    path: '/lti/authorize',
    httpOnly: true,
    maxAge: 600,
    ...(trusted ? { sameSite: 'none', secure: true } : { sameSite: 'lax' }),
  })
}

/** A refusal as a page, for addresses that a person's browser opens. */
export function sendRefusedPage(error: unknown, request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const refusal = toRefusal(error, request)
  const { sentence, hint, status } = ERRORS[refusal.code]
  if (refusal.code === 'session.required' && request.url.startsWith('/lti/launch/'))
    return sendNotice(reply, {
      title: 'Please sign in',
      text: 'Your session has ended. Sign in again, then open the assignment.',
      back: { url: '/sign-in', text: 'Back to the sign-in page' },
      status,
    })
  return sendNotice(reply, { title: sentence, text: hint, back: { url: '/', text: BACK }, status })
}
