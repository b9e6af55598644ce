import { fileURLToPath } from 'node:url'
import { Refusal } from '@bathyscribe/contract'
import type { BaseStringFacts, Diagnosis, SignatureFacts, TokenFacts } from '@bathyscribe/core/diagnosis'
import type { Roster } from '@bathyscribe/core/oneroster'
import { Piscina } from 'piscina'
import type { RosterFile, RosterRead } from './read-roster.js'

/** So long a thread may compute for one question. */
const LIMIT_MS = 5000
/** Half a million lines take longer, and only administrators hand them in. */
const ROSTER_LIMIT_MS = 30_000
const MOST_WAITING = 20

/** What takes more than a moment to compute, off the thread that answers everybody. */
export interface Workers {
  /** @throws Refusal `service.busy` when it takes too long, or too many wait */
  diagnoseSignature(facts: SignatureFacts): Promise<Diagnosis>
  /** @throws Refusal as above */
  diagnoseBaseString(facts: BaseStringFacts): Promise<Diagnosis>
  /** @throws Refusal as above */
  diagnoseToken(facts: TokenFacts): Promise<Diagnosis>
  /** @throws Refusal what is wrong with it; `service.busy` when too many wait; `roster.archive` when it takes too long */
  readRoster(file: RosterFile, limitMs?: number): Promise<Roster>
  close(): Promise<void>
}

/** No thread is started before there is something to do. */
export function createWorkers(): Workers {
  // Threads run what was built, also where the service itself runs from its sources.
  const filename = fileURLToPath(new URL('../../dist/workers/tasks.js', import.meta.url))
  const pool = new Piscina({ filename, minThreads: 0, maxThreads: 2, idleTimeout: 30_000, maxQueue: MOST_WAITING })
  const busy = (cause: unknown) => new Refusal('service.busy', undefined, undefined, { cause, retryAfterSeconds: 5 })

  /** @param late what is said when the time is up: the thread is ended then, whatever it does */
  async function ask<T>(name: string, given: unknown, limitMs: number, late: (cause: unknown) => Refusal): Promise<T> {
    try {
      return (await pool.run(given, { name, signal: AbortSignal.timeout(limitMs) })) as T
    } catch (cause) {
      const { name: fault, message } = cause as Error
      if (fault === 'AbortError') throw late(cause)
      throw /queue is at limit/i.test(message) ? busy(cause) : cause
    }
  }

  return {
    diagnoseSignature: (facts) => ask('diagnoseSignature', facts, LIMIT_MS, busy),
    diagnoseBaseString: (facts) => ask('diagnoseBaseString', facts, LIMIT_MS, busy),
    diagnoseToken: (facts) => ask('diagnoseToken', facts, LIMIT_MS, busy),
    readRoster: async (file, limitMs = ROSTER_LIMIT_MS) => {
      const read = await ask<RosterRead>('readRoster', file, limitMs, (cause) => {
        const detail = `it is not unfolded and read after ${limitMs / 1000} seconds`
        return new Refusal('roster.archive', detail, undefined, { cause })
      })
      if ('refused' in read) throw new Refusal(read.refused.code, read.refused.detail)
      return read.roster
    },
    close: () => pool.destroy(),
  }
}
