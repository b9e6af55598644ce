import { LRUCache } from 'lru-cache'

/** A token of ours whose signature was verified, and by which key. */
export interface VerifiedToken {
  kid: string
  claims: Record<string, unknown>
}

/** What one process remembers to save work. Nothing depends on it: it is bounded, and goes with the process. */
export interface Memory {
  /** By the token itself: the same one comes with every score of a burst. */
  verifiedTokens: LRUCache<string, VerifiedToken>
  /** When the use of a connection was last written down (ms), by connection. */
  connectionUses: LRUCache<string, number>
  /** How many refusals of a registration were explained since when (ms), by registration. */
  explained: LRUCache<string, { since: number; count: number }>
}

export function createMemory(): Memory {
  return {
    verifiedTokens: new LRUCache({ max: 2000 }),
    connectionUses: new LRUCache({ max: 2000 }),
    explained: new LRUCache({ max: 1000 }),
  }
}
