import { createPublicKey, generateKeyPairSync, sign, verify, type KeyObject } from 'node:crypto'
import { Problem } from '@bathyscribe/core/result'
import { readJws, verifyJws, writeJws, type Claims, type Jws, type PublicKey } from '@bathyscribe/core/lti13'

/** The keys of both ends of LTI 1.3: one of its own that signs, the platform's that tokens were signed by, and what tools publish. */
export class LimitKeys {
  private readonly own = generateKeyPairSync('rsa', { modulusLength: 2048 })
  private readonly opened = new Map<string, KeyObject>()
  private readonly keysets = new Map<string, PublicKey[]>()
  private readonly verified = new Map<string, Claims>()

  /** @param readPlatform the platform's published keys, asked for when a token is new */
  constructor(private readonly readPlatform: () => Promise<readonly PublicKey[]>) {}

  isSignedBy(jws: Jws, keys: readonly PublicKey[]): boolean {
    return !verifyJws(jws, keys, (data, signature, key) => verify('sha256', data, this.open(key), signature))
  }

  sign(claims: Claims, type: 'JWT' | 'at+jwt'): Promise<string> {
    const by = (data: Uint8Array) =>
      new Promise<Uint8Array>((resolve, reject) =>
        sign('sha256', data, this.own.privateKey, (error, signature) => (error ? reject(error) : resolve(signature))),
      )
    return writeJws(claims, 'limit', by, type)
  }

  /** A token is verified once and then known, as in the service. */
  async bearer(header: string): Promise<Claims> {
    const text = header.replace(/^Bearer /i, '')
    const known = this.verified.get(text)
    if (known) return known
    const jws = readJws(text)
    if (jws instanceof Problem) throw new Error('no token')
    if (!this.isSignedBy(jws, await this.readPlatform())) throw new Error('no token')
    this.verified.set(text, jws.claims)
    return jws.claims
  }

  open(key: PublicKey): KeyObject {
    const known = this.opened.get(key.n)
    if (known) return known
    const opened = createPublicKey({ key: { kty: 'RSA', n: key.n, e: key.e }, format: 'jwk' })
    this.opened.set(key.n, opened)
    return opened
  }

  async keysetOf(url: string): Promise<PublicKey[]> {
    const known = this.keysets.get(url)
    if (known) return known
    const { keys } = (await (await fetch(url)).json()) as { keys: PublicKey[] }
    this.keysets.set(url, keys)
    return keys
  }
}
