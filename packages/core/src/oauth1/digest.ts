import { hmac } from '@noble/hashes/hmac'
import { md5, sha1 } from '@noble/hashes/legacy'
import { sha256, sha384, sha512 } from '@noble/hashes/sha2'

export const SIGNATURE_METHODS = ['HMAC-SHA1', 'HMAC-SHA256'] as const
export type SignatureMethod = (typeof SIGNATURE_METHODS)[number]

export function isSignatureMethod(name: string): name is SignatureMethod {
  return (SIGNATURE_METHODS as readonly string[]).includes(name)
}

/** Hashes that ends are seen to sign with, whatever they name. */
const PORTABLE = { md5, sha1, sha256, sha384, sha512 }
export type HashName = keyof typeof PORTABLE
/** The hash of each method (RFC 5849 section 3.4.2). */
export const HASH_OF = { 'HMAC-SHA1': 'sha1', 'HMAC-SHA256': 'sha256' } as const
const utf8 = new TextEncoder()

interface NativeHash {
  update(data: string | Uint8Array): NativeHash
  digest(encoding: 'base64' | 'base64url'): string
}
interface NativeCrypto {
  createHash(name: string): NativeHash
  createHmac(name: string, key: string | Uint8Array): NativeHash
}
interface Runtime {
  process?: { getBuiltinModule?: (name: string) => unknown }
}

/** The runtime's own hashes; null asks for the portable ones. */
type Hashes = NativeCrypto | null

/**
 * Where the runtime brings hashes of its own (Node), they are used; elsewhere portable ones, which a test holds against them.
 * What else was tried for the busiest path stands in docs/performance.md.
 */
const native = ((globalThis as Runtime).process?.getBuiltinModule?.('node:crypto') ?? null) as Hashes

/** HMAC of a text, base64 (RFC 2104). */
export function hmacBase64(method: SignatureMethod, key: string, text: string, crypto = native): string {
  return macBase64(HASH_OF[method], key, text, crypto)
}

/** The same with any of the hashes. */
export function macBase64(hash: HashName, key: string, text: string, crypto = native): string {
  return crypto
    ? crypto.createHmac(hash, key).update(text).digest('base64')
    : base64(hmac(PORTABLE[hash], utf8.encode(key), utf8.encode(text)))
}

/** base64 of the body's hash, SHA-1 or SHA-256 as the signature method says (OAuth Request Body Hash, section 3.2). */
export function bodyHash(method: SignatureMethod, body: Uint8Array, crypto = native): string {
  return hashBase64(HASH_OF[method], body, crypto)
}

/** The same with any of the hashes. */
export function hashBase64(hash: HashName, body: Uint8Array, crypto = native): string {
  return crypto ? crypto.createHash(hash).update(body).digest('base64') : base64(PORTABLE[hash](body))
}

const SHORT_MAC_CHARACTERS = 22

/** First 132 bits of HMAC-SHA256, base64url: 22 characters. */
export function shortMac(key: Uint8Array, text: string, crypto = native): string {
  const whole = crypto
    ? crypto.createHmac('sha256', key).update(text).digest('base64url')
    : base64(hmac(sha256, key, utf8.encode(text)))
        .replaceAll('+', '-')
        .replaceAll('/', '_')
  return whole.slice(0, SHORT_MAC_CHARACTERS)
}

/**
 * Compares two digests in text form in time that depends on neither. Their length is no secret: it is the method's, so a text of
 * another length is refused at once.
 */
export function sameDigest(a: string, b: string): boolean {
  if (a.length !== b.length) return false
  let difference = 0
  for (let i = 0; i < a.length; i++) difference |= a.charCodeAt(i) ^ b.charCodeAt(i)
  return difference === 0
}

function base64(bytes: Uint8Array): string {
  return btoa(String.fromCharCode(...bytes))
}
