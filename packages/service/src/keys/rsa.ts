import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import { readKeyset, type PublicKey, type Sign } from '@bathyscribe/core/lti13'
import { createHash, createPrivateKey, createPublicKey, generateKeyPair, sign, type KeyObject } from 'node:crypto'
import { promisify } from 'node:util'

const BITS = 2048
const makePair = promisify(generateKeyPair)

/** A new RSA key of 2048 bits; its identifier is its thumbprint (RFC 7638). */
export async function makeKey(): Promise<{ kid: string; privatePem: string; publicKey: PublicKey }> {
  const { privateKey, publicKey } = await makePair('rsa', { modulusLength: BITS })
  const known = toPublicKey(publicKey)
  return {
    kid: known.kid,
    privatePem: privateKey.export({ type: 'pkcs8', format: 'pem' }).toString(),
    publicKey: known,
  }
}

/** Signs by RS256 in the runtime's worker threads, so that other requests go on meanwhile. */
export function signerOf(privatePem: string): Sign {
  const key = createPrivateKey(privatePem)
  return (data) =>
    new Promise((resolve, reject) => {
      sign('sha256', data, key, (error, signature) => (error ? reject(error) : resolve(signature)))
    })
}

export function bitsOf(key: PublicKey): number {
  return (
    createPublicKey({ key: { kty: 'RSA', n: key.n, e: key.e }, format: 'jwk' }).asymmetricKeyDetails?.modulusLength ?? 0
  )
}

const PEM = /-----BEGIN (?:RSA )?PUBLIC KEY-----[\sA-Za-z0-9+/=]+-----END (?:RSA )?PUBLIC KEY-----/g
const PRIVATE = /-----BEGIN (?:[A-Z]+ )?PRIVATE KEY-----/

/** Keys that somebody pasted: a keyset or single key as JSON, or PEM. @throws Refusal `tool.public_key_unreadable` or `keyset.*` */
export function readPublicKeys(text: string): PublicKey[] {
  if (PRIVATE.test(text)) throw new Refusal('keyset.private_key', 'PEM')
  const pems = text.match(PEM) ?? []
  if (pems.length > 0) return pems.flatMap(fromPem)
  const read = readJson(text)
  if (read instanceof Problem) throw new Refusal('tool.public_key_unreadable', read.detail)
  const value = read.value as { keys?: unknown; kty?: unknown } | null
  const keys = readKeyset(typeof value === 'object' && value !== null && 'kty' in value ? { keys: [value] } : value)
  if (keys instanceof Problem) throw Refusal.of(keys)
  return keys
}

function fromPem(pem: string): PublicKey[] {
  let key: KeyObject
  try {
    key = createPublicKey(pem)
  } catch (cause) {
    throw new Refusal('tool.public_key_unreadable', 'PEM', undefined, { cause })
  }
  if (key.asymmetricKeyType !== 'rsa')
    throw new Refusal('tool.public_key_unreadable', `a key of type ${key.asymmetricKeyType ?? 'unknown'}`)
  const keys = readKeyset({ keys: [toPublicKey(key)] })
  if (keys instanceof Problem) throw Refusal.of(keys)
  return keys
}

function toPublicKey(key: KeyObject): PublicKey {
  const { n, e } = key.export({ format: 'jwk' }) as { n: string; e: string }
  const kid = createHash('sha256')
    .update(JSON.stringify({ e, kty: 'RSA', n }))
    .digest('base64url')
  return { kty: 'RSA', kid, n, e, alg: 'RS256', use: 'sig' }
}
