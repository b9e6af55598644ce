import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import { readKeyset, type PublicKey } from '@bathyscribe/core/lti13'
import type { Clock } from '../../keys/ids.js'
import type { Records } from '../../records/index.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { fetchDocument } from '../../wire/fetch-document.js'
import type { Outgoing } from '../../wire/outgoing.js'

type Holder = Pick<RegistrationRecord, 'id' | 'keysetUrl' | 'publicKeys'>

/** The public keys of tools: pasted ones, or those at their keyset addresses, read once per cache time whatever the load. */
export interface ToolKeysets {
  /** Keys of a tool. With a `kid` that is not among those known, the keyset is read again, once in a while. @throws Refusal */
  keysOf(tool: Holder, kid?: string): Promise<PublicKey[]>
  /** Reads the keyset now, or takes what was read less than `maxAgeMs` ago. @throws Refusal */
  readNow(tool: Holder, maxAgeMs?: number): Promise<PublicKey[]>
}

/** An unknown key identifier costs nothing to make up, so it cannot make us ask the tool more often than this. */
const ASK_AGAIN_MS = 10_000

interface Known {
  url: string
  keys: PublicKey[] | undefined
  failure: Refusal | undefined
  readAt: number
}

interface Parts {
  records: Records
  outgoing: Outgoing
  clock: Clock
  cacheMinutes: number
}

export function createToolKeysets(parts: Parts): ToolKeysets {
  return new KeysetCache(parts)
}

class KeysetCache implements ToolKeysets {
  private readonly cacheMs: number
  private readonly known = new Map<string, Known>()
  private readonly reading = new Map<string, Promise<Known>>()

  constructor(private readonly parts: Parts) {
    this.cacheMs = parts.cacheMinutes * 60_000
  }

  async keysOf(tool: Holder, kid?: string): Promise<PublicKey[]> {
    if (tool.publicKeys && tool.publicKeys.length > 0) return tool.publicKeys
    if (!tool.keysetUrl) throw new Refusal('keyset.none')
    const url = tool.keysetUrl
    let one = this.known.get(tool.id)
    if (one?.url !== url) {
      const kept = await this.fromRecords(tool, url)
      // While the records were asked, somebody else may have read it from the tool.
      const read = this.known.get(tool.id)
      one = read?.url === url ? read : kept
    }
    const age = one ? this.parts.clock.now().getTime() - one.readAt : Infinity
    const stale = !one || age > this.cacheMs
    const unknown = one !== undefined && kid !== undefined && !one.keys?.some((key) => key.kid === kid)
    if (stale || ((unknown || one?.keys === undefined) && age > ASK_AGAIN_MS)) one = await this.read(tool, url)
    return keysIn(one!)
  }

  async readNow(tool: Holder, maxAgeMs = 0): Promise<PublicKey[]> {
    if (!tool.keysetUrl) throw new Refusal('keyset.none')
    const last = this.known.get(tool.id)
    const isFresh = last?.url === tool.keysetUrl && this.parts.clock.now().getTime() - last.readAt < maxAgeMs
    const one = isFresh ? last : await this.read(tool, tool.keysetUrl)
    if (one.failure) throw one.failure
    return keysIn(one)
  }

  private read(tool: Holder, url: string): Promise<Known> {
    const name = `${tool.id} ${url}`
    let one = this.reading.get(name)
    if (!one) {
      one = this.fetchKeys(tool, url).finally(() => this.reading.delete(name))
      this.reading.set(name, one)
    }
    return one
  }

  private async fetchKeys(tool: Holder, url: string): Promise<Known> {
    let keys: PublicKey[] | undefined
    let failure: Refusal | undefined
    try {
      keys = parseKeyset((await fetchDocument(this.parts.outgoing, url, 'application/json')).body)
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      failure = error
    }
    const before = this.known.get(tool.id)
    // What could not be read is no reason to forget what was: a tool's short outage must not lock it out.
    const kept = keys ?? (before?.url === url ? before.keys : undefined)
    const now = { url, keys: kept, failure, readAt: this.parts.clock.now().getTime() }
    this.known.set(tool.id, now)
    await this.parts.records.secrets.noteKeyset(tool.id, {
      url,
      keys: keys ?? null,
      readAt: this.parts.clock.now(),
      failure: failure?.message ?? null,
    })
    await this.parts.records.publishedKeys.note(tool.id, keys ?? [], this.parts.clock.now())
    return now
  }

  private async fromRecords(tool: Holder, url: string): Promise<Known | undefined> {
    const kept = await this.parts.records.secrets.keyset(tool.id)
    if (kept?.url !== url || !kept.keys) return undefined
    const one = { url, keys: kept.keys, failure: undefined, readAt: kept.readAt.getTime() }
    const read = this.known.get(tool.id)
    if (read?.url === url && read.readAt >= one.readAt) return read
    this.known.set(tool.id, one)
    return one
  }
}

function keysIn(one: Known): PublicKey[] {
  if (one.keys) return one.keys
  throw one.failure ?? new Refusal('keyset.no_usable_key')
}

function parseKeyset(body: string): PublicKey[] {
  const read = readJson(body)
  if (read instanceof Problem) throw new Refusal('keyset.not_a_keyset', read.detail)
  const keys = readKeyset(read.value)
  if (keys instanceof Problem) throw Refusal.of(keys)
  return keys
}
