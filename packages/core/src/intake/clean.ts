/** A value as it is meant, and what was taken away from it to get there, in words. */
export interface Cleaned {
  value: string
  removed: string[]
}

const INVISIBLE =
  /[\u00ad\u034f\u061c\u115f\u1160\u17b4\u17b5\u180e\u200b-\u200f\u202a-\u202e\u2060-\u2064\u206a-\u206f\ufe00-\ufe0f\ufeff]/g
const CONTROL = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f-\u009f]/g
const PAIRS: readonly (readonly [string, string])[] = [
  ['"', '"'], ["'", "'"], ['`', '`'], ['“', '”'], ['„', '“'], ['„', '”'], ['‘', '’'], ['«', '»'], ['»', '«'], ['<', '>'], ['[', ']'], ['**', '**'], ['*', '*'], ['__', '__'],
] // oxfmt-ignore

/** Takes away what is easily copied along: invisible characters anywhere; blanks, quotes, brackets and markup around it. */
export function cleanValue(raw: string): Cleaned {
  const removed: string[] = []
  const note = (what: string) => {
    if (!removed.includes(what)) removed.push(what)
  }
  let value = raw
  const hidden = value.match(INVISIBLE) ?? []
  if (hidden.length > 0) {
    value = value.replace(INVISIBLE, '')
    note(`invisible characters (${[...new Set(hidden)].map(codePoint).join(', ')})`)
  }
  if (CONTROL.test(value)) {
    value = value.replace(CONTROL, '')
    note('control characters')
  }
  for (let again = true; again;) {
    again = false
    const trimmed = value.trim()
    if (trimmed !== value) {
      note(/[\u00a0\u2000-\u200a\u202f\u205f\u3000]/.test(value) ? 'spaces (non-breaking ones)' : 'spaces')
      value = trimmed
    }
    for (const [open, close] of PAIRS)
      if (value.length > open.length + close.length && value.startsWith(open) && value.endsWith(close)) {
        value = value.slice(open.length, -close.length)
        note(
          open === '<' || open === '['
            ? 'brackets'
            : open.startsWith('*') || open === '__'
              ? 'marks of emphasis'
              : 'quotes',
        )
        again = true
        break
      }
  }
  return { value, removed }
}

function codePoint(character: string): string {
  return `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`
}

/** What stands for a value that was left out, whole. */
const STAND_INS = [
  ...['n/a', 'na', 'none', 'null', 'undefined', 'tbd', 'tba', 'todo', 'changeme', 'change-me', 'secret', 'password', 'key'],
  ...['shared-secret', 'sharedsecret', 'consumer-key', 'consumerkey', 'client-id', 'clientid', 'test', 'foo', 'bar', 'example'],
  ...['placeholder', 'abc123', 'lorem-ipsum'],
] // oxfmt-ignore
const RUNS = /^(?:x{3,}|\*{3,}|•+|●+|\.{3,}|…+|-+|_+|12345\d*)$/i
const TO_DO = /^(?:your|my|insert|enter|put|paste|replace)\b/i
const YOUR_OWN =
  /\b(?:your|my|insert|replace)[-_ ](?:own|consumer|shared|client|key|secret|id|domain|institution|school|tool|host|value)/i
const HERE = /(?:key|secret|id)[-_ ]?(?:goes[-_ ])?here$/i
const BRACKETED = /^[{[<$%]/
const BRACKETED_END = /[}\]>%]$/

/** Whether a value stands there only to be replaced, or to hide the real one. */
export function isPlaceholder(value: string): boolean {
  return (
    STAND_INS.includes(value.toLowerCase().replace(/[_ ]/g, '-')) ||
    [RUNS, TO_DO, YOUR_OWN, HERE, /[•●]{2}|\*{4}/].some((one) => one.test(value)) ||
    (value.length > 1 && BRACKETED.test(value) && BRACKETED_END.test(value))
  )
}

/** Whether an address is an example to be filled in. */
export function isPlaceholderAddress(address: string): boolean {
  const host = URL.canParse(address) ? new URL(address).hostname : ''
  return (
    /(^|\.)example\.(com|org|net|edu)$/.test(host) ||
    /your[-_.]?(domain|school|institution|tool|host|company|org|server|subdomain)|\bmy(domain|school|tool)\b/i.test(
      address,
    ) ||
    /[{}<>]|%7B|%7D|%3C|%3E/i.test(address)
  )
}

/** Whether a value was cut short where it was shown. */
export function isCutShort(value: string): boolean {
  return /(?:…|\.{3})$/.test(value)
}

/** Whether a text looks like something a machine made up: long, mixed, without words. */
export function looksRandom(text: string): boolean {
  if (text.length < 16 || !/[0-9]/.test(text) || !/[A-Za-z]/.test(text)) return false
  if (/[a-z]{6,}|[A-Z]{8,}/.test(text)) return false
  const counts = new Map<string, number>()
  for (const character of text) counts.set(character, (counts.get(character) ?? 0) + 1)
  let bits = 0
  for (const n of counts.values()) bits -= n * Math.log2(n / text.length)
  return bits >= 48
}

/** Whether a text looks like a name that people gave: words, a domain, a mail address. */
export function looksNamed(text: string): boolean {
  return /[a-z]{4,}/i.test(text) && !looksRandom(text) && text.length <= 60
}

/** A private or local host, which nothing outside of that network reaches. */
export function isPrivateHost(address: string): boolean {
  const host = URL.canParse(address) ? new URL(address).hostname.replace(/^\[|\]$/g, '').toLowerCase() : ''
  return (
    host === 'localhost' ||
    /\.(local|localhost|internal|lan|home|corp|intranet)$/.test(host) ||
    /^(127|10|0)\.|^192\.168\.|^172\.(1[6-9]|2\d|3[01])\.|^169\.254\.|^100\.(6[4-9]|[7-9]\d|1[01]\d|12[0-7])\./.test(
      host,
    ) ||
    /^(::1?|f[cd][0-9a-f]{2}:.*|fe[89ab][0-9a-f]:.*)$/.test(host) ||
    (host !== '' && !host.includes('.') && !host.includes(':'))
  )
}

const EXPIRY_NAMES = /^(exp|expires?|expiry|expires_(at|on)|valid_(until|to)|x-amz-expires)$/i

/** When an address says of itself that it ends; undefined when it does not say. */
export function expiryOf(address: string): Date | undefined {
  if (!URL.canParse(address)) return undefined
  for (const [name, value] of new URL(address).searchParams) {
    if (!EXPIRY_NAMES.test(name)) continue
    if (/^\d{10}$/.test(value)) return new Date(Number(value) * 1000)
    if (/^\d{13}$/.test(value)) return new Date(Number(value))
    if (/^\d{4}-\d\d-\d\d/.test(value) && !Number.isNaN(Date.parse(value))) return new Date(value)
  }
  return undefined
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

/** The date after which a line says that something is no longer valid. */
export function expiryInText(line: string): Date | undefined {
  const said =
    /\b(?:expir(?:es?|ed|y|ation)(?: date)?|valid (?:until|till|through|thru|to)|ends?(?: on)?|good until)\b[^0-9A-Za-z]*(?:on |at |the |is )?(.{6,30})/i.exec(
      line,
    )?.[1]
  if (!said) return undefined
  const iso = /^(\d{4})-(\d\d)-(\d\d)/.exec(said)
  if (iso) return endOfDay(Number(iso[1]), Number(iso[2]) - 1, Number(iso[3]))
  const words = /^(?:(\d{1,2})\.? ([A-Za-z]{3,9})|([A-Za-z]{3,9}) (\d{1,2})),? (\d{4})/.exec(said)
  if (!words) return undefined
  const month = MONTHS.indexOf((words[2] ?? words[3])!.slice(0, 3).toLowerCase())
  return month < 0 ? undefined : endOfDay(Number(words[5]), month, Number(words[1] ?? words[4]))
}

function endOfDay(year: number, month: number, day: number): Date | undefined {
  const date = new Date(Date.UTC(year, month, day, 23, 59, 59))
  return Number.isNaN(date.getTime()) ? undefined : date
}
