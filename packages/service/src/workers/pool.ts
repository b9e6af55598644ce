import { fileURLToPath } from 'node:url'
import { Refusal } from '@bathyscribe/contract'
import type { Diagnosis, SignatureFacts } from '@bathyscribe/core/diagnosis'
import { Piscina } from 'piscina'

/** So long a thread may compute for one question. */
const LIMIT_MS = 5000
const MOST_WAITING = 20

/** What takes more than a moment to compute, off the thread that answers everybody. */
export interface Workers {
  /** @throws Refusal `service.busy` when it takes too long, or too many wait */
  diagnoseSignature(facts: SignatureFacts): Promise<Diagnosis>
  close(): Promise<void>
}

/** No thread is started before there is something to do. */
export function createWorkers(): Workers {
  // Threads run what was built, also where the service itself runs from its sources.
  const filename = fileURLToPath(new URL('../../dist/workers/tasks.js', import.meta.url))
  const pool = new Piscina({ filename, minThreads: 0, maxThreads: 1, idleTimeout: 30_000, maxQueue: MOST_WAITING })
  return {
    async diagnoseSignature(facts) {
      try {
        return (await pool.run(facts, {
          name: 'diagnoseSignature',
          signal: AbortSignal.timeout(LIMIT_MS),
        })) as Diagnosis
      } catch (cause) {
        const { name, message } = cause as Error
        if (name === 'AbortError' || /queue is at limit/i.test(message))
          throw new Refusal('service.busy', undefined, undefined, { cause, retryAfterSeconds: 5 })
        throw cause
      }
    },
    close: () => pool.destroy(),
  }
}
