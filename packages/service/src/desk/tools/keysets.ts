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

export function createToolKeysets(parts: {
  records: Records
  outgoing: Outgoing
  clock: Clock
  cacheMinutes: number
}): ToolKeysets {
  const { records, outgoing, clock, cacheMinutes } = parts
  const cacheMs = cacheMinutes * 60_000
  const known = new Map<string, Known>()
  const reading = new Map<string, Promise<Known>>()

  function read(tool: Holder, url: string): Promise<Known> {
    const name = `${tool.id} ${url}`
    let one = reading.get(name)
    if (!one) {
      one = fetchKeys(tool, url).finally(() => reading.delete(name))
      reading.set(name, one)
    }
    return one
  }

  async function fetchKeys(tool: Holder, url: string): Promise<Known> {
    let keys: PublicKey[] | undefined
    let failure: Refusal | undefined
    try {
      keys = parseKeyset((await fetchDocument(outgoing, url, 'application/json')).body)
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      failure = error
    }
    const before = known.get(tool.id)
    // What could not be read is no reason to forget what was: a tool's short outage must not lock it out.
    const kept = keys ?? (before?.url === url ? before.keys : undefined)
    const now = { url, keys: kept, failure, readAt: clock.now().getTime() }
    known.set(tool.id, now)
    await records.secrets.noteKeyset(tool.id, {
      url,
      keys: keys ?? null,
      readAt: clock.now(),
      failure: failure?.message ?? null,
    })
    return now
  }

  async function fromRecords(tool: Holder, url: string): Promise<Known | undefined> {
    const kept = await records.secrets.keyset(tool.id)
    if (kept?.url !== url || !kept.keys) return undefined
    const one = { url, keys: kept.keys, failure: undefined, readAt: kept.readAt.getTime() }
    const read = known.get(tool.id)
    if (read?.url === url && read.readAt >= one.readAt) return read
    known.set(tool.id, one)
    return one
  }

  function keysIn(one: Known): PublicKey[] {
    if (one.keys) return one.keys
    throw one.failure ?? new Refusal('keyset.no_usable_key')
  }

  return {
    async keysOf(tool, kid) {
      if (tool.publicKeys && tool.publicKeys.length > 0) return tool.publicKeys
      if (!tool.keysetUrl) throw new Refusal('keyset.none')
      const url = tool.keysetUrl
      let one = known.get(tool.id)
      if (one?.url !== url) {
        const kept = await fromRecords(tool, url)
        // While the records were asked, somebody else may have read it from the tool.
        const read = known.get(tool.id)
        one = read?.url === url ? read : kept
      }
      const age = one ? clock.now().getTime() - one.readAt : Infinity
      const stale = !one || age > cacheMs
      const unknown = one !== undefined && kid !== undefined && !one.keys?.some((key) => key.kid === kid)
      if (stale || ((unknown || one?.keys === undefined) && age > ASK_AGAIN_MS)) one = await read(tool, url)
      return keysIn(one!)
    },
    async readNow(tool, maxAgeMs = 0) {
      if (!tool.keysetUrl) throw new Refusal('keyset.none')
      const last = known.get(tool.id)
      const isFresh = last?.url === tool.keysetUrl && clock.now().getTime() - last.readAt < maxAgeMs
      const one = isFresh ? last : await read(tool, tool.keysetUrl)
      if (one.failure) throw one.failure
      return keysIn(one)
    },
  }
}

function parseKeyset(body: string): PublicKey[] {
  const read = readJson(body)
  if ('code' in read) throw new Refusal('keyset.not_a_keyset', read.detail)
  const keys = readKeyset(read.value)
  if ('code' in keys) throw new Refusal(keys.code, keys.detail)
  return keys
}
