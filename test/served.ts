import {
  ERRORS,
  operations,
  Refusal,
  type CallAnswer,
  type CallInput,
  type ErrorCode,
  type OperationName,
} from '@bathyscribe/contract'
import fc from 'fast-check'
import { afterEach, beforeEach, expect } from 'vitest'
import type { z } from 'zod'
import { arbitraryOf } from './arbitrary.js'

/** What the stand-in for the service answers to a call: parts of the answer, held against the contract; a thrown Refusal is answered as one. */
type Answers = { [N in OperationName]?: (input: CallInput<N>) => unknown }

interface Called {
  name: OperationName
  input: { params: Record<string, string>; query: Record<string, string>; body: unknown }
}

/** Every call that came in since the test began. */
export let calls: Called[] = []
let answers: Answers = {}
/** Which of the possible answers is given where a test says nothing of it. */
let seed = 1

/** What a test has answered that the contract does not allow. */
const untrue: string[] = []
afterEach(() => {
  expect(untrue.splice(0)).toEqual([])
})
beforeEach(() => {
  calls = []
  answers = {}
  seed = 1
})

/** Says what is answered from now on. What is not said of an answer is made up after the contract. */
export function serve(more: Answers, from = seed): void {
  answers = { ...answers, ...more }
  seed = from
}

/** The inputs that a call came with, in their order. */
export function callsOf(name: OperationName): Called['input'][] {
  return calls.filter((one) => one.name === name).map((one) => one.input)
}

/** An answer as the contract allows it, with parts of it said. */
export function sampled<N extends OperationName>(name: N, parts: object = {}, from = seed): CallAnswer<N> {
  const { answer } = operations[name] as { answer: z.ZodType | undefined }
  if (!answer) return undefined as CallAnswer<N>
  const [made] = fc.sample(arbitraryOf(answer), { seed: from, numRuns: 1 })
  return { ...(known(made) as object), ...parts } as CallAnswer<N>
}

/** The same with time zones that there are: the contract holds them where they are said, not where they are told. */
function known(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(known)
  if (value === null || typeof value !== 'object') return value
  return Object.fromEntries(
    Object.entries(value).map(([name, one]) => [name, name === 'timeZone' ? 'Europe/Oslo' : known(one)]),
  )
}

const ROUTES = (Object.entries(operations) as [OperationName, { method: string; path: string }][])
  .map(([name, { method, path }]) => ({
    name,
    method,
    names: [...path.matchAll(/:(\w+)/g)].map(([, one]) => one!),
    pattern: new RegExp(`^${path.replace(/:\w+/g, '([^/]+)')}$`),
    length: path.replace(/:\w+/g, '').length,
  }))
  // Of two that fit, the one that says more of the address is meant.
  .sort((a, b) => b.length - a.length)

function routeOf(method: string, pathname: string) {
  for (const route of ROUTES) {
    const found = route.method === method ? route.pattern.exec(pathname) : null
    if (found) {
      const params = Object.fromEntries(route.names.map((name, i) => [name, decodeURIComponent(found[i + 1]!)]))
      return { name: route.name, params }
    }
  }
  throw new Error(`The console asks for what the contract does not have: ${method} ${pathname}`)
}

function problem(refusal: Refusal): Response {
  const headers = { 'content-type': 'application/problem+json' }
  return new Response(JSON.stringify(refusal.toProblem()), { status: ERRORS[refusal.code].status, headers })
}

/** Stands in for the service: holds what is asked against the contract, and answers as it is told. */
globalThis.fetch = async (address, init = {}) => {
  const { pathname, searchParams } = new URL(String(address), 'http://localhost')
  const { name, params } = routeOf(init.method ?? 'GET', pathname)
  const body: unknown = typeof init.body === 'string' ? JSON.parse(init.body) : undefined
  const query = Object.fromEntries(searchParams)
  const operation = operations[name] as unknown as { body?: z.ZodType; query?: z.ZodType; answer?: z.ZodType }
  const wrong = [operation.body?.safeParse(body), operation.query?.safeParse(query)].find((one) => one && !one.success)
  calls.push({ name, input: { params, query, body } })
  if (wrong) return problem(new Refusal('request.invalid', wrong.error?.message))
  try {
    const say = answers[name] as ((input: unknown) => unknown) | undefined
    const said = await say?.({ params, query, body })
    if (!operation.answer) return new Response(null, { status: 204 })
    // A second page is the last one: some go on until there is none.
    const last = query['cursor'] === undefined ? {} : { next: null }
    const whole = Array.isArray(said) ? said : sampled(name, { ...(said as object | undefined), ...last })
    const { error } = operation.answer.safeParse(whole)
    if (error) untrue.push(`${name}: ${error.message}`)
    return new Response(JSON.stringify(whole), { headers: { 'content-type': 'application/json' } })
  } catch (error) {
    if (error instanceof Refusal) return problem(error)
    throw error
  }
}

/** Refuses from now on. */
export function refuse(name: OperationName, code: ErrorCode, detail?: string): void {
  serve({
    [name]: () => {
      throw new Refusal(code, detail)
    },
  } as Answers)
}
