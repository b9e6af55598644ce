import { cutEnd } from '../text/index.js'
import { fieldOf, fieldOfAddress, IN_PROSE, isAddress, isToken, type Field } from './fields.js'

/** One value as it stands in the input, not cleaned yet. */
export interface RawValue {
  field: Field
  raw: string
  /** One-based line of the input. */
  line: number
  /** The label as written; null where the value was recognised by its form. */
  label: string | null
}

const MAX_LINES = 2000
const MAX_LINE = 2000
const ADDRESS = /https?:\/\/[^\s<>"'`|\\^{}]+|https?:\/\/[^\s<>"'`|]*[{}][^\s"'`|]*/i

/** Finds labelled values in text, in any order: `Label: value`, a label over its value, tables, sentences, bare addresses. */
export function readLabelled(text: string): RawValue[] {
  const lines = text
    .split(/\r\n|\r|\n/)
    .slice(0, MAX_LINES)
    .map((line) => line.slice(0, MAX_LINE))
  const found: RawValue[] = []
  const used = new Set<number>()
  // Of redirect addresses there may be a list: one a line, until something else comes.
  const takeMore = (from: number, label: string | null) => {
    for (let i = from; i < lines.length && isAddressAlone(lines[i]!); i++) {
      used.add(i)
      found.push({ field: 'redirectUri', raw: addressIn(lines[i]!)!, line: i + 1, label })
    }
  }
  lines.forEach((line, i) => {
    if (used.has(i)) return
    const values = readLine(line, i + 1)
    if (values.length > 0) {
      found.push(...values)
      if (values.at(-1)!.field === 'redirectUri') takeMore(i + 1, values.at(-1)!.label)
      return
    }
    const field = labelAlone(line)
    if (field) {
      const next = nextValue(lines, i + 1, field)
      if (next !== undefined) {
        used.add(next)
        found.push({ field, raw: valueFor(field, lines[next]!, false), line: next + 1, label: stripMarks(line) })
        if (field === 'redirectUri') takeMore(next + 1, stripMarks(line))
        return
      }
    }
    const address = addressIn(line)
    if (address) {
      const of = fieldOfAddress(address)
      if (of) found.push({ field: of, raw: address, line: i + 1, label: null })
    }
  })
  return found.length > 0 ? found : bareLines(lines)
}

function readLine(line: string, number: number): RawValue[] {
  const separated = splitLabel(line)
  const inProse = readProse(line, number)
  if (separated && separated.value !== '') {
    // Several labels on one line are several values; a label with a sentence behind it is one.
    if (inProse.length > 1) return inProse
    const { field, label, value } = separated
    if (field === 'redirectUri') {
      const all = addressesIn(value)
      if (all.length > 1) return all.map((raw) => ({ field, raw, line: number, label }))
    }
    return [{ field, raw: valueFor(field, value, true), line: number, label }]
  }
  return inProse
}

function splitLabel(line: string): { field: Field; label: string; value: string } | undefined {
  const plain = stripMarks(line)
  const cells = plain
    .split('|')
    .map((cell) => cell.trim())
    .filter((cell) => cell !== '')
  if (cells.length === 2 && fieldOf(cells[0]!))
    return { field: fieldOf(cells[0]!)!, label: cells[0]!, value: cells[1]! }
  // The first separator whose left side is a label: addresses and times hold colons as well.
  for (const match of plain.matchAll(/=>|->|[:=：\t|]|\s[–—-]+>?\s|\s{2,}/g)) {
    if (match.index > 80) break
    const field = fieldOf(plain.slice(0, match.index))
    if (field)
      return { field, label: plain.slice(0, match.index).trim(), value: plain.slice(match.index + match[0].length) }
  }
  return undefined
}

/** “your key is abc and the secret is def”, “Key: abc Secret: def”. */
function readProse(line: string, number: number): RawValue[] {
  const found: RawValue[] = []
  const matches = [...line.matchAll(IN_PROSE)]
  matches.forEach((match, i) => {
    const after = line.slice(match.index + match[0].length, matches[i + 1]?.index)
    const value = /^\s*(?:\([^)]*\)\s*)?(?:is now|is|are|will be|=>|=|:|->|–|—)\s*(\S.*)$/.exec(after)?.[1]
    const field = fieldOf(match[0])
    if (value === undefined || !field) return
    found.push({ field, raw: firstWord(field, value), line: number, label: match[0] })
  })
  return found
}

function firstWord(field: Field, text: string): string {
  if (isAddress(field)) return addressIn(text) ?? text
  const quoted = /^(["'`“„‘«])(.+?)(["'`”“’»])/.exec(text)
  return quoted ? quoted[0] : cutEnd(text.trim().split(/\s+/, 1)[0]!, '.,;)')
}

/** A value behind its label. Of tokens a comment behind them is left out, of addresses everything around them. */
function valueFor(field: Field, text: string, trimComment: boolean): string {
  if (isAddress(field)) return addressIn(text) ?? text
  if (isToken(field) && trimComment) return withoutComment(text)
  return text
}

/** The first address in a line, without the punctuation of the sentence around it. */
export function addressIn(line: string): string | undefined {
  const found = ADDRESS.exec(line)?.[0]
  if (found === undefined) return undefined
  let address = cutEnd(found, '.,;:!?*_\'"”’»]')
  // A bracket at the end belongs to the sentence unless it was opened inside the address.
  while (address.endsWith(')') && !address.slice(0, -1).includes('(')) address = address.slice(0, -1)
  return address
}

/** Whether a line is an address and nothing else but the marks of a list. */
function isAddressAlone(line: string): boolean {
  const plain = stripMarks(line).trim()
  return plain !== '' && cutEnd(plain, '.,;') === addressIn(plain)
}

/** All addresses of a line, in their order. */
function addressesIn(line: string): string[] {
  return line.split(/[\s,;|]+/).flatMap((word) => addressIn(word) ?? [])
}

function labelAlone(line: string): Field | undefined {
  return fieldOf(
    stripMarks(line)
      .trimEnd()
      .replace(/[:=：–—-]$/, '')
      .trimEnd(),
  )
}

function nextValue(lines: readonly string[], from: number, field: Field): number | undefined {
  for (let i = from; i < Math.min(from + 3, lines.length); i++) {
    const line = lines[i]!.trim()
    if (line === '') continue
    if (labelAlone(line) || splitLabel(line)) return undefined
    if (isToken(field) && /\s/.test(stripMarks(line).trim())) return undefined
    return i
  }
  return undefined
}

/** Bullets, numbers, quoting marks and emphasis at the start of a line. */
function stripMarks(line: string): string {
  const plain = line
    .replace(/^[\s>|]*(?:[-*•◦‣·–]\s+|\d{1,2}[.)]\s+)?/, '')
    .replace(/(^|\s)(\*\*|__)(\S[^*_]*)\2(?=[\s:]|$)/g, '$1$3')
    .replace(/<\/?(?:b|strong|i|em|code|td|th|tr|li|p|span|dt|dd|br)\b[^<>]*>/gi, ' ')
  // What stands at the end of a value stays, blanks too: that they were copied along has to be said.
  const end = plain.trimEnd()
  return end.endsWith('|') ? end.slice(0, -1).trimEnd() : plain
}

/** A value up to the first remark behind it: in brackets to the end, or behind an arrow, slashes, a hash or a dash. */
function withoutComment(text: string): string {
  for (const { index } of text.matchAll(/\s\S/g)) {
    const behind = text.slice(index + 1)
    if (/^(?:<-|\/\/|#\s|[–—]\s|-\s)/.test(behind) || (behind.startsWith('(') && text.endsWith(')')))
      return text.slice(0, index).trimEnd()
  }
  return text
}

/** Two words without labels on two lines are taken for key and secret, in this order. */
function bareLines(lines: readonly string[]): RawValue[] {
  const bare = lines.flatMap((line, i) => (line.trim() === '' ? [] : [{ line: i + 1, raw: line }]))
  if (bare.length !== 2 || bare.some(({ raw }) => /\S\s+\S/.test(raw) || raw.trim().length < 3)) return []
  return [
    { field: 'consumerKey', ...bare[0]!, label: null },
    { field: 'sharedSecret', ...bare[1]!, label: null },
  ]
}
