import { decodeForm, percentEncode, type Parameter } from './encoding.js'

/** A request as it enters a signature. `url` is absolute; its query parameters are signed, its fragment is not. */
export interface SignedRequest {
  method: string
  url: string
  /** Form body and `Authorization` parameters (without `realm`); never those of the URL's own query. */
  parameters: readonly Parameter[]
}

const ABSOLUTE = /^(https?):\/\/([^/?#]+)([^?#]*)(?:\?([^#]*))?/i
const DEFAULT_PORT: Record<string, string> = { http: ':80', https: ':443' }

/** Splits an absolute http(s) address; undefined for anything else. The path is kept letter by letter. */
export function splitAddress(url: string): { base: string; query: string } | undefined {
  const parts = ABSOLUTE.exec(url)
  if (!parts) return undefined
  const scheme = parts[1]!.toLowerCase()
  const authority = parts[2]!.toLowerCase().replace(/^.*@/, '')
  const port = DEFAULT_PORT[scheme]!
  const host = authority.endsWith(port) ? authority.slice(0, -port.length) : authority
  return { base: `${scheme}://${host}${parts[3] === '' ? '/' : parts[3]}`, query: parts[4] ?? '' }
}

/** Parameters as they enter a signature (RFC 5849 section 3.4.1.3.2): encoded, sorted by name then value in byte order, duplicates kept. */
export function sortedParameters(parameters: readonly Parameter[]): Parameter[] {
  return parameters
    .filter(([name]) => name !== 'oauth_signature')
    .map(([name, value]) => [percentEncode(name), percentEncode(value)] as const)
    .sort((a, b) => compare(a[0], b[0]) || compare(a[1], b[1]))
}

/** The same as one text. */
export function normaliseParameters(parameters: readonly Parameter[]): string {
  return sortedParameters(parameters)
    .map(([name, value]) => `${name}=${value}`)
    .join('&')
}

// Encoded text is ASCII, so the order of code units is the byte order.
function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0
}

/**
 * The signature base string of RFC 5849 section 3.4.1.
 * @throws RangeError when `url` is not an absolute http(s) address.
 */
export function signatureBaseString(request: SignedRequest): string {
  const address = splitAddress(request.url)
  if (!address) throw new RangeError('A signature needs an absolute http or https address.')
  const parameters = normaliseParameters([...decodeForm(address.query), ...request.parameters])
  return [request.method.toUpperCase(), address.base, parameters].map(percentEncode).join('&')
}
