import { AsyncLocalStorage } from 'node:async_hooks'
import type { Pool, PoolClient } from 'pg'

/** The signal of whoever waits for what is read. */
const waiting = new AsyncLocalStorage<AbortSignal>()

/** Reads on somebody's behalf: when nobody waits any more, PostgreSQL is told to stop, too. For reading only: what writes is finished. */
export function readFor<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  return waiting.run(signal, work)
}

/** Aborts when nobody waits any more for what is read now; undefined where somebody always does. */
export function readerGone(): AbortSignal | undefined {
  return waiting.getStore()
}

/** The reader has gone before the answer. */
export class Abandoned extends Error {
  constructor() {
    super('Nobody is waiting for this any longer.')
  }
}

/** Whether a reader had gone, whatever the library that asked made of it. */
export function isAbandoned(error: unknown): boolean {
  return error instanceof Abandoned || (error as { driverError?: unknown } | null)?.driverError instanceof Abandoned
}

type Query = (...args: unknown[]) => unknown

/**
 * Has the statements of a pool cancelled when their reader goes. A connection goes back to the pool only after its cancelling was answered, so that never the
 * statement of somebody else is hit.
 * @param messenger another pool: the connection that works cannot be asked to stop
 */
export function cancelAbandoned(pool: Pool, messenger: Pool): void {
  const known = new WeakSet<PoolClient>()
  pool.on('acquire', (client: PoolClient) => {
    if (known.has(client)) return
    known.add(client)
    const query = (client.query as Query).bind(client)
    const { processID } = client as unknown as { processID: number }
    const watched: Query = (...args) => {
      const signal = waiting.getStore()
      if (!signal || typeof args.at(-1) === 'function') return query(...args)
      return run(
        () => query(...args) as Promise<unknown>,
        signal,
        () => messenger.query('select pg_cancel_backend($1)', [processID]),
      )
    }
    client.query = watched as typeof client.query
  })
}

async function run(
  query: () => Promise<unknown>,
  signal: AbortSignal,
  cancel: () => Promise<unknown>,
): Promise<unknown> {
  if (signal.aborted) throw new Abandoned()
  let cancelling: Promise<unknown> | undefined
  const stop = () => {
    cancelling = cancel().catch(() => undefined)
  }
  signal.addEventListener('abort', stop, { once: true })
  try {
    return await query()
  } finally {
    signal.removeEventListener('abort', stop)
    await cancelling
  }
}
