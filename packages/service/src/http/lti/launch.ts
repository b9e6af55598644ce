import { ERRORS, Refusal } from '@bathyscribe/contract'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import { z } from 'zod'
import type { Context } from '../../desk/context.js'
import { openLaunch } from '../../desk/open-launch.js'
import { takeReturn } from '../../desk/take-return.js'
import { findActor } from '../caller.js'
import { html, PAGE_ASSETS, sendNotice, sendPage } from '../pages.js'
import { toRefusal } from '../problems.js'

const LaunchParams = z.object({ assignment: z.string().max(32) })
const LaunchQuery = z.object({ target: z.enum(DOCUMENT_TARGETS).optional(), as: z.literal('test_learner').optional() })

/** The pages of a launch: the stage that frames it, the form that posts itself, and where the tool sends the browser back. */
export function registerLaunch(app: FastifyInstance, context: Context): void {
  const typed = app.withTypeProvider<ZodTypeProvider>()
  for (const [path, { type, text }] of Object.entries(PAGE_ASSETS))
    app.get(path, (_, reply) => reply.type(type).header('cache-control', 'public, max-age=3600').send(text))

  typed.get(
    '/lti/launch/:assignment',
    { schema: { hide: true, params: LaunchParams, querystring: LaunchQuery } },
    async (request, reply) => {
      const actor = await findActor(context, request)
      if (!actor || actor.via !== 'session') throw new Refusal('session.required')
      const { url, fields } = await openLaunch(context, actor, {
        assignmentId: request.params.assignment,
        target: request.query.target,
        rehearse: request.query.as === 'test_learner',
      })
      const inputs = fields.map(([name, value]) => html`<input type="hidden" name="${name}" value="${value}" />`)
      return sendPage(
        reply,
        'Opening…',
        html`<main>
            <form id="launch" method="post" action="${url}" accept-charset="utf-8">
              ${inputs}
              <p>Opening ${new URL(url).host} …</p>
              <button>Go on</button>
            </form>
          </main>
          <script src="/lti/assets/launch.js"></script>`,
      )
    },
  )

  // Frames of tools are allowed here and nowhere else: the console itself frames only this page.
  typed.get(
    '/lti/stage/:assignment',
    { schema: { hide: true, params: LaunchParams, querystring: LaunchQuery } },
    async (request, reply) => {
      const actor = await findActor(context, request)
      if (!actor) throw new Refusal('session.required')
      const link = await context.statements.findLink({ assignmentId: request.params.assignment, personId: actor.id })
      if (!link || (!link.enrolment && actor.siteRole !== 'administrator')) throw new Refusal('assignment.not_found')
      if (!link.assignment.launchUrl) throw new Refusal('launch.no_address')
      const source = `/lti/launch/${link.assignment.id}?target=frame${request.query.as ? '&as=test_learner' : ''}`
      return sendPage(
        reply,
        link.assignment.title,
        html`<div class="stage">
          <iframe src="${source}" title="${link.assignment.title}" allow="fullscreen"></iframe>
        </div>`,
        {
          frames: [new URL(link.assignment.launchUrl).origin],
        },
      )
    },
  )

  app.get<{ Params: { key: string } }>('/lti/return/:key', { schema: { hide: true } }, async (request, reply) => {
    const returned = await takeReturn(context, request.params.key, request.url)
    return sendNotice(reply, {
      title: returned.isError ? 'The tool reports a problem' : 'Back from the tool',
      text:
        returned.message ??
        (returned.isError
          ? 'It gave no reason that is meant for you. The technologist can read it in the wire log.'
          : 'You can go on in the course.'),
      backUrl: `/courses/${returned.courseId}/assignments/${returned.assignmentId}`,
    })
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
      backUrl: '/sign-in',
      status,
    })
  return sendNotice(reply, { title: sentence, text: hint, backUrl: '/', status })
}
