import { Problem } from '../result/index.js'
import { unbase64url, type PublicKey } from './jws.js'

/** Why a keyset cannot be used. */
export type KeysetProblem = Problem<
  'keyset.not_a_keyset' | 'keyset.no_usable_key' | 'keyset.too_many_keys' | 'keyset.private_key'
>

export const KEYSET_MAX_KEYS = 50
const MIN_BITS = 2048
const MAX_BITS = 8192

/**
 * The usable keys of a keyset (RFC 7517 section 5): RSA, 2048 to 8192 bits, with an identifier, not meant for encryption. Others are passed over,
 * as the standard has it; a private key in it makes all of it unusable.
 */
export function readKeyset(value: unknown): PublicKey[] | KeysetProblem {
  const keys = (value as { keys?: unknown } | null)?.keys
  if (!Array.isArray(keys)) return new Problem('keyset.not_a_keyset', 'no list “keys”')
  if (keys.length > KEYSET_MAX_KEYS)
    return new Problem('keyset.too_many_keys', `${keys.length} keys, ${KEYSET_MAX_KEYS} at most`)
  const usable: PublicKey[] = []
  for (const one of keys as unknown[]) {
    if (typeof one !== 'object' || one === null) continue
    const { kty, kid, n, e, use, alg, d } = one as Record<string, unknown>
    if (d !== undefined) return new Problem('keyset.private_key', `key “${String(kid).slice(0, 60)}”`)
    if (kty !== 'RSA' || typeof kid !== 'string' || typeof n !== 'string' || typeof e !== 'string') continue
    if ((use !== undefined && use !== 'sig') || (alg !== undefined && alg !== 'RS256')) continue
    const bits = modulusBits(n)
    if (bits < MIN_BITS || bits > MAX_BITS || !isOddExponent(e)) continue
    usable.push({ kty: 'RSA', kid: kid.slice(0, 200), n, e })
  }
  return usable.length > 0
    ? usable
    : new Problem('keyset.no_usable_key', `${keys.length} keys, none of them RSA of ${MIN_BITS} bits with a kid`)
}

function modulusBits(n: string): number {
  const bytes = unbase64url(n)
  if (!bytes) return 0
  const first = bytes.findIndex((byte) => byte !== 0)
  return first < 0 ? 0 : (bytes.length - first) * 8 - Math.clz32(bytes[first]!) + 24
}

function isOddExponent(e: string): boolean {
  const bytes = unbase64url(e)
  return (
    bytes !== undefined && bytes.length <= 8 && (bytes.at(-1)! & 1) === 1 && !(bytes.length === 1 && bytes[0] === 1)
  )
}
