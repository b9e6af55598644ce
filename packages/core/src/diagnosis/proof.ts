import { hashBase64, macBase64, sameDigest, type HashName } from '../oauth1/digest.js'

declare const recomputed: unique symbol
/** A word that nobody can write down: it comes from a `Proof` only. */
export type Proven = 'proven' & { readonly [recomputed]: true }

/**
 * That a message was recomputed and came out as it was received. Nothing else may be called proven: one can be made here only, by computing, and whoever has none can say
 * no more than *likely*.
 */
export class Proof {
  readonly certainty = 'proven' as Proven

  private constructor() {}

  /** By the MAC of a base string (RFC 5849 section 3.4.2), with one of the hashes. @param digest base64 */
  static byMac(hash: HashName, key: string, base: string, digest: string): Proof | undefined {
    return sameDigest(macBase64(hash, key, base), digest) ? new Proof() : undefined
  }

  /** By the hash of a body (OAuth Request Body Hash, section 3.2), with one of the hashes. @param digest base64 */
  static byBodyHash(hash: HashName, body: Uint8Array, digest: string): Proof | undefined {
    return sameDigest(hashBase64(hash, body), digest) ? new Proof() : undefined
  }

  /** By a signature that verifies by a key (RFC 7515 section 5.2). @param verify of the runtime, given bytes and key */
  static byVerifying<Key>(
    verify: (data: Uint8Array, signature: Uint8Array, key: Key) => boolean,
    { data, signature, key }: { data: Uint8Array; signature: Uint8Array; key: Key },
  ): Proof | undefined {
    return verify(data, signature, key) ? new Proof() : undefined
  }

  /** That a moment lies within, or outside of, a window around another one. @param sent all in seconds */
  static byOffset(sent: number, around: number, window: number, lies: 'within' | 'outside'): Proof | undefined {
    return Math.abs(sent - around) <= window === (lies === 'within') ? new Proof() : undefined
  }

  /** That nothing of what was received is anything of what it could be. */
  static byNoneOf(received: readonly unknown[], possible: readonly unknown[]): Proof | undefined {
    return received.some((one) => possible.includes(one)) ? undefined : new Proof()
  }

  /** That one number is no larger than another: moments, in seconds. */
  static byOrder(smaller: number, larger: number): Proof | undefined {
    return smaller <= larger ? new Proof() : undefined
  }

  /** By comparing what was received with what it would be. */
  static byComparing(received: string, expected: string): Proof | undefined {
    return received === expected ? new Proof() : undefined
  }
}
