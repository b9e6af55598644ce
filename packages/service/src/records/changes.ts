import type { ChangeEvent } from '@bathyscribe/contract'
import pg, { type Pool } from 'pg'

const CHANNEL = 'bathyscribe_changes'
// A notification is committed under one lock for the whole database, so many changes travel in one of them.
const SEND_EVERY_MS = 100
const MOST_IN_ONE = 40
const RECONNECT_MS = 1000

/** Tells every process that shares these records what has changed, so that open pages can follow. */
export interface Changes {
  /** Goes out shortly after; losing one only means that a page is refreshed later. */
  publish(change: Pick<ChangeEvent, 'kind' | 'courseId'> & Partial<ChangeEvent>): void
  /** @returns a function that ends the subscription */
  subscribe(listener: (change: ChangeEvent) => void): () => void
  close(): Promise<void>
}

/** Changes by PostgreSQL's notifications, kept apart by schema. */
export function createChanges(
  pool: Pool,
  databaseUrl: string,
  schema: string,
  onFault: (error: unknown) => void,
): Changes {
  const listeners = new Set<(change: ChangeEvent) => void>()
  const waiting = new Map<string, ChangeEvent>()
  const channel = `${CHANNEL}_${schema}`
  let timer: NodeJS.Timeout | undefined
  let sending: Promise<unknown> = Promise.resolve()
  let listening: pg.Client | undefined
  let closed = false

  function flush() {
    timer = undefined
    const all = [...waiting.values()]
    waiting.clear()
    for (let i = 0; i < all.length; i += MOST_IN_ONE)
      sending = pool
        .query('select pg_notify($1, $2)', [channel, JSON.stringify(all.slice(i, i + MOST_IN_ONE))])
        .catch(onFault)
  }

  async function listen(): Promise<void> {
    if (closed || listening) return
    const client = new pg.Client({
      connectionString: databaseUrl,
      application_name: 'bathyscribe changes',
      keepAlive: true,
    })
    const again = () => {
      if (listening !== client && listening !== undefined) return
      listening = undefined
      if (!closed && listeners.size > 0) setTimeout(() => void listen(), RECONNECT_MS).unref()
    }
    listening = client
    client.on('error', again)
    client.on('end', again)
    client.on('notification', (message) => {
      for (const change of JSON.parse(message.payload ?? '[]') as ChangeEvent[])
        for (const listener of listeners) listener(change)
    })
    try {
      await client.connect()
      await client.query(`listen "${channel}"`)
    } catch (error) {
      onFault(error)
      await client.end().catch(() => undefined)
      again()
    }
  }

  return {
    publish(partly) {
      const change: ChangeEvent = { assignmentId: null, personId: null, ...partly }
      waiting.set(`${change.kind} ${change.courseId} ${change.assignmentId} ${change.personId}`, change)
      timer ??= setTimeout(flush, SEND_EVERY_MS)
    },
    subscribe(listener) {
      listeners.add(listener)
      void listen()
      return () => listeners.delete(listener)
    },
    async close() {
      closed = true
      if (timer) {
        clearTimeout(timer)
        flush()
      }
      await sending
      await listening?.end().catch(() => undefined)
    },
  }
}
