import type { Parameter } from '../../oauth1/encoding.js'

// How other ends write a text, shared by mistakes with secrets, addresses and parameters.

/** Escapes as `%2f` in place of `%2F`. */
export const smallEscapes = (text: string) => text.replace(/%[0-9A-F]{2}/g, (one) => one.toLowerCase())

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' }
const PLAIN: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', '#34': '"', '#39': "'", '#039': "'", '#x27': "'", apos: "'", nbsp: '\u00a0' } // oxfmt-ignore

/** @param apostrophe as it is written: there are many ways */
export function escapedAsHtml(text: string, apostrophe: string): string {
  return text.replace(/[&<>"']/g, (one) => ENTITIES[one] ?? apostrophe)
}

export function unescapedFromHtml(text: string): string {
  return text.replace(/&(amp|lt|gt|quot|#0?39|#34|#x27|apos|nbsp);/g, (_, name: string) => PLAIN[name]!)
}

/** What UTF-8 becomes when its bytes are taken for Latin-1 letters. */
export function asLatin1(text: string): string {
  let made = ''
  for (const byte of new TextEncoder().encode(text)) made += String.fromCharCode(byte)
  return made
}

/** Letters beyond ASCII as JSON may write them. */
export const escapedAsJson = (text: string) =>
  text.replace(/[^\u0000-\u007f]/g, (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`)

/** Names of parameters, as evidence shows them. */
export function namesOf(parameters: readonly Parameter[]): string {
  return parameters.map(([name]) => name).join(', ').slice(0, 200) // oxfmt-ignore
}
