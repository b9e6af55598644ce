import { asObject } from '../../intake/json.js'
import { decodeForm, type Parameter } from '../../oauth1/index.js'
import { cutEnd, cutStart } from '../../text/index.js'
import { isMessage } from './message.js'

/** Longer lines are no list of names and values. */
const MOST_OF_A_LINE = 20_000

/** A name and a value on each line, as forms are shown by browsers and logs. */
export function ofLines(text: string): Parameter[] {
  return text.split(/\r?\n/).flatMap((whole): Parameter[] => {
    const line = whole.trim()
    const found = /^"?([\w.[\]-]+)"?(?:\s*(?:=>|[=:])|\t)/.exec(line)
    if (!found) return []
    const value = cutEnd(line.slice(found[0].length).trim(), ',').trimEnd()
    return [[found[1]!, /^".*"$/.test(value) ? value.slice(1, -1) : value]]
  })
}

/** An object of JSON: texts, numbers, and lists of them for names that come more than once. */
export function ofJson(value: unknown): Parameter[] {
  const object = asObject(value)
  if (!object) return []
  const pairs = Object.entries(object).flatMap(([name, one]): Parameter[] =>
    (Array.isArray(one) ? (one as unknown[]) : [one])
      .filter((each) => typeof each === 'string' || typeof each === 'number')
      .map((each) => [name, String(each)]),
  )
  if (isMessage(pairs)) return pairs
  // A request that was logged as an object has its form in one of its members.
  return Object.values(object).map(ofJson).find(isMessage) ?? []
}

/** Names that parameters of a launch have. */
const NAME =
  /^(oauth_\w+|lti\w*|lis_\w+|custom_\w+|ext_\w+|context_\w+|resource_link_\w+|user_id|user_image|roles?|role_scope_mentor|launch_presentation_\w+|tool_consumer_\w+|content_item\w*|accept_\w+|auto_create|data|id_token|JWT|client_assertion|state)$/
const TOKEN = /"(?:[^"\\]|\\.){0,4000}"|'(?:[^'\\]|\\.){0,4000}'|=>|[:=,{}[\]()\n]|[^\s"':=,{}[\]()>]+|[^\S\n]+|./g
const CLOSES = /^[,}\])\n]$/

/** What programs of several languages print of a table of names and values: `"a"=>"b"`, `'a': ['b']`, `[a] => b`, `{a=b, c=d}`. */
export function ofNotation(text: string): Parameter[] {
  const tokens = text
    .split('\n')
    .flatMap((line) => (line.length > MOST_OF_A_LINE ? ['\n'] : [...(line.match(TOKEN) ?? []), '\n']))
    .filter((token) => token === '\n' || token.trim() !== '' || token === ' ')
  const found: Parameter[] = []
  for (let at = 0; at < tokens.length; at++) {
    const name = unquoted(tokens[at]!)
    if (!NAME.test(name)) continue
    let from = skip(tokens, at + 1, [' ', ']'])
    if (!['=>', ':', '='].includes(tokens[from] ?? '')) continue
    from = skip(tokens, from + 1, [' ', '[', '(', 'u', 'b'])
    // PHP writes the type on a line of its own, and the value behind it.
    const type = tokens[from] === '\n' ? skip(tokens, from + 1, [' ']) : from
    if (tokens[type] === 'string' && tokens[type + 1] === '(') from = type
    const { value, end } = valueFrom(tokens, from)
    found.push([name, value])
    at = end
  }
  return found
}

function skip(tokens: readonly string[], from: number, passed: readonly string[]): number {
  let at = from
  while (passed.includes(tokens[at] ?? '')) at++
  return at
}

/** A quoted text, or all up to where the next name or the end of the table stands. */
function valueFrom(tokens: readonly string[], from: number): { value: string; end: number } {
  const first = tokens[from] ?? '\n'
  if (isQuoted(first)) return { value: unquoted(first), end: from }
  if (first === 'string' && tokens[from + 1] === '(') {
    const quoted = tokens.findIndex((token, n) => n > from && n < from + 7 && isQuoted(token))
    if (quoted > 0) return { value: unquoted(tokens[quoted]!), end: quoted }
  }
  let end = from
  while (end < tokens.length && !CLOSES.test(tokens[end]!)) end++
  return { value: tokens.slice(from, end).join('').trim(), end: end - 1 }
}

const isQuoted = (token: string) => token.length > 1 && /^(["']).*\1$/s.test(token)
const unquoted = (token: string) => (isQuoted(token) ? token.slice(1, -1).replace(/\\(["'\\/])/g, '$1') : token)

/** Forms that are encoded as one word: in a line of a log, in an address. */
export function ofWords(text: string): { at: number; parameters: Parameter[]; address: string | null }[] {
  return [...text.matchAll(/[^\s"'<>]+/g)]
    .filter(([word]) => word.includes('=') && word.includes('&'))
    .map(({ 0: word, index }) => {
      const query = word.indexOf('?')
      const address = query > 0 && /^https?:\/\//i.test(word) ? word.slice(0, query) : null
      const isAddress = query > 0 && word.slice(0, query).includes('/')
      return { at: index, parameters: decodeForm(isAddress ? word.slice(query + 1) : word), address }
    })
    .filter(({ parameters }) => isMessage(parameters))
}

/** Names that can be known again where they were typed from a picture. */
const TYPED = [
  'oauth_consumer_key', 'oauth_signature_method', 'oauth_signature', 'oauth_timestamp', 'oauth_nonce', 'oauth_version', 'oauth_callback', 'oauth_body_hash',
  'lti_message_type', 'lti_version', 'resource_link_id', 'resource_link_title', 'context_id', 'context_title', 'context_label', 'user_id', 'roles',
  'lis_person_name_full', 'lis_person_name_given', 'lis_person_name_family', 'lis_person_contact_email_primary', 'lis_result_sourcedid', 'lis_outcome_service_url',
  'launch_presentation_return_url', 'launch_presentation_document_target', 'launch_presentation_locale', 'tool_consumer_instance_guid',
] as const // oxfmt-ignore
const LETTERS = TYPED.map((name) => ({ name, letters: name.replaceAll('_', '') })).sort(
  (a, b) => b.letters.length - a.letters.length,
)
/** Of these no value has a blank in it. */
const UNBROKEN = /^oauth_/

/** Lines that begin with such a name, however it was typed: with blanks for underscores, in capitals, without a colon. */
export function ofTyped(text: string): Parameter[] {
  return text.split(/\r?\n/).flatMap((line): Parameter[] => {
    const start = line
      .slice(0, 200)
      .toLowerCase()
      .replace(/[^a-z]/g, '')
    const known = LETTERS.find(({ letters }) => start.startsWith(letters))
    if (!known) return []
    let [at, seen] = [0, 0]
    while (seen < known.letters.length) if (/[a-z]/i.test(line[at++]!)) seen++
    const value = cutEnd(cutStart(line.slice(at), ' \t:=>|“”"\'.-'), ' \t\r“”"\',;')
    return [[known.name, UNBROKEN.test(known.name) ? value.replace(/\s+/g, '') : value]]
  })
}
