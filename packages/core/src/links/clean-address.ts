import { checkLaunchAddress, type AddressProblem } from './launch-address.js'

/** How a parameter of a pasted address is judged: `session` goes, the others stay; `doubtful` is shown. */
export const PARAMETER_VERDICTS = ['session', 'doubtful', 'needed'] as const
export type ParameterVerdict = (typeof PARAMETER_VERDICTS)[number]

export interface AddressParameter {
  name: string
  value: string
  verdict: ParameterVerdict
  reason: string
  kept: boolean
}

export interface AddressReading {
  original: string
  /** What is left when everything that is not kept is taken out. */
  cleaned: string
  parameters: AddressParameter[]
  /** What else was taken out or looks odd. */
  remarks: string[]
}

/** What is known of the person who pasted it, and when. */
export interface Author {
  /** User name, email, identifiers, names: whatever would tell who copied the address. */
  identities: readonly string[]
  now: Date
}

const SESSION_NAMES =
  /^(j?session_?(id|key|token)?|s_?id|php_?sess(ion)?_?id|asp_?session\w*|auth(_?(token|key|ticket))?|access_?token|id_?token|token|ticket|sso\w*|jwt|csrf\w*|xsrf\w*|nonce|state|oauth_\w+|login(_?(id|hint))?|sess|zid|cfid|cftoken)$/i
const PERSON_NAMES =
  /^(user(_?(id|name|email))?|uid|u_?id|person(_?id)?|student(_?id)?|instructor(_?id)?|author(_?id)?|account(_?id)?|member(_?id)?|email|mail|lis_person_\w+|return_?(url|to)?|launch_presentation_return_url)$/i
/** The same behind a word that says which of them: `effectiveUser`, `current_user_id`. */
const PERSON_ENDINGS =
  /[a-z0-9](User|_user|-user|Person|_person|Student|_student)([_-]?(id|ID|Id|name|Name|email|Email))?$/
const VISIT_NAMES = /^(utm_\w+|\w*clid|ref(errer)?|cache_?bust(er)?|_|rnd|rand|nocache)$/i
const EXPIRY_NAMES = /^(exp|expires?(_?(at|in|on))?|valid_?(until|to)|ts|time_?stamp|issued(_?at)?|iat|t)$/i
const DAY_MS = 24 * 3600_000
const LONG = 20

/**
 * Reads an address that was copied out of a tool: which of its parameters look like the session of the one who copied it. Names seen in practice, values that are the
 * person's own, values that no content has (long and random), moments close to now. Without those marks a parameter is kept.
 * @param keep names to be kept whatever they look like
 * @param drop names to be taken out whatever they look like
 */
export function readPastedAddress(
  text: string,
  author: Author,
  choice: { keep?: readonly string[]; drop?: readonly string[] } = {},
): AddressReading | AddressProblem {
  const remarks: string[] = []
  const visible = text.replace(/[\u200b-\u200d\u2060\ufeff\u00a0]/g, '').trim()
  const trimmed = /^[<"'“‘](.*)[>"'”’]$/s.exec(visible)?.[1]?.trim() ?? visible
  if (trimmed !== text) remarks.push('Spaces or quotes around it were removed.')
  const hash = trimmed.indexOf('#')
  const original = hash < 0 ? trimmed : trimmed.slice(0, hash)
  if (hash >= 0)
    remarks.push(`The part after # is never sent to a tool and was taken off: “${trimmed.slice(hash, hash + 60)}”.`)
  const problem = checkLaunchAddress(original)
  if (problem) return problem

  const [path, query] = splitOnce(original, '?')
  const bare = path.replace(/;(j?session_?id|sid)=[^/?;]*/gi, (found) => {
    remarks.push(`The path carried a session and lost it: “${found.slice(0, 40)}”.`)
    return ''
  })
  const pieces = query === undefined ? [] : query.split('&').filter((one) => one !== '')
  const pairs = pieces.map((piece) => splitOnce(piece, '=').map(decode) as [string, string?])
  const judgements = pairs.map(([name, value = '']) => judge(name, value, author))
  const persons = valuesOfPersons(pairs)
  const parameters = pairs.map(([name, value = ''], i): AddressParameter => {
    const own = persons.get(value.trim().toLowerCase())
    const judged =
      own !== undefined && judgements[i]!.verdict !== 'session'
        ? { verdict: 'session' as const, reason: `It is the same as “${own}”, which says who you are.` }
        : judgements[i]!
    const kept = choice.keep?.includes(name) || (judged.verdict !== 'session' && !choice.drop?.includes(name))
    return { name, value, ...judged, kept }
  })
  const left = pieces.filter((_, i) => parameters[i]!.kept)
  return { original, cleaned: left.length > 0 ? `${bare}?${left.join('&')}` : bare, parameters, remarks }
}

function judge(
  name: string,
  value: string,
  { identities, now }: Author,
): { verdict: ParameterVerdict; reason: string } {
  const session = (reason: string) => ({ verdict: 'session' as const, reason })
  const plain = value.trim().toLowerCase()
  if (plain.length > 2 && identities.some((one) => one.trim().toLowerCase() === plain))
    return session('It is your own name or identifier.')
  if (SESSION_NAMES.test(name)) return session('Parameters of this name carry somebody’s session.')
  if (saysWho(name)) return session('Parameters of this name say who you are or where you came from.')
  if (VISIT_NAMES.test(name)) return session('It tells how this page was reached, not what it shows.')
  const moment = momentIn(value)
  const near = moment !== undefined && Math.abs(moment - now.getTime()) < 2 * DAY_MS
  if (near) return session('It is a time close to now: what depends on it will not last.')
  if (EXPIRY_NAMES.test(name) && moment !== undefined)
    return session('It is a moment: the address stops working or changes its meaning by it.')
  if (/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(value))
    return { verdict: 'doubtful', reason: 'An identifier of something; of the content as far as can be told.' }
  if (isRandom(value)) return session('It is long and random, as keys and sessions are.')
  if (value.length >= LONG && !/[ _./-]/.test(value))
    return { verdict: 'doubtful', reason: 'It is long; it may be content, or a session.' }
  return { verdict: 'needed', reason: 'Nothing in it looks like a session.' }
}

/** What stands in parameters that say who somebody is, with their names: in others it says the same. Numbers and short values may be there by chance. */
function valuesOfPersons(pairs: readonly [string, string?][]): ReadonlyMap<string, string> {
  const values = new Map<string, string>()
  for (const [name, value = ''] of pairs) {
    const plain = value.trim().toLowerCase()
    if (saysWho(name) && plain.length > 2 && /[a-z]/.test(plain)) values.set(plain, name)
  }
  return values
}

function saysWho(name: string): boolean {
  return PERSON_NAMES.test(name) || PERSON_ENDINGS.test(name)
}

/** Seconds or milliseconds since 1970 within ten years of today's habits, or an ISO date. */
function momentIn(value: string): number | undefined {
  if (/^1[5-9]\d{8}$|^2[01]\d{8}$/.test(value)) return Number(value) * 1000
  if (/^1[5-9]\d{11}$|^2[01]\d{11}$/.test(value)) return Number(value)
  if (!/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}/.test(value)) return undefined
  const at = new Date(value).getTime()
  return Number.isNaN(at) ? undefined : at
}

/** Whether a value has about as much chance in it as a key: long, of mixed kinds, and hardly any character more often than the others. */
export function isRandom(value: string): boolean {
  if (value.length < LONG || !/^[A-Za-z0-9_.~+/=-]+$/.test(value)) return false
  const kinds = [/[a-z]/, /[A-Z]/, /\d/].filter((kind) => kind.test(value)).length
  if (kinds < 2) return false
  // Words between separators are somebody's naming, not chance.
  if (value.split(/[-_.]/).every((word) => /^([a-z]{2,}|[A-Z][a-z]+|\d{1,4})$/.test(word))) return false
  const counts = new Map<string, number>()
  for (const character of value) counts.set(character, (counts.get(character) ?? 0) + 1)
  let bits = 0
  for (const count of counts.values()) bits -= (count / value.length) * Math.log2(count / value.length)
  return bits >= 3.2
}

function splitOnce(text: string, mark: string): [string, string?] {
  const at = text.indexOf(mark)
  return at < 0 ? [text] : [text.slice(0, at), text.slice(at + 1)]
}

function decode(text: string | undefined): string | undefined {
  if (text === undefined) return undefined
  try {
    return decodeURIComponent(text.replaceAll('+', ' '))
  } catch {
    return text
  }
}
