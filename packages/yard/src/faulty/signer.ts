import { createHmac } from 'node:crypto'

// Signs as other ends do, right and wrong, written apart from the core: what it does wrong is known, and the core has to find it.

export type Pairs = readonly (readonly [name: string, value: string])[]

/** A message as it crosses the wire, with what both ends hold. */
export interface Sent {
  method: string
  /** With its query. */
  url: string
  fields: Pairs
  consumerKey: string
  sharedSecret: string
  hash: 'sha1' | 'sha256'
}

/** What an end does otherwise. Nothing given: all is done as RFC 5849 section 3.4 has it. */
export interface Doing {
  secret?: (secret: string, key: string) => string
  key?: (secret: string, key: string) => string
  method?: string
  /** The address that enters the base string, before it is escaped. */
  address?: (address: string, url: string) => string
  /** All parameters that are signed, decoded. */
  pairs?: (pairs: Pairs) => Pairs
  text?: (text: string) => string
  escape?: (text: string) => string
  sort?: (escaped: [string, string][], plain: Pairs) => [string, string][]
  /** The finished base string. */
  base?: (base: string) => string
  hash?: string
  /** How the digest is written. */
  write?: (digest: Buffer) => string
}

/** RFC 3986 section 2.3, byte by byte. */
export function escapeAll(text: string): string {
  return [...Buffer.from(text, 'utf8')]
    .map((byte) => {
      const sign = String.fromCharCode(byte)
      return /[A-Za-z0-9\-._~]/.test(sign) ? sign : `%${byte.toString(16).toUpperCase().padStart(2, '0')}`
    })
    .join('')
}

export function readQuery(url: string): [string, string][] {
  const from = url.indexOf('?')
  return from < 0 ? [] : [...new URLSearchParams(url.slice(from + 1).split('#')[0])]
}

const byBytes = (a: string, b: string) => Buffer.compare(Buffer.from(a), Buffer.from(b))

/** The base string that an end comes to. */
export function baseOf(sent: Sent, doing: Doing = {}): string {
  const { escape = escapeAll, text = (one) => one } = doing
  const bare = new URL(sent.url)
  const address = `${bare.protocol}//${bare.host}${bare.pathname}`
  const all: Pairs = [...readQuery(sent.url), ...sent.fields]
  const plain = (doing.pairs?.(all) ?? all).map(([name, value]) => [text(name), text(value)] as const)
  const escaped = plain.map(([name, value]): [string, string] => [escape(name), escape(value)])
  const order = doing.sort ?? ((pairs) => pairs.sort((a, b) => byBytes(a[0], b[0]) || byBytes(a[1], b[1])))
  const joined = order(escaped, plain)
    .map(([name, value]) => `${name}=${value}`)
    .join('&')
  const base = `${doing.method ?? sent.method}&${escapeAll(doing.address?.(address, sent.url) ?? address)}&${escapeAll(joined)}`
  return doing.base?.(base) ?? base
}

/** The signature that an end comes to, as it writes it. */
export function signatureBy(sent: Sent, doing: Doing = {}): string {
  const secret = doing.secret?.(sent.sharedSecret, sent.consumerKey) ?? sent.sharedSecret
  const key = doing.key?.(secret, sent.consumerKey) ?? `${escapeAll(secret)}&`
  const digest = createHmac(doing.hash ?? sent.hash, key)
    .update(baseOf(sent, doing))
    .digest()
  return doing.write?.(digest) ?? digest.toString('base64')
}
