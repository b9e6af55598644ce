import type { FastifyBaseLogger } from 'fastify'
import type { Clock, Ids } from '../keys/ids.js'
import type { Keys } from '../keys/key-file.js'
import type { Changes } from '../records/changes.js'
import type { Records, RecordsInside, Statements } from '../records/index.js'
import type { Actor } from '../records/statements/sign-ins.js'
import type { Settings } from '../settings/settings.js'
import type { KeyUses } from '../records/statements/key-use.js'
import type { BrowserFollower } from '../wire/browser/follow.js'
import type { Mailer } from '../wire/mailer.js'
import type { Outgoing } from '../wire/outgoing.js'
import type { Workers } from '../workers/pool.js'
import type { FileStore } from './files/file-store.js'
import type { Keyring } from './platform/keyring.js'
import type { Memory } from './platform/memory.js'
import type { Providers } from './sign-on/provider-client.js'
import type { ToolKeysets } from './tools/keysets.js'

/** What every use case works with. It knows nothing of HTTP. */
export interface Context {
  records: Records
  statements: Statements
  outgoing: Outgoing
  browser: BrowserFollower
  changes: Changes
  clock: Clock
  ids: Ids
  keys: Keys
  keyring: Keyring
  toolKeysets: ToolKeysets
  providers: Providers
  workers: Workers
  keyUses: KeyUses
  memory: Memory
  files: FileStore
  /** Null when no mail server is set. */
  mailer: Mailer | null
  settings: Settings
  version: string
  log: FastifyBaseLogger
}

export type { Actor }

/** Whoever does something; what is done in somebody's name later on comes by the service. */
export type Doer = Pick<Actor, 'id'> & Partial<Pick<Actor, 'via' | 'viaId'>>

/** Who did something, for the audit log. */
export function by(doer: Doer | null): { personId: string | null; via: string } {
  return { personId: doer?.id ?? null, via: doer?.via ? `${doer.via} ${doer.viaId}` : 'service' }
}

/** An act as the audit names it; `subject` is a kind and a name, such as `tool knotwork-drills`. */
export interface Act {
  doer: Doer | null
  action: string
  subject: string
  courseId?: string | null
}

/**
 * Does something and notes it in the audit: both, or neither.
 * @param said what the audit says of how it was before, and of what was done
 */
export function act<Done>(
  { records, clock }: Pick<Context, 'records' | 'clock'>,
  { doer, ...named }: Act,
  work: (inside: RecordsInside, at: Date) => Promise<Done>,
  said: (done: Done) => { before?: unknown; after?: unknown } = () => ({}),
): Promise<Done> {
  return records.transaction(async (inside) => {
    const at = clock.now()
    const done = await work(inside, at)
    await inside.audit.add({ at, ...by(doer), ...named, ...said(done) })
    return done
  })
}
