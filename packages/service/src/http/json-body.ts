import { Refusal } from '@bathyscribe/contract'
import type { FastifyInstance } from 'fastify'

/** Far deeper than anything that is asked for; a body of a million brackets takes seconds to build and to check. */
const DEEPEST = 40

/** Reads JSON bodies as the framework does, but none that is nested without sense. */
export function registerJsonBodies(app: FastifyInstance): void {
  const parse = app.getDefaultJsonParser('error', 'error')
  app.addContentTypeParser<string>('application/json', { parseAs: 'string' }, (request, body, done) => {
    if (isDeeperThan(body, DEEPEST)) done(new Refusal('request.invalid', `nested deeper than ${DEEPEST}`))
    else void parse(request, body, done)
  })
}

/** Counts brackets outside of texts. Looks once, and no further than it must. */
export function isDeeperThan(json: string, deepest: number): boolean {
  let depth = 0
  for (let at = 0; at < json.length; at++) {
    switch (json.charCodeAt(at)) {
      case 0x22: // a text: on to its end
        for (at++; at < json.length && json.charCodeAt(at) !== 0x22; at++) if (json.charCodeAt(at) === 0x5c) at++
        break
      case 0x5b:
      case 0x7b:
        if (++depth > deepest) return true
        break
      case 0x5d:
      case 0x7d:
        depth--
    }
  }
  return false
}
