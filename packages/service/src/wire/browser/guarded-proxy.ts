import { LRUCache } from 'lru-cache'
import { randomBytes, timingSafeEqual } from 'node:crypto'
import { createServer, request, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import { connect, type AddressInfo, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { Refusal } from '@bathyscribe/contract'
import { checkHost, guardedLookup } from '../guard.js'
import { toRefusal } from '../outgoing.js'

/** A page that sends more than this is cut off. */
const MOST_BYTES = 20 * 1_048_576
const SILENT_MS = 15_000
const JUST_NOW_MS = 1000
/** As of the service's own requests. */
const MOST_HEAD_BYTES = 32 * 1024
const CHALLENGE = { 'proxy-authenticate': 'Basic realm="soundings"' }

/** Where the proxy is, and what it asks for: other programs of the machine have no business with it. */
export interface ProxyAccess {
  server: string
  username: string
  password: string
}

/** A forward proxy on loopback that asks the guard about every address a browser wants to go to. */
export interface GuardedProxy {
  address: () => Promise<ProxyAccess>
  /** Why a host was not reached, if it was refused or broke off since `since`. */
  refusalOf: (host: string, since: number) => Refusal | undefined
  /** Whether a host has not come to the end of an answer; of one by TLS, whether something came a moment ago. */
  isSending: (host: string) => boolean
  close: () => Promise<void>
}

const HOSTS_REMEMBERED = 500

export function createGuardedProxy(mayCall: (address: string) => boolean): GuardedProxy {
  return new ForwardProxy(mayCall)
}

class ForwardProxy implements GuardedProxy {
  private readonly lookup: ReturnType<typeof guardedLookup>
  private readonly refusals = new LRUCache<string, { refusal: Refusal; at: number }>({ max: HOSTS_REMEMBERED })
  private readonly sockets = new Set<Duplex>()
  /** Answers that have begun and not ended, by host. */
  private readonly unfinished = new Map<string, number>()
  private readonly lastByteAt = new LRUCache<string, number>({ max: HOSTS_REMEMBERED })
  private server: Server | undefined
  private started: Promise<ProxyAccess> | undefined
  private readonly username = 'bathyscribe'
  private readonly password = randomBytes(24).toString('base64url')
  private readonly expected = Buffer.from(
    `Basic ${Buffer.from(`${this.username}:${this.password}`).toString('base64')}`,
  )

  constructor(private readonly mayCall: (address: string) => boolean) {
    this.lookup = guardedLookup(mayCall)
  }

  address(): Promise<ProxyAccess> {
    return (this.started ??= this.start())
  }

  refusalOf(host: string, since: number): Refusal | undefined {
    const found = this.refusals.get(host)
    return found && found.at >= since ? found.refusal : undefined
  }

  isSending(host: string): boolean {
    return (this.unfinished.get(host) ?? 0) > 0 || performance.now() - (this.lastByteAt.get(host) ?? 0) < JUST_NOW_MS
  }

  async close(): Promise<void> {
    for (const socket of this.sockets) socket.destroy()
    await new Promise<void>((resolve) => (this.server ? this.server.close(() => resolve()) : resolve()))
  }

  private start(): Promise<ProxyAccess> {
    return new Promise((resolve, reject) => {
      const server = createServer((incoming, answer) => this.forward(incoming, answer))
      this.server = server
      server
        .on('connect', (incoming: IncomingMessage, client: Duplex, head: Buffer) => this.tunnel(incoming, client, head))
        .on('connection', (socket: Duplex) => {
          this.sockets.add(socket)
          socket.on('close', () => this.sockets.delete(socket))
        })
        .once('error', reject)
        .listen(0, '127.0.0.1', () => {
          const { username, password } = this
          resolve({ server: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, username, password })
        })
      server.unref()
    })
  }

  private isOurs({ headers }: IncomingMessage): boolean {
    const given = Buffer.from(headers['proxy-authorization'] ?? '')
    return given.length === this.expected.length && timingSafeEqual(given, this.expected)
  }

  private note(host: string, refusal: Refusal): void {
    this.refusals.set(host, { refusal, at: performance.now() })
  }

  private forward(incoming: IncomingMessage, answer: ServerResponse): void {
    if (!this.isOurs(incoming)) return void answer.writeHead(407, CHALLENGE).end()
    const url = URL.canParse(incoming.url ?? '') ? new URL(incoming.url!) : undefined
    if (url?.protocol !== 'http:') return void answer.writeHead(400).end()
    try {
      checkHost(url, this.mayCall)
    } catch (error) {
      this.note(url.host, error as Refusal)
      return void answer.destroy()
    }
    const { 'proxy-connection': _, 'proxy-authorization': __, ...headers } = incoming.headers
    const out = request(
      url,
      { method: incoming.method, headers, lookup: this.lookup, timeout: SILENT_MS, maxHeaderSize: MOST_HEAD_BYTES },
      (found) => {
        answer.writeHead(found.statusCode ?? 502, found.headers)
        this.unfinished.set(url.host, (this.unfinished.get(url.host) ?? 0) + 1)
        bound(found, () => {
          this.note(url.host, new Refusal('outgoing.too_large', `more than ${MOST_BYTES / 1_048_576} MiB`))
          answer.destroy()
        })
        found.on('error', () => answer.destroy()).pipe(answer)
        found.on('close', () => {
          this.unfinished.set(url.host, (this.unfinished.get(url.host) ?? 1) - 1)
          if (!found.complete && !this.refusalOf(url.host, performance.now() - 60_000))
            this.note(url.host, new Refusal('outgoing.cut_off', url.host))
        })
      },
    )
    out.on('timeout', () => out.destroy(new Refusal('outgoing.timeout', url.host)))
    out.on('error', (error) => {
      this.note(url.host, toRefusal(error, url))
      answer.destroy()
    })
    answer.on('close', () => out.destroy())
    incoming.pipe(out)
  }

  private tunnel(incoming: IncomingMessage, client: Duplex, head: Buffer): void {
    const target = URL.canParse(`https://${incoming.url}`) ? new URL(`https://${incoming.url}`) : undefined
    client.on('error', () => client.destroy())
    if (!this.isOurs(incoming))
      return void client.end(
        `HTTP/1.1 407 Proxy Authentication Required\r\nproxy-authenticate: ${CHALLENGE['proxy-authenticate']}\r\ncontent-length: 0\r\n\r\n`,
      )
    if (!target) return void client.end('HTTP/1.1 400 Bad Request\r\n\r\n')
    try {
      checkHost(target, this.mayCall)
    } catch (error) {
      this.note(target.host, error as Refusal)
      return void client.destroy()
    }
    const socket: Socket = connect({
      host: target.hostname.replace(/^\[|\]$/g, ''),
      port: Number(target.port || 443),
      lookup: this.lookup,
      timeout: SILENT_MS,
    })
    socket.on('connect', () => {
      client.write('HTTP/1.1 200 OK\r\n\r\n')
      socket.write(head)
      bound(socket, () => socket.destroy())
      socket.on('data', () => this.lastByteAt.set(target.host, performance.now()))
      socket.pipe(client).pipe(socket)
    })
    socket.on('timeout', () => socket.destroy(new Refusal('outgoing.timeout', target.host)))
    socket.on('error', (error) => {
      this.note(target.host, toRefusal(error, target))
      client.destroy()
    })
    client.on('close', () => socket.destroy())
    socket.on('close', () => client.destroy())
  }
}

function bound(stream: NodeJS.ReadableStream, cut: () => void): void {
  let bytes = 0
  stream.on('data', (chunk: Buffer) => {
    bytes += chunk.length
    if (bytes > MOST_BYTES) cut()
  })
}
