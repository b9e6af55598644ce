import { Problem } from '../result/index.js'
import { cutEnd } from '../text/index.js'
import { asObject } from '../intake/json.js'

/** A public RSA key as a keyset lists it (RFC 7517 section 4, RFC 7518 section 6.3.1). */
export interface PublicKey {
  kty: 'RSA'
  kid: string
  n: string
  e: string
  alg?: 'RS256'
  use?: 'sig'
}

/** RSASSA-PKCS1-v1_5 with SHA-256 over bytes, by whoever holds the private key. */
export type Sign = (data: Uint8Array) => Promise<Uint8Array>
export type Verify = (data: Uint8Array, signature: Uint8Array, key: PublicKey) => boolean

/** Why a compact JWS is not accepted; `detail` never repeats the token. */
export type JwsProblem = Problem<
  | 'jwt.malformed'
  | 'jwt.algorithm'
  | 'jwt.key_id_missing'
  | 'jwt.critical_header'
  | 'jwt.key_unknown'
  | 'jwt.signature_mismatch'
  | 'jwt.too_large'
>

export type Claims = Readonly<Record<string, unknown>>

/** A token taken apart. Nothing of it is verified yet. */
export interface Jws {
  /** What the header calls it; empty where it says nothing. */
  type: string
  keyId: string
  claims: Claims
  signed: Uint8Array
  signature: Uint8Array
}

const MAX_CHARACTERS = 16_384
const utf8 = new TextEncoder()

/** How a token says what it is (RFC 8725 section 3.11): an id_token or assertion, or an access token (RFC 9068 section 2.1). */
export type TokenType = 'JWT' | 'at+jwt'

/** Writes a compact JWS with RS256 (RFC 7515 section 3.1). */
export async function writeJws(claims: Claims, keyId: string, sign: Sign, type: TokenType = 'JWT'): Promise<string> {
  const header = base64url(utf8.encode(JSON.stringify({ alg: 'RS256', typ: type, kid: keyId })))
  const signed = `${header}.${base64url(utf8.encode(JSON.stringify(claims)))}`
  return `${signed}.${base64url(await sign(utf8.encode(signed)))}`
}

/**
 * Takes a compact JWS apart and checks its header: RS256 and nothing else, a key identifier, no critical extensions
 * (RFC 8725 sections 3.1 and 3.2). Does NOT verify the signature, nor look at any claim.
 * @param maxCharacters what is longer is not read
 */
export function readJws(token: string, maxCharacters = MAX_CHARACTERS): Jws | JwsProblem {
  if (token.length > maxCharacters) return new Problem('jwt.too_large', `${token.length} characters`)
  const parts = token.split('.')
  const [header, payload, signature] = parts.map((one) => unbase64url(one))
  if (parts.length !== 3 || !header || !payload || !signature)
    return new Problem('jwt.malformed', `${parts.length} parts`)
  const head = readObject(header)
  const claims = readObject(payload)
  if (!head || !claims) return new Problem('jwt.malformed', head ? 'payload' : 'header')
  if (head['alg'] !== 'RS256') return new Problem('jwt.algorithm', String(head['alg']).slice(0, 20))
  if (head['crit'] !== undefined) return new Problem('jwt.critical_header', JSON.stringify(head['crit']).slice(0, 80))
  if (typeof head['kid'] !== 'string' || head['kid'] === '') return new Problem('jwt.key_id_missing', 'kid')
  const signed = utf8.encode(`${parts[0]!}.${parts[1]!}`)
  const type = typeof head['typ'] === 'string' ? head['typ'].slice(0, 80) : ''
  return { type, keyId: head['kid'].slice(0, 200), claims, signed, signature }
}

/** What a compact JWS says, whatever its header and signature are. NOTHING of it is verified: for words about a token that was refused. */
export function claimsAsTheyStand(token: string): Claims | undefined {
  const payload = token.length > MAX_CHARACTERS ? undefined : unbase64url(token.split('.')[1] ?? '')
  return payload && readObject(payload)
}

/** Verifies the signature by the key of that identifier. Does NOT look at any claim. @returns undefined when it is good. */
export function verifyJws(jws: Jws, keys: readonly PublicKey[], verify: Verify): JwsProblem | undefined {
  const key = keys.find((one) => one.kid === jws.keyId)
  if (!key) return new Problem('jwt.key_unknown', `“${jws.keyId.slice(0, 60)}”`)
  return verify(jws.signed, jws.signature, key)
    ? undefined
    : new Problem('jwt.signature_mismatch', `key “${jws.keyId.slice(0, 60)}”`)
}

function readObject(bytes: Uint8Array): Claims | undefined {
  try {
    return asObject(JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes)))
  } catch {
    return undefined
  }
}

interface NativeBuffer {
  from(bytes: ArrayBufferLike, offset: number, length: number): { toString(encoding: 'base64url'): string }
  from(text: string, encoding: 'base64url'): Uint8Array
}
/** Where the runtime brings its own (Node), it is used; a test holds the portable way against it. */
const native = (globalThis as { Buffer?: NativeBuffer }).Buffer ?? null

export function base64url(bytes: Uint8Array, buffer: NativeBuffer | null = native): string {
  if (buffer) return buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64url')
  let binary = ''
  for (let i = 0; i < bytes.length; i += 8192) binary += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return cutEnd(btoa(binary).replaceAll('+', '-').replaceAll('/', '_'), '=')
}

/** Strict: no padding, no blanks, no characters of the other alphabet. Undefined when it is not base64url. */
export function unbase64url(text: string, buffer: NativeBuffer | null = native): Uint8Array | undefined {
  if (text === '' || !/^[A-Za-z0-9_-]+$/.test(text) || text.length % 4 === 1) return undefined
  if (buffer) return buffer.from(text, 'base64url')
  const binary = atob(text.replaceAll('-', '+').replaceAll('_', '/'))
  return Uint8Array.from(binary, (character) => character.charCodeAt(0))
}
