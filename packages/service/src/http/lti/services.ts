import { sentenceOf, type Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import {
  COURSE_FILES_SCOPE,
  GROUPS_SCOPE,
  LINE_ITEM_READ_SCOPE,
  LINE_ITEM_SCOPE,
  MEMBERSHIP_SCOPE,
  RESULT_READ_SCOPE,
  bearerToken,
} from '@bathyscribe/core/lti13'
import { plainAscii } from '@bathyscribe/core/text'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import type { Context } from '../../desk/context.js'
import {
  contextGroups,
  contextGroupSets,
  courseFiles,
  type ServiceAnswer,
} from '../../desk/services/course-services.js'
import {
  addLineItem,
  changeLineItem,
  lineItem,
  lineItems,
  removeLineItem,
  results,
} from '../../desk/services/line-items.js'
import { memberships } from '../../desk/services/memberships.js'
import { receiveScore } from '../../desk/services/receive-score.js'
import { courseServices } from '../../desk/services/claims.js'
import { connectedCaller, leaveServiceEntry, toolCaller, type ToolCaller } from '../../desk/services/tool-caller.js'
import { toRefusal } from '../problems.js'

interface Asked {
  query: Readonly<Record<string, string | undefined>>
  item: string
  body: unknown
}
type Serve = (context: Context, caller: ToolCaller, asked: Asked) => Promise<ServiceAnswer>
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
const COURSES_MEDIA_TYPE = 'application/vnd.bathyscribe.courses.v1+json'
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
      await leaveServiceEntry(
        context,
        undefined,
        { method: request.method, url: context.settings.publicUrl + request.url, started: performance.now() },
        { outcome: 'refused', statement: sentenceOf(refusal), code: refusal.code, detail: refusal.detail },
      ).catch(() => undefined)
      return sendServiceError(reply, refusal)
    })
    for (const service of SERVICES)
      scope.route({
        method: service.method,
        url: `/lti/courses/:course/${service.path}`,
        schema: { hide: true },
        bodyLimit: BODY_LIMIT,
        handler: (request, reply) => answer(context, service, request as Request, reply),
      })
    scope.get('/lti/courses', { schema: { hide: true } }, (request, reply) => answerCourses(context, request, reply))
    registerScores(scope, context)
    done()
  })
}

async function answer(context: Context, service: Service, request: Request, reply: FastifyReply) {
  const url = `${context.settings.publicUrl}${request.url}`
  const text = typeof request.body === 'string' ? request.body : undefined
  const call = { method: service.method, url, started: performance.now(), body: text }
  let caller: ToolCaller | undefined
  try {
    const item = request.params.item?.slice(0, 32) ?? ''
    caller = await toolCaller(context, {
      bearer: bearerToken(request.headers.authorization),
      scope: service.scope,
      courseId: request.params.course.slice(0, 32),
      ...(item && { column: item }),
    })
    const read = text === undefined ? undefined : readJson(text)
    const query = Object.fromEntries(
      Object.entries(request.query).flatMap(([name, value]) =>
        typeof value === 'string' && value !== '' ? [[name, value.slice(0, 255)]] : [],
      ),
    )
    const body = read && 'value' in read ? read.value : undefined
    const {
      mediaType,
      body: said,
      status,
      location,
      next,
      differences,
    } = await service.serve(context, caller, { query, item, body })
    await leaveServiceEntry(context, caller, call, {
      outcome: 'accepted',
      statement: `${service.says} of ${caller.course.code}.`,
    })
    const links = [
      ...(next ? [`<${pageUrl(url, { ...query, ...next })}>; rel="next"`] : []),
      ...(differences ? [`<${pageUrl(url, { ...query, after: undefined, ...differences })}>; rel="differences"`] : []),
    ]
    if (links.length > 0) void reply.header('link', links.join(', '))
    if (location) void reply.header('location', location)
    void reply.code(status ?? 200).header('cache-control', 'no-store')
    return said === null
      ? await reply.send()
      : await reply
          .type(mediaType)
          .serializer((value: unknown) => JSON.stringify(value))
          .send(said)
  } catch (error) {
    const refusal = toRefusal(error, request)
    await leaveServiceEntry(context, caller, call, {
      outcome: 'refused',
      statement: sentenceOf(refusal),
      code: refusal.code,
      detail: refusal.detail,
      error,
    })
    return sendServiceError(reply, refusal)
  }
}

/** The courses that a connection opens, each with its services (docs/connections.md). */
async function answerCourses(context: Context, request: FastifyRequest, reply: FastifyReply) {
  const call = { url: `${context.settings.publicUrl}${request.url}`, started: performance.now() }
  try {
    const { tool, connection } = await connectedCaller(context, bearerToken(request.headers.authorization))
    const courses = await context.records.connections.courses(connection.id)
    await leaveServiceEntry(context, { tool }, call, {
      outcome: 'accepted',
      statement: `Listed ${courses.length} courses that ${connection.person.fullName} connected.`,
    })
    return await reply
      .type(COURSES_MEDIA_TYPE)
      .header('cache-control', 'no-store')
      .serializer((value: unknown) => JSON.stringify(value))
      .send({
        courses: courses.map(({ id, code, title }) => {
          const at = courseServices(context.settings, id)
          return { id, label: code, title, memberships: `${at}/memberships`, lineitems: `${at}/lineitems` }
        }),
      })
  } catch (error) {
    const refusal = toRefusal(error, request)
    await leaveServiceEntry(context, undefined, call, {
      outcome: 'refused',
      statement: sentenceOf(refusal),
      code: refusal.code,
      detail: refusal.detail,
    })
    return sendServiceError(reply, refusal)
  }
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
    async (request, reply) => {
      const body = request.body ?? ''
      const read = readJson(body)
      try {
        await receiveScore(context, {
          url: `${context.settings.publicUrl}${request.url}`.slice(0, 2000),
          bearer: bearerToken(request.headers.authorization),
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

function sendServiceError(reply: FastifyReply, refusal: Refusal): FastifyReply {
  if (refusal.status === 401) void reply.header('www-authenticate', 'Bearer')
  // RFC 6750 section 3.1.
  if (refusal.code === 'service_token.scope') void reply.header('www-authenticate', 'Bearer error="insufficient_scope"')
  if (refusal.status === 503) void reply.header('retry-after', String(refusal.retryAfterSeconds ?? 5))
  return reply
    .code(refusal.status)
    .type('application/json')
    .serializer((value: unknown) => JSON.stringify(value))
    .send({ error: refusal.code, error_description: plainAscii(sentenceOf(refusal)) })
}
