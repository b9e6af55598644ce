import type { VerifyRsa } from '@bathyscribe/core/diagnosis'
import type { PublicKey, Verify } from '@bathyscribe/core/lti13'
import { LRUCache } from 'lru-cache'
import { constants, createPublicKey, verify, type KeyObject } from 'node:crypto'

// Threads that compute load this: it needs nothing else of the service, so that they are there soon.

/** By modulus and exponent: the same keys come with every token. */
const opened = new LRUCache<string, KeyObject>({ max: 500 })

/** Verifies RS256. Keys that were used lately are kept ready. */
export const verifyRs256: Verify = (data, signature, key) => verify('sha256', data, openedKey(key), signature)

/** Verifies by any algorithm that signs by an RSA key, to find out by which a token was signed. Nothing is taken by another one than RS256. */
export const verifyRsa: VerifyRsa = (algorithm, data, signature, key) => {
  const opened = openedKey(key)
  const padding = algorithm.startsWith('PS') ? constants.RSA_PKCS1_PSS_PADDING : constants.RSA_PKCS1_PADDING
  return verify(`sha${algorithm.slice(2)}`, data, { key: opened, padding }, signature)
}

function openedKey({ n, e }: PublicKey): KeyObject {
  const name = `${n} ${e}`
  const known = opened.get(name)
  if (known) return known
  const key = createPublicKey({ key: { kty: 'RSA', n, e }, format: 'jwk' })
  opened.set(name, key)
  return key
}
