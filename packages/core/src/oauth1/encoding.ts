import { percentDecoded } from '../text/index.js'

/** A name and a value, in the order in which they were sent; names may repeat. */
export type Parameter = readonly [name: string, value: string]

const RESERVED_BY_ENCODE_URI = /[!'()*]/g
/** Most names and many values need no encoding. */
const UNRESERVED = /^[\w.~-]*$/

/**
 * Percent-encodes the UTF-8 bytes of `text`, leaving only `A-Za-z0-9-._~` as they are (RFC 5849 section 3.6).
 * A lone surrogate cannot be sent as UTF-8 and is encoded as U+FFFD.
 */
export function percentEncode(text: string): string {
  if (UNRESERVED.test(text)) return text
  return encodeURIComponent(text.toWellFormed()).replace(
    RESERVED_BY_ENCODE_URI,
    (character) => '%' + character.charCodeAt(0).toString(16).toUpperCase(),
  )
}

/**
 * Reads an `application/x-www-form-urlencoded` text: `+` and `%20` are both a space, order and duplicates are kept.
 * A broken escape stays as it was sent, so that it can be shown and will not match a signature by accident.
 */
export function decodeForm(text: string): Parameter[] {
  return splitForm(text).map(([name, value]) => [decodePart(name), decodePart(value)])
}

/** The pairs of such a text as they stand there, not decoded. */
export function splitForm(text: string): Parameter[] {
  if (text === '') return []
  return text
    .split('&')
    .filter((pair) => pair !== '')
    .map((pair) => {
      const at = pair.indexOf('=')
      return at < 0 ? [pair, ''] : [pair.slice(0, at), pair.slice(at + 1)]
    })
}

const decodePart = (part: string) => percentDecoded(part.replaceAll('+', ' '))
