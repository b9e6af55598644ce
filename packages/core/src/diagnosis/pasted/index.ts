import { asObject } from '../../intake/json.js'
import type { Claims } from '../../lti13/index.js'
import { decodeForm, parseAuthorizationHeader, type Parameter } from '../../oauth1/index.js'
import { cutEnd } from '../../text/index.js'
import { isDeep } from '../token/written.js'
import { BASE_STRING, BEGINS, readBaseString } from './base-string.js'
import { curlCommands, readCurl } from './curl.js'
import { ofJson, ofLines, ofNotation, ofTyped, ofWords } from './fields.js'
import { requestsOfHar } from './har.js'
import { formsOf } from './html.js'
import { isMessage, TOKEN_NAMES, unreadable, type Pasted, type Unreadable } from './message.js'
import type { Request } from './request.js'
import { readToken, TOKEN } from './token.js'

export type { Pasted } from './message.js'

/** Pasted text is read up to so many characters: several times what any message may have. */
export const MOST_PASTED = 300_000
/** Messages of one text that are told. */
export const MOST_MESSAGES = 5
/** Of one kind that are looked at, for some may come twice. */
const MOST_FOUND = 20

/** The first message of a text, or why there is none. Nothing is verified. */
export function readPasted(given: string): Pasted {
  return readAllPasted(given)[0]!
}

/**
 * Recognises what support teams send: a token, a signature base string, an `Authorization` header, a form post (encoded, in HTML, as a list, as programs print it, typed from a
 * picture), a curl command, a HAR file, lines of a log; and several of them in one text, in their order. Nothing is verified. Reads the text a few times from end to end.
 * @returns at least one: the messages, or why there is none
 */
export function readAllPasted(given: string): Pasted[] {
  if (given.length > MOST_PASTED)
    return [unreadable(`It has ${given.length} characters; ${MOST_PASTED} are read at most. Cut out the request that it is about.`)] // oxfmt-ignore
  const text = given.trim()
  if (text === '') return [unreadable('Nothing was pasted.')]
  const whole = readWhole(text)
  if (whole) return whole
  const found = unlike(readWithin(text))
  if (found.length > 0) return found
  return [/^(authorization:\s*)?OAuth\s/i.test(text) ? NO_HEADER : NOTHING_KNOWN]
}

const NO_HEADER: Unreadable = unreadable('It begins as an Authorization header of OAuth, but is not of its form.')
const NOTHING_KNOWN: Unreadable = unreadable(
  'It is neither a token, nor a signature base string, nor a form post with parameters of a launch. A HAR file, a curl command, the source of a page and lines of a log are read, too.',
)

/** What the whole text is, where it is one thing. */
function readWhole(text: string): Pasted[] | undefined {
  const bare = text
    .replace(/^(id_token|JWT|client_assertion|authorization:\s*bearer)[=:\s]+/i, '')
    .replace(/^bearer\s+/i, '')
  const lines = bare.split('\n').map((line) => line.trim())
  if (bare.startsWith('eyJ') && lines.every((line) => /^[\w.+/=%…-]+$/.test(line)))
    return [readToken(lines.join(''), 'a token')]
  if (BEGINS.test(text) && !/\s/.test(text)) return [readBaseString(text, 'a signature base string')]
  const header = /^(?:authorization:\s*)?(OAuth\s)/i.exec(text)
  if (header) {
    const one = headerOf(onOneLine(text.slice(header[0].length - header[1]!.length)))
    if (one.kind !== 'unreadable') return [one]
  }
  if (text.startsWith('{') || text.startsWith('[')) return ofValue(parsed(text))
  const commands = curlCommands(text)
  if (commands.length > 0) {
    const requests = commands.flatMap((one) => readCurl(one) ?? [])
    return answered(requests, () => 'a curl command', 'The curl command sends nothing of LTI.')
  }
  return undefined
}

function headerOf(header: string): Pasted {
  const parameters = parseAuthorizationHeader(header)
  return parameters
    ? { kind: 'form', method: 'POST', parameters, address: null, takenFor: 'an Authorization header' }
    : NO_HEADER
}

/** Of a value of JSON: a HAR file, a form as an object, a token’s claims decoded. */
function ofValue(value: unknown): Pasted[] | undefined {
  const requests = requestsOfHar(value)
  if (requests)
    return answered(
      requests,
      (n) => `a HAR file, request ${n + 1} of ${requests.length}`,
      `None of the ${requests.length} requests of this HAR file carries a message of LTI. Record it again, with the launch in it.`,
    )
  const parameters = ofJson(value)
  if (isMessage(parameters)) return [messageOf({ parameters, address: null }, 'an object in JSON')]
  const claims = asObject(value)
  return claims && isClaims(claims)
    ? [{ kind: 'token', header: {}, claims, token: '', takenFor: 'claims of a token, decoded' }]
    : undefined
}

/** The messages among requests. */
function answered(requests: readonly Request[], takenFor: (n: number) => string, nothing: string): Pasted[] {
  const found = requests.flatMap((request, n): Pasted[] => {
    const { parameters, bearer, method, url } = request
    const query = url.includes('?') ? decodeForm(url.slice(url.indexOf('?') + 1)) : []
    if (bearer?.startsWith('eyJ')) return [readToken(bearer, takenFor(n))]
    const token = [...parameters, ...query].find(([name]) => TOKEN_NAMES.includes(name))
    if (token) return [readToken(token[1], takenFor(n))]
    return isMessage([...parameters, ...query]) ? [{ kind: 'form', method, parameters, address: url, takenFor: takenFor(n) }] : [] // oxfmt-ignore
  })
  return found.length > 0 ? unlike(found) : [unreadable(nothing)]
}

/** In a line of a log, or in a request as it crossed the wire. */
const HEADER = /\bOAuth\s+(?:[\w%.-]{1,100}="[^"\n]{0,4000}"(?:,\s{0,20})?)+/g
/** What can be known again in the middle of a text. */
const WITHIN: readonly { pattern: RegExp; read: (part: string) => Pasted }[] = [
  { pattern: BASE_STRING, read: (part) => readBaseString(part, 'a base string in a text') },
  { pattern: TOKEN, read: (part) => readToken(part, 'a token in a text') },
  { pattern: HEADER, read: (part) => headerOf(cutEnd(part, ', \t\r\n')) },
]

/** Messages that stand somewhere in a text, in their order. */
function readWithin(text: string): Pasted[] {
  const found: { at: number; one: Pasted }[] = []
  const isHtml = /<(input|form)\b/i.test(text)
  if (isHtml)
    for (const form of formsOf(text, MOST_PASTED))
      if (isMessage(form.parameters)) found.push({ at: 0, one: messageOf(form, 'a form in HTML') })
  let rest = text
  for (const { pattern, read } of WITHIN)
    for (const { 0: part, index: at } of [...text.matchAll(pattern)].slice(0, MOST_FOUND)) {
      found.push({ at, one: read(part) })
      // What was read as one thing is not read as another.
      rest = rest.slice(0, at) + ' '.repeat(part.length) + rest.slice(at + part.length)
    }
  if (!isHtml) found.push(...listsWithin(rest))
  return found.sort((a, b) => a.at - b.at).map(({ one }) => one)
}

/** Names and values, in whichever notation. Where one text has more than one message, a paragraph or a line is one. */
function listsWithin(text: string): { at: number; one: Pasted }[] {
  const words = ENCODED.test(text) ? [] : ofWords(text)
  if (words.length > 1) return words.map((word) => ({ at: word.at, one: messageOf(word, 'an encoded form in a text') }))
  const whole = listOf(text)
  if (whole && countOf(whole.parameters, 'oauth_nonce') < 2) return [{ at: 0, one: messageOf(whole, whole.takenFor) }]
  for (const between of [/\n\s*\n/g, /\n/g]) {
    const found = partsOf(text, between).flatMap(({ at, part }) => {
      const list = listOf(part)
      return list ? [{ at, one: messageOf(list, list.takenFor) }] : []
    })
    if (found.length > 1) return found
  }
  return whole ? [{ at: 0, one: messageOf(whole, whole.takenFor) }] : []
}

interface List {
  parameters: Parameter[]
  address: string | null
  method?: string
  takenFor: string
}

/** A form on one line, though some of it may be decoded already. */
const ENCODED = /^[\w.%[\]-]+=[^\n]*$/

/** The first notation by which a text is a message. */
function listOf(text: string): List | undefined {
  const lists: (() => List)[] = [
    () => ({ parameters: ENCODED.test(text) ? decodeForm(text) : [], address: null, takenFor: 'an encoded form' }),
    () => ({ ...(ofWords(text)[0] ?? { parameters: [], address: null }), takenFor: 'an encoded form in a text' }),
    () => ({ parameters: ofLines(text), address: null, takenFor: 'names and values, one a line' }),
    () => ({ parameters: ofNotation(text), address: null, takenFor: 'names and values as a program prints them' }),
    () => ({ parameters: ofTyped(text), address: null, takenFor: 'a list that was typed from a picture, so that letters may be wrong' }), // oxfmt-ignore
  ]
  for (const read of lists) {
    const list = read()
    if (isMessage(list.parameters)) return list
  }
  return undefined
}

function messageOf(form: Omit<List, 'takenFor'>, takenFor: string): Pasted {
  const token = form.parameters.find(([name]) => TOKEN_NAMES.includes(name))
  if (token) return readToken(token[1], takenFor)
  const { parameters, address, method = 'POST' } = form
  return { kind: 'form', method, parameters, address, takenFor }
}

function partsOf(text: string, between: RegExp): { at: number; part: string }[] {
  const parts: { at: number; part: string }[] = []
  let from = 0
  for (const gap of text.matchAll(between)) {
    parts.push({ at: from, part: text.slice(from, gap.index) })
    from = gap.index + gap[0].length
  }
  return [...parts, { at: from, part: text.slice(from) }]
}

/** Each message once, what can be read before what cannot, and no more than are told. */
function unlike(all: readonly Pasted[]): Pasted[] {
  const seen = new Set<string>()
  const different = all.filter((one) => {
    const name = one.kind === 'token' && one.token !== '' ? one.token : one.kind === 'base_string' ? one.text : JSON.stringify({ ...one, takenFor: '' }) // oxfmt-ignore
    return !seen.has(name) && seen.add(name)
  })
  const readable = different.filter((one) => one.kind !== 'unreadable')
  return (readable.length > 0 ? readable : different).slice(0, MOST_MESSAGES)
}

const countOf = (parameters: readonly Parameter[], wanted: string) => parameters.filter(([name]) => name === wanted).length // oxfmt-ignore

function isClaims(object: Claims): boolean {
  return 'iss' in object && ('aud' in object || 'sub' in object)
}

function parsed(text: string): unknown {
  if (isDeep(text)) return undefined
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}

/** A header that was folded over several lines, as it was sent. */
function onOneLine(text: string): string {
  return text
    .split('\n')
    .map((line) => line.trim())
    .join(' ')
}
