import { Problem } from '@bathyscribe/core/result'
import formbody from '@fastify/formbody'
import { Refusal, sentenceOf } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import { plainAscii } from '@bathyscribe/core/text'
import type { FastifyInstance, FastifyReply } from 'fastify'
import { toRefusal } from '../problems.js'

// What the addresses have in common that speak OAuth 2.0: forms and JSON come in, errors go out in its words.

const FORM_LIMIT = 64 * 1024

/** Answers with tokens stay nowhere on their way (RFC 6749 section 5.1). */
export const NOT_KEPT = { 'cache-control': 'no-store', pragma: 'no-cache' }

/** Forms and JSON, and nothing else. Values given twice stay lists, so that they can be refused: readers differ in which of the two they take. */
export async function takeForms(scope: FastifyInstance): Promise<void> {
  await scope.register(formbody, { bodyLimit: FORM_LIMIT })
  scope.removeContentTypeParser('application/json')
  scope.addContentTypeParser('application/json', { parseAs: 'string' }, (_, body, done) => {
    const read = readJson(String(body))
    if (read instanceof Problem) done(Refusal.of(read))
    else done(null, read.value)
  })
}

/** An error as OAuth 2.0 answers it (RFC 6749 section 5.2, RFC 6750 section 3). @param error its word; that of the refusal's own code unless given */
export function sendOAuthError(reply: FastifyReply, refusal: Refusal, error: string = refusal.code): FastifyReply {
  if (refusal.status === 401) void reply.header('www-authenticate', 'Bearer')
  if (refusal.code === 'service_token.scope') void reply.header('www-authenticate', 'Bearer error="insufficient_scope"')
  if (refusal.status === 503) void reply.header('retry-after', String(refusal.retryAfterSeconds ?? 5))
  const description = error === refusal.code ? sentenceOf(refusal) : `${refusal.code}: ${refusal.toProblem().title}`
  return reply
    .code(refusal.status)
    .type('application/json')
    .serializer((value: unknown) => JSON.stringify(value))
    .send({ error, error_description: plainAscii(description) })
}

/** What never came to a message, or could not be taken for a reason of ours. */
export function answerErrors(scope: FastifyInstance): void {
  scope.setErrorHandler((error, request, reply) => {
    const refusal = toRefusal(error, request)
    return sendOAuthError(reply, refusal, refusal.status >= 500 ? 'server_error' : 'invalid_request')
  })
}

/** Parameters by name, each once. @throws Refusal for one that is given twice */
export function flat(...parts: unknown[]): Record<string, string> {
  const all: Record<string, string> = {}
  for (const part of parts)
    for (const [name, value] of Object.entries(part ?? {}) as [string, unknown][]) {
      if (typeof value !== 'string' || Object.hasOwn(all, name))
        throw new Refusal('request.invalid', `${name.slice(0, 60)} is given twice`)
      Object.defineProperty(all, name, { value, enumerable: true, writable: true, configurable: true })
    }
  return all
}
