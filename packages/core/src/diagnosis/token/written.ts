import { asObject } from '../../intake/json.js'
import type { Claims } from '../../lti13/index.js'

const utf8 = new TextEncoder()

/** Bytes of base64 in either alphabet, with padding or without; undefined for what is neither. */
export function bytesOf(text: string): Uint8Array | undefined {
  const plain = text.replaceAll('-', '+').replaceAll('_', '/').replace(/={1,2}$/, '') // oxfmt-ignore
  if (plain === '' || !/^[A-Za-z0-9+/]+$/.test(plain) || plain.length % 4 === 1) return undefined
  return Uint8Array.from(atob(plain), (one) => one.charCodeAt(0))
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
  if (/\s/.test(token)) return 'with blanks or line ends in it'
  if (/[+/]/.test(token)) return 'in base64 with “+” and “/”, where “-” and “_” belong'
  return token.includes('=') ? 'with “=” at the end of its parts, which belong away' : undefined
}

/** One way to have signed something else than what was sent. */
export interface SigningInput {
  what: string
  text: string
}

const encoded = (text: string) => base64(utf8.encode(text))
const base64 = (bytes: Uint8Array) => {
  let binary = ''
  for (let i = 0; i < bytes.length; i += 8192) binary += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return btoa(binary)
}
const urlForm = (text: string) => text.replaceAll('+', '-').replaceAll('/', '_')
const bare = (text: string) => text.replace(/={1,2}$/, '')
const ascii = (text: string) =>
  text.replace(/[\u0080-\uffff]/g, (one) => `\\u${one.charCodeAt(0).toString(16).padStart(4, '0')}`)

/** How serialisers of other languages write the same object. */
const STYLES: readonly { what: string; write: (value: Claims) => string }[] = [
  { what: 'as JSON without blanks', write: (value) => JSON.stringify(value) },
  { what: 'as JSON over several lines, indented by two', write: (value) => JSON.stringify(value, null, 2) },
  { what: 'as JSON over several lines, indented by four', write: (value) => JSON.stringify(value, null, 4) },
  { what: 'as JSON over several lines, indented by tabs', write: (value) => JSON.stringify(value, null, '\t') },
  { what: 'as JSON with “\\/” for slashes', write: (value) => JSON.stringify(value).replaceAll('/', '\\/') },
  { what: 'as JSON with letters as “\\u”', write: (value) => ascii(JSON.stringify(value)) },
  { what: 'as JSON with both', write: (value) => ascii(JSON.stringify(value)).replaceAll('/', '\\/') },
  { what: 'as JSON with blanks behind “,” and “:”', write: spaced },
  { what: 'as JSON with such blanks and letters as “\\u”', write: (value) => ascii(spaced(value)) },
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
  const [full, fullBody] = [encoded(headText), encoded(bodyText)]
  const all: SigningInput[] = [
    { what: 'the parts in base64 with “=”', text: `${full}.${fullBody}` },
    { what: 'the parts in base64url with “=”', text: urlForm(`${full}.${fullBody}`) },
    { what: 'the parts in base64 without “=”', text: `${bare(full)}.${bare(fullBody)}` },
    { what: 'the parts in base64url without “=”', text: urlForm(`${bare(full)}.${bare(fullBody)}`) },
    { what: 'header and claims before they were encoded', text: `${headText}.${bodyText}` },
    { what: 'the claims alone, encoded', text: body },
    { what: 'the claims alone, before they were encoded', text: bodyText },
    { what: 'the two parts with a line end behind', text: `${head}.${body}\n` },
    { what: 'the two parts with a full stop behind', text: `${head}.${body}.` },
    { what: 'the two parts joined by nothing', text: `${head}${body}` },
    ...STYLES.map(({ what, write }) => ({
      what: `the claims ${what}`,
      text: urlForm(`${bare(encoded(write(header)))}.${bare(encoded(write(claims)))}`),
    })),
    ...STYLES.map(({ what, write }) => ({
      what: `the claims ${what}`,
      text: `${head}.${urlForm(bare(encoded(write(claims))))}`,
    })),
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
  const forms: { what: string | null; bytes: Uint8Array | undefined }[] = [{ what: null, bytes: bytesOf(signature) }]
  if (/^([0-9a-f]{2})+$/i.test(signature)) forms.push({ what: 'in hexadecimal', bytes: fromHex(signature) })
  const inner = textOf(signature)
  if (inner !== undefined && /^([0-9a-f]{2})+$/i.test(inner))
    forms.push({ what: 'in base64 of hexadecimal', bytes: fromHex(inner) })
  else if (inner !== undefined && bytesOf(inner)) forms.push({ what: 'in base64 twice', bytes: bytesOf(inner) })
  return forms.flatMap(({ what, bytes }) => (bytes ? [{ what, bytes }] : []))
}

function fromHex(text: string): Uint8Array {
  return Uint8Array.from(text.match(/../g) ?? [], (two) => Number.parseInt(two, 16))
}
