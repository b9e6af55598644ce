import type { HashName } from '../../oauth1/digest.js'
import { cutEnd, percentDecoded } from '../../text/index.js'

const HASH_OF_BYTES: Readonly<Record<number, HashName>> = { 16: 'md5', 20: 'sha1', 32: 'sha256', 48: 'sha384', 64: 'sha512' } // oxfmt-ignore

/** What a signature may be as bytes, and how it was written to come to that. */
export interface Written {
  /** In base64, with its padding. */
  digest: string
  /** The hash that has so many bytes. */
  hash: HashName | undefined
  /** How it was written otherwise than it must be; empty for base64 as it stands. */
  forms: string[]
}

const HEX = /^(?:[0-9a-f]{2}[:\s-]?){15,64}[0-9a-f]{2}$/i
const LONGEST = 400

/** Reads a signature that may have been written in another form than base64 (RFC 5849 section 3.4.2), step by step: each reading is one more. */
export function writtenForms(signature: string): Written[] {
  if (signature.length > LONGEST) return []
  const found: Written[] = []
  const add = (digest: string | undefined, forms: string[]) => {
    if (digest !== undefined && !found.some((one) => one.digest === digest)) found.push({ digest, hash: HASH_OF_BYTES[atob(digest).length], forms }) // oxfmt-ignore
  }
  let text = signature
  const forms: string[] = []
  const step = (after: string, form: string) => {
    if (after === text) return
    text = after
    forms.push(form)
  }
  add(asBase64(text), [])
  step(text.trim(), 'with spaces or a line end around it')
  step(text.replace(/^["'](.*)["']$/su, '$1'), 'in quotes')
  for (let i = 0; i < 2; i++) step(percentDecoded(text), 'percent-encoded once too often')
  step(text.replaceAll(' ', '+'), 'with a space for “+”')
  step(text.replaceAll('-', HEX.test(text) ? '-' : '+').replaceAll('_', '/'), 'in the alphabet for addresses')
  step(text.replace(/[\r\n\t]/g, ''), 'with line ends in it')
  if (HEX.test(text)) add(base64OfHex(text.replace(/[^0-9a-f]/gi, '')), [...forms, 'in hexadecimal digits'])
  const bare = cutEnd(text, '=')
  const padded = bare + '='.repeat((4 - (bare.length % 4)) % 4)
  const unpadded = padded === text ? forms : [...forms, 'without “=” at its end']
  const whole = asBase64(padded)
  add(whole, unpadded)
  const inside = whole === undefined ? '' : atob(whole)
  if (HEX.test(inside)) add(base64OfHex(inside), [...unpadded, 'in base64 of its hexadecimal digits'])
  else {
    const again = asBase64(inside)
    if (again !== undefined) add(again, [...unpadded, 'in base64 twice'])
  }
  return found
}

/** A text in base64, if it is that, whole. */
function asBase64(text: string): string | undefined {
  if (text.length < 20 || text.length % 4 !== 0 || !/^[A-Za-z0-9+/]+={0,2}$/.test(text)) return undefined
  return btoa(atob(text)) === text ? text : undefined
}

function base64OfHex(hex: string): string {
  return btoa(String.fromCharCode(...(hex.match(/../g) ?? []).map((pair) => parseInt(pair, 16))))
}
