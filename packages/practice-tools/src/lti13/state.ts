import {
  exportJWK,
  exportPKCS8,
  generateKeyPair,
  importPKCS8,
  calculateJwkThumbprint,
  type CryptoKey,
  type JWK,
} from 'jose'
import { Kept } from '../parts/kept.js'

/** One platform that this tool is registered with. */
export interface Platform {
  issuer: string
  clientId: string
  deploymentId: string
  authorizationUrl: string
  tokenUrl: string
  keysetUrl: string
  /** Given by dynamic registration: where and by what the registration can be read and changed. */
  managementUrl?: string
  managementToken?: string
}

/** What every tool of LTI 1.3 remembers; `links` is its own. */
interface State<L> {
  faults?: string[]
  platforms: Platform[]
  /** Private keys, newest first; the first signs, all are published. */
  keys: { kid: string; pem: string }[]
  /** What each link leads to, by deployment and resource link. */
  links: Record<string, L>
  /** By which registration an address of a platform's services was given: its client ID. */
  givenTo?: Record<string, string>
}

export interface SigningKey {
  kid: string
  key: CryptoKey
}

const ADDRESSES_KEPT = 5000

/** What a tool remembers: platforms, keys, links. */
export class Tool13State<L = unknown> {
  private readonly kept: Kept<State<L>>

  constructor(file: string | undefined) {
    this.kept = new Kept<State<L>>(file, { platforms: [], keys: [], links: {} })
  }

  get value(): State<L> {
    return this.kept.value
  }
  save(): void {
    this.kept.save()
  }

  platform(issuer: string, clientId: string | undefined): Platform | undefined {
    const here = this.value.platforms.filter((one) => one.issuer === issuer)
    return clientId === undefined ? here[0] : here.find((one) => one.clientId === clientId)
  }

  addPlatform(platform: Platform): void {
    this.value.platforms = [
      ...this.value.platforms.filter((one) => one.issuer !== platform.issuer || one.clientId !== platform.clientId),
      platform,
    ]
    this.save()
  }

  /** Notes under which registration addresses were given, so that they are called under it, too. */
  noteAddresses(clientId: string, addresses: readonly string[]): void {
    const all = { ...this.value.givenTo, ...Object.fromEntries(addresses.map((one) => [one, clientId])) }
    this.value.givenTo = Object.fromEntries(Object.entries(all).slice(-ADDRESSES_KEPT))
    this.save()
  }

  /** The platform as it gave an address; the one registered last for an address that none gave. */
  platformFor(url: string): Platform | undefined {
    const given = this.value.givenTo ?? {}
    // A column that the tool made itself stands below an address that it was given.
    const clientId = given[url] ?? Object.entries(given).findLast(([one]) => url.startsWith(one))?.[1]
    return this.value.platforms.find((one) => one.clientId === clientId) ?? this.value.platforms.at(-1)
  }

  /** A new key goes to the front; the one before it stays published. */
  async rotateKeys(): Promise<void> {
    const key = await newKey()
    this.value.keys = [{ kid: key.kid, pem: await exportPKCS8(key.key) }, ...this.value.keys].slice(0, 2)
    this.save()
  }

  async signingKey(): Promise<SigningKey> {
    if (this.value.keys.length === 0) await this.rotateKeys()
    const [first] = this.value.keys
    return { kid: first!.kid, key: await importPKCS8(first!.pem, 'RS256', { extractable: true }) }
  }

  async publicKeys(): Promise<JWK[]> {
    await this.signingKey()
    return Promise.all(
      this.value.keys.map(async ({ kid, pem }) => {
        const { kty, n, e } = await exportJWK(await importPKCS8(pem, 'RS256', { extractable: true }))
        return { kty, n, e, kid, alg: 'RS256', use: 'sig' } as JWK
      }),
    )
  }
}

export async function newKey(): Promise<SigningKey> {
  const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true })
  return { kid: await calculateJwkThumbprint(await exportJWK(publicKey)), key: privateKey }
}
