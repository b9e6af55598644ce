import { percentEncode, type Parameter } from './encoding.js'

const PAIR = /^\s*([^\s=",]+)\s*=\s*"([^"]*)"\s*$/

/**
 * Reads an `Authorization: OAuth …` header (RFC 5849 section 3.5.1). `realm` is left out, as it never enters a signature.
 * Undefined when the header is of another scheme or not of this form.
 */
export function parseAuthorizationHeader(header: string): Parameter[] | undefined {
  const scheme = /^OAuth\s+/i.exec(header)
  if (!scheme) return undefined
  const parameters: Parameter[] = []
  for (const part of header.slice(scheme[0].length).split(',')) {
    const pair = PAIR.exec(part)
    if (!pair) return undefined
    try {
      const name = decodeURIComponent(pair[1]!)
      if (name.toLowerCase() !== 'realm') parameters.push([name, decodeURIComponent(pair[2]!)])
    } catch {
      return undefined
    }
  }
  return parameters
}

/** Writes the header of RFC 5849 section 3.5.1. */
export function formatAuthorizationHeader(parameters: readonly Parameter[]): string {
  return 'OAuth ' + parameters.map(([name, value]) => `${percentEncode(name)}="${percentEncode(value)}"`).join(', ')
}
