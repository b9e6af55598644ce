import type { FastifyBaseLogger } from 'fastify'
import type { Clock, Ids } from '../keys/ids.js'
import type { Keys } from '../keys/key-file.js'
import type { Changes } from '../records/changes.js'
import type { Records, Statements } from '../records/index.js'
import type { Actor } from '../records/statements/sign-ins.js'
import type { Settings } from '../settings/settings.js'
import type { KeyUses } from '../records/statements/key-use.js'
import type { BrowserFollower } from '../wire/browser/follow.js'
import type { Mailer } from '../wire/mailer.js'
import type { Outgoing } from '../wire/outgoing.js'
import type { Workers } from '../workers/pool.js'
import type { FileStore } from './files/file-store.js'
import type { Keyring } from './keyring.js'
import type { ToolKeysets } from './tool-keysets.js'

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
  workers: Workers
  keyUses: KeyUses
  files: FileStore
  /** Null when no mail server is set. */
  mailer: Mailer | null
  settings: Settings
  version: string
  log: FastifyBaseLogger
}

export type { Actor }

/** Who did something, for the audit log. */
export function by(actor: Actor | null): { personId: string | null; via: string } {
  return actor ? { personId: actor.id, via: `${actor.via} ${actor.viaId}` } : { personId: null, via: 'service' }
}
