import { Refusal } from '@bathyscribe/contract'
import { entryOf } from '@bathyscribe/core/text'
import { Agent, request as send } from 'undici'
import { isIP } from 'node:net'
import { promisify } from 'node:util'
import { brotliDecompress, gunzip, inflate } from 'node:zlib'
import { checkHost, createGuard, guardedAgent } from './guard.js'

export interface OutgoingRequest {
  method: 'GET' | 'POST' | 'PUT'
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
  /** Gets bytes, following a few redirects, each guarded anew. @throws Refusal `outgoing.*` */
  fetchBytes(url: URL, maxBytes: number): Promise<{ bytes: Buffer; headers: Record<string, string> }>
  /** Whether a literal address may be called; a name is judged only when it is resolved, so it is not held against anybody here. */
  mayCall(url: URL): boolean
  close(): Promise<void>
}

const MAX_BYTES = 512 * 1024
export const MAX_REDIRECTS = 5

export function createOutgoing(settings: { outgoingAllow: readonly string[]; outgoingTimeoutMs: number }): Outgoing {
  const mayCall = createGuard(settings.outgoingAllow)
  const agent: Agent = guardedAgent(mayCall, settings.outgoingTimeoutMs)

  /** One request and its whole answer, as bytes. */
  async function exchange({ method, url, headers, body, signal }: OutgoingRequest, maxBytes: number) {
    checkHost(url, mayCall)
    const timeout = AbortSignal.timeout(settings.outgoingTimeoutMs)
    try {
      const response = await send(url, {
        method,
        dispatcher: agent,
        signal: signal ? AbortSignal.any([signal, timeout]) : timeout,
        headers: {
          'user-agent': 'Bathyscribe',
          accept: 'text/html,*/*;q=0.5',
          'accept-encoding': 'identity',
          ...headers,
        },
        ...(body !== undefined && { body }),
      })
      return {
        status: response.statusCode,
        headers: Object.fromEntries(
          Object.entries(response.headers).map(([name, value]) => [
            name,
            Array.isArray(value) ? value.join(', ') : (value ?? ''),
          ]),
        ),
        setCookies: [response.headers['set-cookie'] ?? []].flat(),
        bytes: await readBounded(response.body, maxBytes),
      }
    } catch (error) {
      throw toRefusal(error, url)
    }
  }

  return {
    async send(request) {
      const started = performance.now()
      const { bytes, ...answer } = await exchange(request, MAX_BYTES)
      return {
        ...answer,
        body: await unfold(bytes, answer.headers['content-encoding'] ?? ''),
        durationMs: performance.now() - started,
      }
    },
    async fetchBytes(address, maxBytes) {
      let url = address
      for (let redirects = 0; redirects <= MAX_REDIRECTS; redirects++) {
        const { status, headers, bytes } = await exchange({ method: 'GET', url, headers: { accept: '*/*' } }, maxBytes)
        if (status >= 200 && status < 300) return { bytes, headers }
        const next = status < 400 ? redirectOf(headers['location'], url) : undefined
        if (!next) throw answeredWith(url, status)
        url = next
      }
      throw new Refusal('outgoing.too_many_redirects', `${MAX_REDIRECTS} redirects`)
    },
    mayCall(url) {
      const host = url.hostname.replace(/^\[|\]$/g, '')
      if (host === 'localhost') return mayCall('127.0.0.1')
      return isIP(host) !== 0 && mayCall(host)
    },
    close: () => agent.close(),
  }
}

/** What is said of an answer that is none: from where, without the address's parameters, in which there may be keys. */
export function answeredWith({ origin, pathname }: URL, status: number): Refusal {
  return new Refusal('outgoing.status', `${origin}${pathname} answered ${status}`)
}

/** Where an answer sends on to; undefined when it does not. @throws Refusal for an address that is none of http's */
export function redirectOf(location: string | undefined, from: URL): URL | undefined {
  if (location === undefined) return undefined
  const next = URL.canParse(location, from.href) ? new URL(location, from) : undefined
  if (!next || !/^https?:$/.test(next.protocol)) throw new Refusal('outgoing.bad_redirect', location.slice(0, 200))
  return next
}

async function readBounded(body: AsyncIterable<Buffer> & { destroy(): unknown }, maxBytes: number): Promise<Buffer> {
  const chunks: Buffer[] = []
  let bytes = 0
  for await (const chunk of body) {
    bytes += chunk.length
    if (bytes > maxBytes) {
      body.destroy()
      throw new Refusal('outgoing.too_large', `more than ${Math.floor(maxBytes / 1024)} KiB`)
    }
    chunks.push(chunk)
  }
  return Buffer.concat(chunks)
}

const UNFOLDERS: Record<string, (packed: Buffer, options: { maxOutputLength: number }) => Promise<Buffer>> = {
  gzip: promisify(gunzip),
  'x-gzip': promisify(gunzip),
  deflate: promisify(inflate),
  br: promisify(brotliDecompress),
}

/** Some servers pack what they were asked not to pack. What unfolds to more than is read here is not unfolded at all. */
async function unfold(bytes: Buffer, encoding: string): Promise<string> {
  const unfolder = entryOf(UNFOLDERS, encoding.trim().toLowerCase())
  if (!unfolder) return bytes.toString('utf8')
  try {
    return (await unfolder(bytes, { maxOutputLength: MAX_BYTES })).toString('utf8')
  } catch (cause) {
    throw new Refusal('outgoing.unfolds', `${encoding}, ${bytes.length} bytes`, undefined, { cause })
  }
}

/** Says in our words why nothing came back. The cause keeps the library's own error for the log. */
export function toRefusal(error: unknown, url: URL): Refusal {
  for (let at = error; at instanceof Error; at = at.cause) if (at instanceof Refusal) return at
  const { name = '', code = '', message = '' } = error as { name?: string; code?: string; message?: string }
  if (name === 'TimeoutError' || /TIMEOUT/.test(code))
    return new Refusal('outgoing.timeout', url.host, undefined, { cause: error })
  if (code === 'ENOTFOUND' || code === 'EAI_AGAIN')
    return new Refusal('outgoing.name_unknown', url.hostname, undefined, { cause: error })
  if (/HPE_HEADER_OVERFLOW|UND_ERR_HEADERS_OVERFLOW/.test(code))
    return new Refusal('outgoing.head_too_large', url.host, undefined, { cause: error })
  if (/CERTIFICATE_REQUIRED|BAD_CERTIFICATE/.test(code))
    return new Refusal('outgoing.wants_certificate', url.host, undefined, { cause: error })
  // Before TLS 1.3 nobody says why: no cipher in common looks just the same.
  if (/ALERT_HANDSHAKE_FAILURE/.test(code))
    return new Refusal(
      'outgoing.tls',
      `${url.host} ended the handshake: it may ask for a certificate of ours, or take none of our ciphers`,
      undefined,
      { cause: error },
    )
  if (/UND_ERR_SOCKET|ECONNRESET|EPIPE/.test(code))
    return new Refusal('outgoing.cut_off', url.host, undefined, { cause: error })
  if (/CERT|TLS|SSL|SELF_SIGNED|UNABLE_TO/.test(code))
    return new Refusal('outgoing.tls', `${url.host}: ${code}`, undefined, { cause: error })
  return new Refusal('outgoing.unreachable', `${url.host}: ${code || message.slice(0, 80)}`, undefined, {
    cause: error,
  })
}
