import { hexToBytes } from '@noble/hashes/utils'
import { asObject } from '../../intake/json.js'
import { base64url, unbase64url, type Claims } from '../../lti13/index.js'
import { escapedAsJson } from '../signature/spellings.js'

const utf8 = new TextEncoder()

/** Bytes of base64 in either alphabet, with padding or without; undefined for what is neither. */
function bytesOf(text: string): Uint8Array | undefined {
  return unbase64url(
    text
      .replaceAll('+', '-')
      .replaceAll('/', '_')
      .replace(/={1,2}$/, ''),
  )
}

export function textOf(part: string): string | undefined {
  const bytes = bytesOf(part)
  try {
    return bytes && new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return undefined
  }
}

export function objectOf(part: string): Claims | undefined {
  const text = textOf(part) ?? ''
  if (isDeep(text)) return undefined
  try {
    return asObject(JSON.parse(text))
  } catch {
    return undefined
  }
}

/** Header and claims of a token as they stand, in whatever base64 they are written. NOTHING of it is verified. */
export function tokenParts(token: string): { header: Claims; claims: Claims } | undefined {
  const [head = '', body = ''] = token.split('.')
  const [header, claims] = [objectOf(head), objectOf(body)]
  return header && claims && { header, claims }
}

/** What a compact JWS is not written as, in words; undefined for one that is as RFC 7515 section 2 has it. */
export function oddForm(token: string): string | undefined {
  if (/%[0-9A-Fa-f]{2}/.test(token)) return 'escaped as in a form'
  if (/\s/.test(token)) return 'with spaces or line ends in it'
  if (/[+/]/.test(token)) return 'in base64 with “+” and “/”, where “-” and “_” belong'
  return token.includes('=') ? 'with “=” at the end of its parts, which belong away' : undefined
}

/** One way to have signed something else than what was sent. */
export interface SigningInput {
  what: string
  text: string
}

const encoded = (text: string) => base64url(utf8.encode(text))
const padded = (text: string) => text + '='.repeat(-text.length & 3)
const standard = (text: string) => text.replaceAll('-', '+').replaceAll('_', '/')

/** How serialisers of other languages write the same object. */
const STYLES: readonly { what: string; write: (value: Claims) => string }[] = [
  { what: 'as JSON without spaces', write: (value) => JSON.stringify(value) },
  { what: 'as JSON over several lines, indented by two', write: (value) => JSON.stringify(value, null, 2) },
  { what: 'as JSON over several lines, indented by four', write: (value) => JSON.stringify(value, null, 4) },
  { what: 'as JSON over several lines, indented by tabs', write: (value) => JSON.stringify(value, null, '\t') },
  { what: 'as JSON with “\\/” for slashes', write: (value) => JSON.stringify(value).replaceAll('/', '\\/') },
  { what: 'as JSON with letters as “\\u”', write: (value) => escapedAsJson(JSON.stringify(value)) },
  { what: 'as JSON with both', write: (value) => escapedAsJson(JSON.stringify(value)).replaceAll('/', '\\/') },
  { what: 'as JSON with spaces after “,” and “:”', write: spaced },
  { what: 'as JSON with such spaces and letters as “\\u”', write: (value) => escapedAsJson(spaced(value)) },
  { what: 'as JSON with names in order', write: (value) => JSON.stringify(inOrder(value)) },
]

function inOrder(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(inOrder)
  const object = asObject(value)
  return object
    ? Object.fromEntries(Object.keys(object).sort().map((name) => [name, inOrder(object[name])])) // oxfmt-ignore
    : value
}

/** With a blank behind each comma and colon that is not in a string; written from one end to the other. */
function spaced(value: Claims): string {
  return JSON.stringify(value).replace(/"(?:[^"\\]|\\.)*"|[,:]/g, (one) => (one.length === 1 ? `${one} ` : one))
}

/** What may have been signed in place of the two parts that were sent: the same claims, written otherwise. */
export function signingInputs(token: string): SigningInput[] {
  const [head = '', body = ''] = token.split('.')
  const [headText, bodyText] = [textOf(head), textOf(body)]
  const [header, claims] = [objectOf(head), objectOf(body)]
  if (headText === undefined || bodyText === undefined || !header || !claims) return []
  const [right, rightBody] = [encoded(headText), encoded(bodyText)]
  const all: SigningInput[] = [
    { what: 'the parts in base64 with “=”', text: standard(`${padded(right)}.${padded(rightBody)}`) },
    { what: 'the parts in base64url with “=”', text: `${padded(right)}.${padded(rightBody)}` },
    { what: 'the parts in base64 without “=”', text: standard(`${right}.${rightBody}`) },
    { what: 'the parts in base64url without “=”', text: `${right}.${rightBody}` },
    { what: 'header and claims before they were encoded', text: `${headText}.${bodyText}` },
    { what: 'the claims alone, encoded', text: body },
    { what: 'the claims alone, before they were encoded', text: bodyText },
    { what: 'the two parts with a line end behind', text: `${head}.${body}\n` },
    { what: 'the two parts with a full stop behind', text: `${head}.${body}.` },
    { what: 'the two parts joined by nothing', text: `${head}${body}` },
    ...STYLES.flatMap(({ what, write }) =>
      [encoded(write(header)), head].map((start) => ({
        what: `the claims ${what}`,
        text: `${start}.${encoded(write(claims))}`,
      })),
    ),
  ]
  const seen = new Set([`${head}.${body}`])
  return all.filter(({ text }) => !seen.has(text) && seen.add(text))
}

/** Deeper than any claim is, and soon deeper than can be written anew. */
const MOST_DEEP = 64
export function isDeep(json: string): boolean {
  let [depth, deepest] = [0, 0]
  for (const one of json)
    if (one === '{' || one === '[') deepest = Math.max(deepest, ++depth)
    else if (one === '}' || one === ']') depth--
  return deepest > MOST_DEEP
}

/** Forms in which a signature is written by mistake, each with its bytes. */
export function signatureForms(signature: string): { what: string | null; bytes: Uint8Array }[] {
  const inner = textOf(signature) ?? ''
  const forms = [
    { what: null, bytes: bytesOf(signature) },
    { what: 'in hexadecimal', bytes: ofHex(signature) },
    { what: 'in base64 of hexadecimal', bytes: ofHex(inner) },
    { what: 'in base64 twice', bytes: ofHex(inner) ? undefined : bytesOf(inner) },
  ]
  return forms.flatMap(({ what, bytes }) => (bytes ? [{ what, bytes }] : []))
}

function ofHex(text: string): Uint8Array | undefined {
  return /^([0-9a-f]{2})+$/i.test(text) ? hexToBytes(text) : undefined
}
