import { Refusal } from '@bathyscribe/contract'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { frameAllowance } from '@bathyscribe/core/links'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { FastifyInstance } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import { z } from 'zod'
import type { Context } from '../../desk/context.js'
import { openLaunch } from '../../desk/launches/open-launch.js'
import type { Picked } from '../../inbound/messages/picked.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { findActor, findOwnLink } from '../caller.js'
import { html, sendForm, sendNotice, sendPage } from '../pages.js'
import { framedTool } from '../../desk/launches/stage-origins.js'
import { setLoginCookie } from './launch.js'

const Params = z.object({ picking: z.string().max(32) })
const Query = z.object({ target: z.enum(DOCUMENT_TARGETS).optional() })
/** Five hundred items with their texts; a picker that sends more is refused. */
const ANSWER_LIMIT = 2 * 1024 * 1024

/** The pages of a picking: the stage that frames the tool's picker, the form that opens it, and the address that its answer comes to. */
export async function registerPickers(app: FastifyInstance, context: Context): Promise<void> {
  const typed = app.withTypeProvider<ZodTypeProvider>()
  typed.get('/lti/picker/:picking', { schema: { hide: true, params: Params } }, async (request, reply) => {
    const actor = await findActor(context, request)
    if (!actor) throw new Refusal('session.required')
    const link = await context.statements.findLink({ linkId: request.params.picking, personId: actor.id })
    if (link?.resource.kind !== 'picker') throw new Refusal('picker.closed')
    if (!link.resource.launchUrl) throw new Refusal('launch.no_address')
    const { origins, permissions } = framedTool(link)
    return sendPage(
      reply,
      `Picker of ${link.registration.name}`,
      html`<div class="stage">
          <iframe
            src="/lti/picker/${link.resource.id}/open?target=frame"
            title="Picker of ${link.registration.name}"
            allow="${frameAllowance(permissions, origins)}"
          ></iframe>
        </div>
        <script src="/lti/assets/stage.js" data-origins="${origins.join(' ')}"></script>`,
      { frames: origins },
    )
  })

  typed.get(
    '/lti/picker/:picking/open',
    { schema: { hide: true, params: Params, querystring: Query } },
    async (request, reply) => {
      const started = performance.now()
      const { actor, link } = await findOwnLink(context, request, request.params.picking)
      if (link?.resource.kind !== 'picker') throw new Refusal('picker.closed')
      const wanted = { target: request.query.target, rehearse: false, started }
      const opened = await openLaunch(context, actor, link, wanted)
      if (opened.version === '1.3') setLoginCookie(context, request, reply)
      return sendForm(reply, { ...opened, doing: 'Opening' })
    },
  )

  // The tool's page posts here through the browser: from another site, so nobody is signed in. What counts is who signed the answer, and to which question.
  await app.register(async (scope) => {
    scope.addContentTypeParser(
      'application/x-www-form-urlencoded',
      { parseAs: 'string', bodyLimit: ANSWER_LIMIT },
      (_, body, done) => done(null, [...new URLSearchParams(String(body))]),
    )
    scope.post<{ Params: { picking: string }; Body: Parameter[] | undefined }>(
      '/lti/picked/:picking',
      { schema: { hide: true }, bodyLimit: ANSWER_LIMIT },
      async (request, reply) => {
        const picked = await run(context, INBOUND.picked, {
          id: request.params.picking.slice(0, 32),
          fields: request.body ?? [],
        })
        return sendNotice(reply, noticeOf(picked))
      },
    )
  })
}

function noticeOf({ state, items, refusedItems, said }: Picked): { title: string; text: string } {
  const more = refusedItems > 0 ? ` ${refusedItems} more could not be taken.` : ''
  const saying = said ? ` The tool says: “${said}”` : ''
  if (state === 'answered')
    return {
      title: 'Chosen',
      text: `${items === 1 ? 'It is' : `${items} items are`} on your page now; continue there.${more}${saying}`,
    }
  if (state === 'empty')
    return {
      title: 'Nothing chosen',
      text: `The tool came back without anything. Open the picker again when you like.${saying}`,
    }
  return { title: 'Nothing could be chosen', text: `Go on at your page; it says what can be done.${more}${saying}` }
}
