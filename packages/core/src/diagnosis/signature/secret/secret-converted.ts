import { percentEncode } from '../../../oauth1/encoding.js'
import { percentDecoded } from '../../../text/index.js'
import type { Mistake } from '../mistake.js'
import { asLatin1, escapedAsHtml, unescapedFromHtml } from '../spellings.js'
import { spelt } from './spelt.js'

/** The secret went through a form, a page or a file that wrote it otherwise. */
export const secretConverted: Mistake = {
  code: 'secret_converted',
  name: 'the secret escaped, unescaped or converted',
  family: 'secret',
  givesWay: true,
  sentence: 'The shared secret was escaped, unescaped or converted at one end before it was signed with.',
  ours: 'Agree on a secret of letters and digits only.',
  theirs: 'Use the shared secret exactly as it was given.',
  ways: ({ held: { sharedSecret: held } }) =>
    spelt(held, [
      [escapedAsHtml(held, '&#39;'), 'escaped as in HTML'],
      [escapedAsHtml(held, '&#039;'), 'escaped as in HTML'],
      [held.replaceAll('&', '&amp;'), '“&” escaped as in HTML'],
      [unescapedFromHtml(held), 'unescaped as from HTML'],
      [percentEncode(held), 'percent-encoded before'],
      [encodeURI(held.toWellFormed()), 'percent-encoded before, marks kept'],
      [percentEncode(held).replaceAll('%20', '+'), 'encoded as in a form'],
      [percentDecoded(held), 'percent-decoded'],
      [percentDecoded(held.replaceAll('+', ' ')), 'decoded as from a form'],
      [held.replaceAll('+', ' '), '“+” taken for a space'],
      [held.replaceAll(' ', '+'), '“+” for a space'],
      [held.replaceAll('\\', ''), 'without its backslashes'],
      [held.replaceAll('\\', '\\\\'), 'backslashes doubled'],
      [held.replace(/["'\\]/g, '\\$&'), 'marks behind backslashes'],
      [base64(held), 'in base64'],
      [fromBase64(held), 'decoded from base64'],
      [hexOf(held), 'in hexadecimal digits'],
      [fromHex(held), 'decoded from hexadecimal digits'],
      [asLatin1(held), 'its UTF-8 read as Latin-1'],
      [held.replace(/-/g, ''), 'without its hyphens'],
      [held.replace(/[-\u2010-\u2015]/gu, '–'), 'hyphens made dashes'],
      [held.replace(/[\u2010-\u2015]/gu, '-'), 'dashes made hyphens'],
      [held.replaceAll('--', '–'), 'two hyphens made a dash'],
      [held.replaceAll("'", '’'), 'straight quotes made curly'],
      [held.replaceAll('...', '…'), 'three dots made one character'],
    ]),
}

const bytesOf = (text: string) => new TextEncoder().encode(text)
const base64 = (text: string) => btoa(asLatin1(text))
const hexOf = (text: string) => Array.from(bytesOf(text), (byte) => byte.toString(16).padStart(2, '0')).join('')

/** As text, where it is some. */
function asText(bytes: Uint8Array, otherwise: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return otherwise
  }
}

function fromBase64(text: string): string {
  if (!/^[\w+/-]{4,}={0,2}$/.test(text)) return text
  try {
    const bytes = atob(text.replaceAll('-', '+').replaceAll('_', '/'))
    return asText(
      Uint8Array.from(bytes, (one) => one.charCodeAt(0)),
      text,
    )
  } catch {
    return text
  }
}

function fromHex(text: string): string {
  if (!/^(?:[0-9a-f]{2})+$/i.test(text)) return text
  return asText(
    Uint8Array.from(text.match(/../g) ?? [], (pair) => parseInt(pair, 16)),
    text,
  )
}
