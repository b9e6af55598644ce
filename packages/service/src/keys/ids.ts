import { randomBytes } from 'node:crypto'

const ALPHABET = '0123456789abcdefghjkmnpqrstvwxyz'

/** Where identifiers and chance come from; tests pass their own. */
export interface Ids {
  /** Twelve characters of 32: 60 bits, unique by the database's keys. */
  next(): string
  /** 256 bits, base64url, for tokens and nonces. */
  secret(): string
}

// Asking the system for chance costs the same for 12 bytes as for thousands.
const POOL_BYTES = 8192
let pool = Buffer.alloc(0)
let used = 0
function random(bytes: number): Buffer {
  if (used + bytes > pool.length) {
    pool = randomBytes(POOL_BYTES)
    used = 0
  }
  used += bytes
  return pool.subarray(used - bytes, used)
}

export const randomIds: Ids = {
  next: () => {
    let id = ''
    for (const byte of random(12)) id += ALPHABET[byte & 31]!
    return id
  },
  secret: () => random(32).toString('base64url'),
}

/** The time, passed in everywhere so that tests can set it. */
export interface Clock {
  now(): Date
}
export const systemClock: Clock = { now: () => new Date() }
