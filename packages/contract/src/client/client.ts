import type { z } from 'zod'
import { Problem } from '../errors/problem.js'
import { CourseFile } from '../resources/places.js'
import { operations, type OperationName, type Operations } from '../operations/table.js'

type Given<S, Key extends string> = S extends z.ZodType ? { [K in Key]: z.input<S> } : unknown
type GivenBody<S> = S extends z.ZodType
  ? undefined extends z.input<S>
    ? { body?: z.input<S> }
    : { body: z.input<S> }
  : unknown
type GivenQuery<S> = S extends z.ZodType ? { query?: Partial<z.input<S>> } : unknown

/** What a call takes, by its name. */
export type CallInput<N extends OperationName> = Given<Operations[N]['params'], 'params'> &
  GivenQuery<Operations[N]['query']> &
  GivenBody<Operations[N]['body']>

/** What a call answers, by its name. */
export type CallAnswer<N extends OperationName> = Operations[N]['answer'] extends z.ZodType
  ? z.output<Operations[N]['answer']>
  : undefined

/** The service refused a call, and says why. */
export class ServiceRefusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.title)
    this.name = 'ServiceRefusal'
  }
}

/** The service could not be reached, or what answered is not it. */
export class ServiceUnreached extends Error {
  constructor(baseUrl: string, options?: ErrorOptions) {
    super(`No Bathyscribe service answers at ${baseUrl || 'this address'}.`, options)
    this.name = 'ServiceUnreached'
  }
}

export interface ClientOptions {
  /** Without a slash at the end; empty for the page's own origin. */
  baseUrl: string
  /** Headers of every call: an API token, a CSRF token. */
  headers: (method: string) => Record<string, string>
  fetch?: typeof fetch
}

/** A client of the API, the same for command line and console. */
export interface Client {
  call<N extends OperationName>(name: N, input: CallInput<N>): Promise<CallAnswer<N>>
  /** Uploads a file into a course. */
  upload(course: string, content: Blob, name: string): Promise<CourseFile>
  /** A picture of a sounding, as its bytes. */
  picture(sounding: string, picture: string): Promise<Uint8Array>
}

/** Makes a client. @throws ServiceRefusal, ServiceUnreached from its calls. */
export function createClient(options: ClientOptions): Client {
  const send = options.fetch ?? fetch
  return {
    async call<N extends OperationName>(name: N, input: CallInput<N>): Promise<CallAnswer<N>> {
      const operation = operations[name]
      const { params, query, body } = input as {
        params?: Record<string, string>
        query?: Record<string, unknown>
        body?: unknown
      }
      const path = operation.path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(params?.[key] ?? ''))
      const search = new URLSearchParams()
      for (const [key, value] of Object.entries(query ?? {}))
        if (value !== undefined && value !== null && value !== '') search.set(key, String(value))
      const text = search.size > 0 ? `?${search}` : ''
      let response: Response
      try {
        response = await send(`${options.baseUrl}${path}${text}`, {
          method: operation.method,
          headers: {
            accept: 'application/json',
            ...(body !== undefined && { 'content-type': 'application/json' }),
            ...options.headers(operation.method),
          },
          ...(body !== undefined && { body: JSON.stringify(body) }),
        })
      } catch (cause) {
        throw new ServiceUnreached(options.baseUrl, { cause })
      }
      if (response.status === 204) return undefined as CallAnswer<N>
      return (await read(response, operation.answer as z.ZodType | undefined, operation.bulky)) as CallAnswer<N>
    },
    async upload(course, content, name) {
      const form = new FormData()
      form.set('file', content, name)
      const response = await send(`${options.baseUrl}/api/courses/${encodeURIComponent(course)}/files`, {
        method: 'POST',
        headers: { accept: 'application/json', ...options.headers('POST') },
        body: form,
      }).catch((cause: unknown) => {
        throw new ServiceUnreached(options.baseUrl, { cause })
      })
      return read(response, CourseFile)
    },
    async picture(sounding, picture) {
      const path = `/api/soundings/${encodeURIComponent(sounding)}/pictures/${encodeURIComponent(picture)}`
      const response = await send(options.baseUrl + path, { headers: options.headers('GET') }).catch(
        (cause: unknown) => {
          throw new ServiceUnreached(options.baseUrl, { cause })
        },
      )
      if (!response.ok) await read(response, undefined)
      return new Uint8Array(await response.arrayBuffer())
    },
  }

  async function read<T>(response: Response, schema: z.ZodType<T> | undefined, bulky = false): Promise<T> {
    const answer: unknown = await response.json().catch((cause: unknown) => {
      throw new ServiceUnreached(options.baseUrl, { cause })
    })
    if (response.ok && schema) return bulky ? (answer as T) : schema.parse(answer)
    const problem = Problem.safeParse(answer)
    if (problem.success) throw new ServiceRefusal(problem.data)
    throw new ServiceUnreached(options.baseUrl)
  }
}
