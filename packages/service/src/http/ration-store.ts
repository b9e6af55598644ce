import type { FastifyRateLimitStore, FastifyRateLimitStoreCtor } from '@fastify/rate-limit'
import type { Context } from '../desk/context.js'

/** Where `@fastify/rate-limit` counts: in the records, so that all processes give one ration together. */
export function rationStore({ records, clock }: Pick<Context, 'records' | 'clock'>): FastifyRateLimitStoreCtor {
  return class RationStore implements FastifyRateLimitStore {
    incr(
      key: string,
      done: (error: Error | null, result?: { current: number; ttl: number }) => void,
      windowMs = 60_000,
    ): void {
      const now = clock.now()
      records.rations.take(key, now, windowMs).then(
        ({ uses, endsAt }) => done(null, { current: uses, ttl: Math.max(0, endsAt.getTime() - now.getTime()) }),
        (error: unknown) => done(error as Error),
      )
    }
    child(): FastifyRateLimitStore {
      return this
    }
  }
}
