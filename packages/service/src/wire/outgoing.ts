import { Refusal } from '@bathyscribe/contract'
import { Agent, request as send } from 'undici'
import { checkHost, createGuard, guardedAgent } from './guard.js'

export interface OutgoingRequest {
  method: 'GET' | 'POST'
  url: URL
  headers?: Record<string, string>
  body?: string
  signal?: AbortSignal | undefined
}

export interface OutgoingAnswer {
  status: number
  /** Lower-cased names; several values joined by commas. */
  headers: Record<string, string>
  setCookies: string[]
  /** At most `maxBytes` of the body, as UTF-8. */
  body: string
  durationMs: number
}

/** The only way out of this service: guarded, bounded in bytes and time, never following redirects by itself. */
export interface Outgoing {
  /** @throws Refusal `outgoing.*` */
  send(request: OutgoingRequest): Promise<OutgoingAnswer>
  close(): Promise<void>
}

const MAX_BYTES = 512 * 1024

export function createOutgoing(settings: { outgoingAllow: readonly string[]; outgoingTimeoutMs: number }): Outgoing {
  const mayCall = createGuard(settings.outgoingAllow)
  const agent: Agent = guardedAgent(mayCall, settings.outgoingTimeoutMs)
  return {
    async send({ method, url, headers, body, signal }) {
      checkHost(url, mayCall)
      const started = performance.now()
      const timeout = AbortSignal.timeout(settings.outgoingTimeoutMs)
      try {
        const response = await send(url, {
          method,
          dispatcher: agent,
          signal: signal ? AbortSignal.any([signal, timeout]) : timeout,
          headers: { 'user-agent': 'Bathyscribe', accept: 'text/html,*/*;q=0.5', ...headers },
          ...(body !== undefined && { body }),
        })
        const text = await readBounded(response.body)
        return {
          status: response.statusCode,
          headers: Object.fromEntries(
            Object.entries(response.headers).map(([name, value]) => [
              name,
              Array.isArray(value) ? value.join(', ') : (value ?? ''),
            ]),
          ),
          setCookies: [response.headers['set-cookie'] ?? []].flat(),
          body: text,
          durationMs: performance.now() - started,
        }
      } catch (error) {
        throw toRefusal(error, url)
      }
    },
    close: () => agent.close(),
  }
}

async function readBounded(body: AsyncIterable<Buffer> & { destroy(): unknown }): Promise<string> {
  const chunks: Buffer[] = []
  let bytes = 0
  for await (const chunk of body) {
    bytes += chunk.length
    if (bytes > MAX_BYTES) {
      body.destroy()
      throw new Refusal('outgoing.too_large', `more than ${MAX_BYTES / 1024} KiB`)
    }
    chunks.push(chunk)
  }
  return Buffer.concat(chunks).toString('utf8')
}

/** Says in our words why nothing came back. The cause keeps the library's own error for the log. */
function toRefusal(error: unknown, url: URL): Refusal {
  for (let at = error; at instanceof Error; at = at.cause) if (at instanceof Refusal) return at
  const { name = '', code = '', message = '' } = error as { name?: string; code?: string; message?: string }
  if (name === 'TimeoutError' || /TIMEOUT/.test(code))
    return new Refusal('outgoing.timeout', url.host, undefined, { cause: error })
  if (/CERT|TLS|SSL|SELF_SIGNED|UNABLE_TO/.test(code))
    return new Refusal('outgoing.tls', `${url.host}: ${code}`, undefined, { cause: error })
  return new Refusal('outgoing.unreachable', `${url.host}: ${code || message.slice(0, 80)}`, undefined, {
    cause: error,
  })
}
