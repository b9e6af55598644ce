import { AsyncLocalStorage } from 'node:async_hooks'
import { subscribe } from 'node:diagnostics_channel'
import type { IncomingMessage, ServerResponse } from 'node:http'
import { operations, type OperationName } from '@bathyscribe/contract'
import pg from 'pg'
import { AuditRecords, type NewAuditEntry } from '../src/records/audit.js'

/** A call that may change something, while it is made. */
interface Act {
  name: OperationName
  audited: boolean
  /** The tables that it wrote to. */
  wrote: Set<string>
}

/** What is written on the way, or is a record of its own that says who did it and when. */
const NO_ACTS =
  /^(audit_entry|digest|export_reading|key_use|launch_evidence|password_miss|picking|pulse|ration|session|sign_in_place|sounding|wire_entry)/

const CHANGES = (Object.keys(operations) as OperationName[])
  .filter((name) => operations[name].method !== 'GET')
  .map((name) => ({ name, method: operations[name].method, path: patternOf(operations[name].path) }))

function patternOf(path: string): RegExp {
  return new RegExp(`^${path.replace(/:\w+/g, '[^/]+')}$`)
}

const current = new AsyncLocalStorage<Act | undefined>()
const acts = new WeakMap<IncomingMessage, Act>()
const unaudited = new Set<string>()
const apart = new Set<string>()

subscribe('http.server.request.start', (message) => {
  const { request } = message as { request: IncomingMessage }
  const path = (request.url ?? '').split('?')[0]!
  const found = CHANGES.find((one) => one.method === request.method && one.path.test(path))
  const act = found && { name: found.name, audited: false, wrote: new Set<string>() }
  if (act) acts.set(request, act)
  current.enterWith(act)
})

subscribe('http.server.response.finish', (message) => {
  const { request, response } = message as { request: IncomingMessage; response: ServerResponse }
  const act = acts.get(request)
  if (act && response.statusCode < 300 && !act.audited)
    for (const table of act.wrote) unaudited.add(`${act.name} writes ${table}`)
})

const audit = AuditRecords.prototype as unknown as { write: (entry: NewAuditEntry) => Promise<void> }
const { write } = audit
audit.write = function (entry) {
  const act = current.getStore()
  if (act) act.audited = true
  const { manager } = this as unknown as { manager: { queryRunner?: { isTransactionActive: boolean } } }
  if (act && act.wrote.size > 0 && manager.queryRunner?.isTransactionActive !== true)
    apart.add(`${entry.action} beside ${[...act.wrote].join(', ')}`)
  return write.call(this, entry)
}

const WRITES =
  /\b(?:insert\s+into|update|delete\s+from)\s+(?:"?academy"?\.)?"?(\w+)"?\s+(?:as\b|set\b|where\b|using\b|values\b|select\b|\w+\s+set\b|\()/gi
type Asked = (this: pg.Client, ...given: unknown[]) => Promise<{ rowCount: number | null }> | undefined
const ask = pg.Client.prototype.query as unknown as Asked
pg.Client.prototype.query = function (this: pg.Client, ...given: unknown[]) {
  const act = current.getStore()
  const answer = ask.apply(this, given)
  const [first] = given as [string | { text?: string } | undefined]
  const text = (typeof first === 'string' ? first : first?.text) ?? ''
  if (!act || !(answer instanceof Promise)) return answer
  return answer.then((found) => {
    if (/^rollback$/i.test(text)) act.wrote.clear()
    if ((found.rowCount ?? 0) > 0)
      for (const [, table] of text.matchAll(WRITES)) if (!NO_ACTS.test(table!)) act.wrote.add(table!)
    return found
  })
} as unknown as typeof pg.Client.prototype.query

/** What the tests of a file did that the audit does not say, or says apart from it. */
export function takeUnaudited(): { unaudited: string[]; apart: string[] } {
  const found = { unaudited: [...unaudited].sort(), apart: [...apart].sort() }
  unaudited.clear()
  apart.clear()
  return found
}
