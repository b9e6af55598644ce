import { splitAddress } from '../../oauth1/base-string.js'
import { decodeForm, percentEncode, type Parameter } from '../../oauth1/encoding.js'
import type { SignedFacts } from './facts.js'

/** How one end signs: each decision of RFC 5849 section 3.4 by itself, so that one can be made otherwise and all others stay. */
export interface Signing {
  consumerKey: string
  /** The shared secret, before it is encoded. */
  secret: string
  /** The key of the HMAC, of the two (section 3.4.2). */
  keyOf: (secret: string, consumerKey: string) => string
  method: string
  /** As it enters the base string, not encoded yet (section 3.4.1.2). */
  scheme: string
  host: string
  path: string
  /** What stands behind the path all the same. */
  behindPath: string
  /** Parameters of the address's own query, and all others (section 3.4.1.3.1); without the signature. */
  query: readonly Parameter[]
  fields: readonly Parameter[]
  /** What is done to each name and value while it is text. */
  spell: (text: string) => string
  /** Names and values (section 3.6). */
  encode: (text: string) => string
  /** Of encoded pairs (section 3.4.1.3.2). */
  order: (pairs: readonly Pair[]) => readonly Pair[]
  /** Address and parameters as parts of the base string. */
  wrapAddress: (text: string) => string
  wrapParameters: (text: string) => string
}

export interface Pair {
  name: string
  value: string
  /** Before they were encoded. */
  plain: Parameter
  /** As it stands in the base string. */
  wrapped?: string
}

const asItIs = (text: string) => text

/** As RFC 5849 has it. @throws RangeError when the address is not an absolute http(s) one */
export function rightSigning({ request, held }: SignedFacts): Signing {
  const split = splitAddress(request.url)
  const start = split && /^(https?):\/\/([^/]*)/u.exec(split.base)
  if (!split || !start) throw new RangeError('A signature needs an absolute http or https address.')
  return {
    consumerKey: held.consumerKey,
    secret: held.sharedSecret,
    keyOf: (secret) => `${percentEncode(secret)}&`,
    method: request.method.toUpperCase(),
    scheme: start[1]!,
    host: start[2]!,
    path: split.base.slice(start[0].length),
    behindPath: '',
    query: decodeForm(split.query),
    fields: request.parameters.filter(([name]) => name !== 'oauth_signature'),
    spell: asItIs,
    encode: percentEncode,
    order: sorted,
    wrapAddress: percentEncode,
    wrapParameters: percentEncode,
  }
}

/** By name, then by value, both encoded: their order is that of their bytes. */
export function sorted(pairs: readonly Pair[]): readonly Pair[] {
  return pairs.toSorted((a, b) => compare(a.name, b.name) || compare(a.value, b.value))
}

export function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0
}

/** The key of the HMAC. */
export function macKey({ keyOf, secret, consumerKey }: Signing): string {
  return keyOf(secret, consumerKey)
}

/** The base string up to its parameters. */
export function headOf({ method, scheme, host, path, behindPath, wrapAddress }: Signing): string {
  const start = host === '' ? '' : `${scheme}://${host}`
  return `${method}&${wrapAddress(`${start}${path}${behindPath}`)}&`
}

/** The rest of it. */
export function parametersOf({ query, fields, spell, encode, order, wrapParameters }: Signing): string {
  const pairs = [...query, ...fields].map((plain) => encodedPair(plain, spell, encode))
  const ordered = order(pairs)
  // Escaped one by one they are the same as escaped in one, and most of them are known already.
  if (wrapParameters === percentEncode) return ordered.map((pair) => (pair.wrapped ??= wrapped(pair))).join('%26')
  return wrapParameters(ordered.map(({ name, value }) => `${name}=${value}`).join('&'))
}

const wrapped = ({ name, value }: Pair) => `${escapedAgain(name)}%3D${escapedAgain(value)}`

/** What holds nothing but escapes and what needs none, as nearly all that was encoded before. */
const ESCAPED = /^[\w.~%-]*$/
const escapedAgain = (text: string) => (ESCAPED.test(text) ? text.replaceAll('%', '%25') : percentEncode(text))

/** Pairs by how they were spelt and encoded: nearly all of a message is the same in all ways to sign it. */
const known = new WeakMap<Parameter, { spell: Signing['spell']; encode: Signing['encode']; pair: Pair }>()

function encodedPair(plain: Parameter, spell: Signing['spell'], encode: Signing['encode']): Pair {
  const before = known.get(plain)
  if (before && before.spell === spell && before.encode === encode) return before.pair
  const texts = [spell(plain[0]), spell(plain[1])] as const
  const pair: Pair = { name: encode(texts[0]), value: encode(texts[1]), plain: texts }
  // That of the right way is kept.
  if (!before) known.set(plain, { spell, encode, pair })
  return pair
}
