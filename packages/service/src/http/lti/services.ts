import { Refusal, sentenceOf } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import {
  COURSE_FILES_SCOPE,
  GROUPS_SCOPE,
  LINE_ITEM_READ_SCOPE,
  LINE_ITEM_SCOPE,
  MEMBERSHIP_SCOPE,
  RESULT_READ_SCOPE,
  SCORE_SCOPE,
  bearerToken,
} from '@bathyscribe/core/lti13'
import { Problem } from '@bathyscribe/core/result'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Context } from '../../desk/context.js'
import type { ServiceAnswer } from '../../desk/services/answer.js'
import { contextGroups, contextGroupSets, courseFiles } from '../../desk/services/course-services.js'
import {
  addLineItem,
  changeLineItem,
  lineItem,
  lineItems,
  removeLineItem,
  results,
} from '../../desk/services/line-items.js'
import { memberships } from '../../desk/services/memberships.js'
import type { ServiceCall } from '../../inbound/messages/service-call.js'
import { run } from '../../inbound/run.js'
import { INBOUND } from '../../inbound/table.js'
import { leaveUnread } from '../../inbound/unread.js'
import { toRefusal } from '../problems.js'
import { sendOAuthError } from './oauth.js'

type Serve = ServiceCall['serve']
interface Service {
  method: 'GET' | 'POST' | 'PUT' | 'DELETE'
  /** Below the address of the course. */
  path: string
  scope: string
  /** What the wire log calls it. */
  says: string
  serve: Serve
}

const limitOf = (text: string | undefined) => (/^\d{1,4}$/.test(text ?? '') ? Number(text) : undefined)

/** Which service stands where, and which scope opens it. Scores stand apart, below: they are the busiest path. */
const SERVICES: readonly Service[] = [
  {
    method: 'GET',
    path: 'groups',
    scope: GROUPS_SCOPE,
    says: 'Read groups',
    serve: (context, caller, { query }) =>
      contextGroups(context, caller, {
        userId: query['user_id'],
        limit: limitOf(query['limit']),
        after: query['after'],
      }),
  },
  { method: 'GET', path: 'group-sets', scope: GROUPS_SCOPE, says: 'Read groups', serve: contextGroupSets },
  { method: 'GET', path: 'files', scope: COURSE_FILES_SCOPE, says: 'Read files', serve: courseFiles },
  {
    method: 'GET',
    path: 'memberships',
    scope: MEMBERSHIP_SCOPE,
    says: 'Read the roster',
    serve: (context, caller, { query }) =>
      memberships(context, caller, {
        role: query['role'],
        rlid: query['rlid'],
        limit: limitOf(query['limit']),
        after: query['after'],
        since: query['since'],
      }),
  },
  {
    method: 'GET',
    path: 'lineitems',
    scope: LINE_ITEM_READ_SCOPE,
    says: 'Read columns',
    serve: (context, caller, { query }) =>
      lineItems(context, caller, {
        resourceLinkId: query['resource_link_id'],
        resourceId: query['resource_id'],
        tag: query['tag'],
        limit: limitOf(query['limit']),
        after: query['after'],
      }),
  },
  {
    method: 'POST',
    path: 'lineitems',
    scope: LINE_ITEM_SCOPE,
    says: 'Made a column',
    serve: (context, caller, { body }) => addLineItem(context, caller, body),
  },
  {
    method: 'GET',
    path: 'lineitems/:item',
    scope: LINE_ITEM_READ_SCOPE,
    says: 'Read a column',
    serve: (context, caller, { item }) => lineItem(context, caller, item),
  },
  {
    method: 'PUT',
    path: 'lineitems/:item',
    scope: LINE_ITEM_SCOPE,
    says: 'Changed a column',
    serve: (context, caller, { item, body }) => changeLineItem(context, caller, item, body),
  },
  {
    method: 'DELETE',
    path: 'lineitems/:item',
    scope: LINE_ITEM_SCOPE,
    says: 'Deleted a column',
    serve: (context, caller, { item }) => removeLineItem(context, caller, item),
  },
  {
    method: 'GET',
    path: 'lineitems/:item/results',
    scope: RESULT_READ_SCOPE,
    says: 'Read results',
    serve: (context, caller, { item, query }) =>
      results(context, caller, item, {
        userId: query['user_id'],
        limit: limitOf(query['limit']),
        after: query['after'],
      }),
  },
]

const BODY_LIMIT = 64 * 1024
type Request = FastifyRequest<{
  Params: { course: string; item?: string }
  Querystring: Record<string, unknown>
  Body: string | undefined
}>

/** The services that tools of LTI 1.3 call in a course, by their tokens. Every call leaves a wire entry. */
export async function registerServices(app: FastifyInstance, context: Context): Promise<void> {
  await app.register((scope, _, done) => {
    // Bodies come as JSON under media types of their own; whatever they are called, they are read strictly.
    scope.removeAllContentTypeParsers()
    scope.addContentTypeParser('*', { parseAs: 'string', bodyLimit: BODY_LIMIT }, (_, body, read) =>
      read(null, String(body)),
    )
    // What never came to a service is answered in its form, too, and found in the wire log.
    scope.setErrorHandler(async (error, request, reply) => {
      const refusal = toRefusal(error, request)
      await leaveUnread(context, refusal, {
        kind: 'service',
        statement: sentenceOf(refusal),
        durationMs: reply.elapsedTime,
        request: { method: request.method, url: `${context.settings.publicUrl}${request.url}`.slice(0, 2000) },
      })
      return sendOAuthError(reply, refusal)
    })
    for (const service of SERVICES)
      scope.route({
        method: service.method,
        url: `/lti/courses/:course/${service.path}`,
        schema: { hide: true },
        bodyLimit: BODY_LIMIT,
        handler: (request, reply) => answer(context, service, request as Request, reply),
      })
    scope.get('/lti/courses', { schema: { hide: true } }, (request, reply) =>
      refusing(reply, async () => {
        const call = callOf(context, { method: 'GET', scope: '' }, request as Request)
        return send(reply, await run(context, INBOUND.connectedCourses, call))
      }),
    )
    registerScores(scope, context)
    done()
  })
}

async function answer(context: Context, service: Service, request: Request, reply: FastifyReply) {
  const url = `${context.settings.publicUrl}${request.url}`
  const query = Object.fromEntries(
    Object.entries(request.query).flatMap(([name, value]) =>
      typeof value === 'string' && value !== '' ? [[name, value.slice(0, 255)]] : [],
    ),
  )
  const item = request.params.item?.slice(0, 32)
  const call = { ...callOf(context, service, request), query, says: service.says, serve: service.serve }
  return refusing(reply, async () => {
    const answered = await run(context, INBOUND.service, { ...call, ...(item && { column: item }) })
    const { status, location, next, differences } = answered
    const links = [
      ...(next ? [`<${pageUrl(url, { ...query, ...next })}>; rel="next"`] : []),
      ...(differences ? [`<${pageUrl(url, { ...query, after: undefined, ...differences })}>; rel="differences"`] : []),
    ]
    if (links.length > 0) void reply.header('link', links.join(', '))
    if (location) void reply.header('location', location)
    return send(reply.code(status ?? 200), answered)
  })
}

function callOf(
  context: Context,
  { method, scope }: Pick<Service, 'method' | 'scope'>,
  request: FastifyRequest<{ Params: { course?: string }; Body: unknown }>,
) {
  return {
    method,
    url: `${context.settings.publicUrl}${request.url}`,
    bearer: bearerToken(request.headers.authorization),
    scope,
    courseId: request.params.course?.slice(0, 32) ?? '',
    text: typeof request.body === 'string' ? request.body : undefined,
  }
}

/** A refusal is answered in the form of services. Anything else is none of the tool's, and left to what answers that. */
async function refusing(reply: FastifyReply, work: () => Promise<FastifyReply>): Promise<FastifyReply> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Refusal) return sendOAuthError(reply, error)
    throw error
  }
}

function send(reply: FastifyReply, { mediaType, body }: ServiceAnswer): FastifyReply {
  void reply.header('cache-control', 'no-store')
  return body === null
    ? reply.send()
    : reply
        .type(mediaType)
        .serializer((value: unknown) => JSON.stringify(value))
        .send(body)
}

function pageUrl(url: string, query: Readonly<Record<string, string | undefined>>): string {
  const to = new URL(url)
  to.search = String(
    new URLSearchParams(Object.entries(query).filter((one): one is [string, string] => one[1] !== undefined)),
  )
  return to.href
}

function registerScores(scope: FastifyInstance, context: Context): void {
  scope.post<{ Params: { course: string; item: string }; Body: string | undefined }>(
    '/lti/courses/:course/lineitems/:item/scores',
    { schema: { hide: true }, bodyLimit: BODY_LIMIT },
    (request, reply) =>
      refusing(reply, async () => {
        const call = callOf(context, { method: 'POST', scope: SCORE_SCOPE }, request)
        const read = readJson(call.text ?? '')
        const body = read instanceof Problem ? undefined : read.value
        await run(context, INBOUND.score, { ...call, column: request.params.item.slice(0, 32), body })
        return reply.code(204).send()
      }),
  )
}
