import { sentenceOf, type Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import { COURSE_FILES_SCOPE, GROUPS_SCOPE, LINE_ITEM_READ_SCOPE } from '@bathyscribe/core/lti13'
import type { FastifyInstance, FastifyReply } from 'fastify'
import type { Context } from '../../desk/context.js'
import {
  contextGroups,
  contextGroupSets,
  courseFiles,
  type ServiceAnswer,
} from '../../desk/services/course-services.js'
import { courseServices } from '../../desk/services/claims.js'
import { lineItem, lineItems } from '../../desk/services/line-items.js'
import { receiveScore } from '../../desk/services/receive-score.js'
import { leaveServiceEntry, toolCaller, type ToolCaller } from '../../desk/services/tool-caller.js'
import { toRefusal } from '../problems.js'

type Serve = (
  context: Context,
  caller: ToolCaller,
  query: Record<string, unknown>,
  params: Record<string, string>,
) => Promise<ServiceAnswer & { next?: string }>

function text(value: unknown): string | undefined {
  return typeof value === 'string' && value !== '' ? value.slice(0, 255) : undefined
}

/** Which service stands where, and which scope opens it. */
const SERVICES: Record<string, { scope: string; serve: Serve }> = {
  groups: {
    scope: GROUPS_SCOPE,
    serve: (context, caller, query) =>
      contextGroups(context, caller, typeof query['user_id'] === 'string' ? query['user_id'].slice(0, 255) : undefined),
  },
  'group-sets': { scope: GROUPS_SCOPE, serve: contextGroupSets },
  files: { scope: COURSE_FILES_SCOPE, serve: courseFiles },
  lineitems: {
    scope: LINE_ITEM_READ_SCOPE,
    serve: async (context, caller, query) => {
      const { next, ...answer } = await lineItems(context, caller, {
        resourceLinkId: text(query['resource_link_id']),
        resourceId: text(query['resource_id']),
        tag: text(query['tag']),
        limit: /^\d{1,4}$/.test(text(query['limit']) ?? '') ? Number(query['limit']) : undefined,
        after: text(query['after']),
      })
      const more = new URLSearchParams(
        Object.entries(query).flatMap(([name, value]) =>
          typeof value === 'string' && name !== 'after' ? [[name, value] as [string, string]] : [],
        ),
      )
      return next === null
        ? answer
        : { ...answer, next: `lineitems?${String(more)}${more.size > 0 ? '&' : ''}after=${next}` }
    },
  },
  'lineitems/:item': {
    scope: LINE_ITEM_READ_SCOPE,
    serve: (context, caller, _, params) => lineItem(context, caller, params['item'] ?? ''),
  },
}

/** The services that tools of LTI 1.3 call in a course, by their tokens. Every call leaves a wire entry. */
export async function registerServices(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => registerScores(scope, context))
  for (const [name, { scope, serve }] of Object.entries(SERVICES))
    app.get<{ Params: { course: string; item?: string }; Querystring: Record<string, unknown> }>(
      `/lti/courses/:course/${name}`,
      { schema: { hide: true } },
      async (request, reply) => {
        const call = { url: `${context.settings.publicUrl}${request.url}`, started: performance.now() }
        const bearer = bearerOf(request.headers.authorization)
        let caller: ToolCaller | undefined
        try {
          caller = await toolCaller(context, { bearer, scope, courseId: request.params.course.slice(0, 32) })
          const { mediaType, body, next } = await serve(context, caller, request.query, {
            item: request.params.item?.slice(0, 32) ?? '',
          })
          if (next)
            void reply.header('link', `<${courseServices(context.settings, caller.course.id)}/${next}>; rel="next"`)
          await leaveServiceEntry(context, caller, call, {
            outcome: 'accepted',
            statement: `Read ${name.replace(/[-/].*/, '')} of ${caller.course.code}.`,
          })
          return await reply
            .type(mediaType)
            .header('cache-control', 'no-store')
            .serializer((value: unknown) => JSON.stringify(value))
            .send(body)
        } catch (error) {
          const refusal = toRefusal(error, request)
          await leaveServiceEntry(context, caller, call, {
            outcome: 'refused',
            statement: sentenceOf(refusal),
            code: refusal.code,
            detail: refusal.detail,
          })
          return sendServiceError(reply, refusal)
        }
      },
    )
}

const SCORE_LIMIT = 64 * 1024

/** Scores come as JSON under a media type of their own; whatever it is called, it is read strictly. */
function registerScores(scope: FastifyInstance, context: Context): void {
  scope.removeAllContentTypeParsers()
  scope.addContentTypeParser('*', { parseAs: 'string', bodyLimit: SCORE_LIMIT }, (_, body, done) =>
    done(null, String(body)),
  )
  scope.post<{ Params: { course: string; item: string }; Body: string | undefined }>(
    '/lti/courses/:course/lineitems/:item/scores',
    { schema: { hide: true }, bodyLimit: SCORE_LIMIT },
    async (request, reply) => {
      const body = request.body ?? ''
      const read = readJson(body)
      try {
        await receiveScore(context, {
          url: `${context.settings.publicUrl}${request.url}`.slice(0, 2000),
          bearer: bearerOf(request.headers.authorization),
          courseId: request.params.course.slice(0, 32),
          lineItemId: request.params.item.slice(0, 32),
          body: 'value' in read ? read.value : undefined,
          text: body,
        })
        return await reply.code(204).send()
      } catch (error) {
        return sendServiceError(reply, toRefusal(error, request))
      }
    },
  )
}

function bearerOf(header: string | undefined): string | undefined {
  return /^Bearer ([\x21-\x7e]{1,4000})$/.exec(header ?? '')?.[1]
}

function sendServiceError(reply: FastifyReply, refusal: Refusal): FastifyReply {
  if (refusal.status === 401) void reply.header('www-authenticate', 'Bearer')
  if (refusal.status === 503) void reply.header('retry-after', '5')
  return reply
    .code(refusal.status)
    .type('application/json')
    .serializer((value: unknown) => JSON.stringify(value))
    .send({ error: refusal.code, error_description: sentenceOf(refusal) })
}
