import { ERRORS, Refusal, type ErrorCode } from '@bathyscribe/contract'
import type { ConnectionError, FastifyError, FastifyReply, FastifyRequest } from 'fastify'
import { hasZodFastifySchemaValidationErrors, isResponseSerializationError } from 'fastify-type-provider-zod'
import { STATUS_CODES } from 'node:http'
import type { Socket } from 'node:net'
import { isAbandoned } from '../records/abandoned.js'
import { NoTurn } from '../workers/turns.js'
import { isLocked, isReferenceLost, isTooSlow, isUnavailable, isUnstorable } from '../records/database.js'

/** RFC 9457 section 3. */
const PROBLEM_TYPE = 'application/problem+json; charset=utf-8'

const FASTIFY_CODES: Record<string, ErrorCode> = {
  FST_ERR_CTP_BODY_TOO_LARGE: 'request.too_large',
  FST_ERR_CTP_INVALID_MEDIA_TYPE: 'request.media_type',
  FST_ERR_CTP_INVALID_JSON_BODY: 'request.not_json',
  FST_ERR_CTP_EMPTY_JSON_BODY: 'request.not_json',
  FST_ERR_CTP_INVALID_CONTENT_LENGTH: 'request.invalid',
  FST_CSRF_MISSING_SECRET: 'session.csrf',
  FST_CSRF_INVALID_TOKEN: 'session.csrf',
}

/** What Node.js calls a request that never became one. */
const UNREAD_CODES: Record<string, ErrorCode> = {
  HPE_HEADER_OVERFLOW: 'request.head_too_large',
  ERR_HTTP_REQUEST_TIMEOUT: 'request.too_slow',
}

/** Answers a connection on which no whole request came, and closes it: nothing on it can be trusted to begin anew. */
export function refuseUnread(error: ConnectionError, socket: Socket): void {
  // Whoever reset the connection hears nothing any more.
  if (error.code === 'ECONNRESET' || socket.destroyed) return
  const problem = new Refusal(UNREAD_CODES[error.code] ?? 'request.malformed').toProblem()
  const body = JSON.stringify(problem)
  if (socket.writable)
    socket.write(
      [
        `HTTP/1.1 ${problem.status} ${STATUS_CODES[problem.status]}`,
        `content-type: ${PROBLEM_TYPE}`,
        `content-length: ${Buffer.byteLength(body)}`,
        'x-content-type-options: nosniff',
        'connection: close',
        '',
        body,
      ].join('\r\n'),
    )
  socket.destroy(error)
}

/** Any error as a refusal of ours. What is not one was our fault: it is logged, and nothing of it leaves the house. */
export function toRefusal(error: unknown, request: FastifyRequest): Refusal {
  if (error instanceof Refusal) return error
  if (hasZodFastifySchemaValidationErrors(error)) {
    const faults = error.validation.map((issue) => ({
      path: issue.instancePath.replace(/^\//, '').replaceAll('/', '.') || (error.validationContext ?? 'request'),
      message: issue.message ?? 'is not right',
    }))
    return new Refusal(
      'request.invalid',
      faults
        .map((fault) => `${fault.path}: ${fault.message}`)
        .join('; ')
        .slice(0, 500),
      faults,
    )
  }
  if (request.raw.destroyed && isCutOff(error)) return new Refusal('request.cut_off')
  if (isAbandoned(error)) return new Refusal('request.cut_off')
  if (isTooSlow(error)) return new Refusal('service.too_slow')
  if (isLocked(error) || error instanceof NoTurn) return new Refusal('service.busy')
  if (isUnavailable(error)) {
    request.log.warn({ reason: (error as Error).message }, 'records out of reach')
    return new Refusal('service.database_unavailable')
  }
  if (isUnstorable(error)) return new Refusal('request.invalid', 'a value holds the character U+0000')
  // A check before the statement says it better; this is for two at once.
  if (isReferenceLost(error)) return new Refusal('record.changed_meanwhile')
  const { code = '', statusCode = 500 } = error as Partial<FastifyError>
  const known = FASTIFY_CODES[code]
  if (known) return new Refusal(known)
  if (statusCode === 429) return new Refusal('request.too_many')
  if (statusCode === 404) return new Refusal('request.not_found')
  if (statusCode >= 400 && statusCode < 500 && !isResponseSerializationError(error))
    return new Refusal('request.invalid')
  request.log.error({ err: error }, 'our own fault')
  return new Refusal('service.fault')
}

/** Whether the caller hung up while sending: no fault of the records, though the error looks like one. */
function isCutOff(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string }
  return message === 'aborted' || code === 'ECONNRESET' || code === 'ERR_STREAM_PREMATURE_CLOSE'
}

/** Answers problem JSON, or a page where a person's browser asked for one. */
export function sendProblem(reply: FastifyReply, refusal: Refusal, requestId: string): FastifyReply {
  const retryAfter = refusal.retryAfterSeconds ?? (refusal.status === 503 ? 5 : undefined)
  if (retryAfter !== undefined) void reply.header('retry-after', String(retryAfter))
  if (refusal.status === 401) void reply.header('www-authenticate', 'Bearer')
  return reply
    .code(ERRORS[refusal.code].status)
    .type(PROBLEM_TYPE)
    .serializer((payload: unknown) => JSON.stringify(payload))
    .send(refusal.toProblem(requestId))
}
