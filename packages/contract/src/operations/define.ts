import type { z } from 'zod'
import type { ChangeEvent } from '../resources/watch.js'
import type { Access } from './access.js'

type Maybe = z.ZodType | undefined

/** One call of the API: the single source for the service's route, the clients and OpenAPI. */
export interface Operation<
  P extends Maybe = Maybe,
  Q extends Maybe = Maybe,
  B extends Maybe = Maybe,
  A extends Maybe = Maybe,
> {
  method: 'GET' | 'POST' | 'PATCH' | 'PUT' | 'DELETE'
  path: string
  summary: string
  tag: string
  access: Access
  status: number
  params: P
  query: Q
  body: B
  /** Undefined for calls that answer nothing (204). */
  answer: A
  /** An answer of tens of thousands of parts: its form is held by types and tests, not looked at again on its way. */
  bulky: boolean
  /** How often a minute one person may ask, in all processes together; where nobody is signed in, one address. Null: as often as they like. */
  perMinute: number | null
  /** Changes after which the answer may be another one: who shows it, reads it again then. */
  touchedBy: readonly ChangeEvent['kind'][]
}

interface Parts<P extends Maybe, Q extends Maybe, B extends Maybe, A extends Maybe> {
  access: Access
  status?: number
  params?: P
  query?: Q
  body?: B
  answer?: A
  bulky?: boolean
  perMinute?: number
  touchedBy?: readonly ChangeEvent['kind'][]
}

/** Defines a call, for instance `define('tools', 'GET /api/tools', 'Lists tools', { access: person, answer: … })`. */
export function define<
  P extends Maybe = undefined,
  Q extends Maybe = undefined,
  B extends Maybe = undefined,
  A extends Maybe = undefined,
>(
  tag: string,
  at: `${Operation['method']} /${string}`,
  summary: string,
  parts: Parts<P, Q, B, A>,
): Operation<P, Q, B, A> {
  const [method, path] = at.split(' ') as [Operation['method'], string]
  return {
    method,
    path,
    summary,
    tag,
    access: parts.access,
    status: parts.status ?? (parts.answer ? 200 : 204),
    params: parts.params as P,
    query: parts.query as Q,
    body: parts.body as B,
    answer: parts.answer as A,
    bulky: parts.bulky ?? false,
    perMinute: parts.perMinute ?? null,
    touchedBy: parts.touchedBy ?? [],
  }
}
