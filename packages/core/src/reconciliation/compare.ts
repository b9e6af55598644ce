import { cutEnd } from '../text/index.js'
import Big from 'big.js'
import { fractionOf } from '../scores/points.js'

export const RECONCILED_CLASSES = [
  'same',
  'rounding',
  'scale',
  'different',
  'missing_here',
  'missing_there',
  'unknown_person',
  'unreadable',
] as const
export type ReconciledClass = (typeof RECONCILED_CLASSES)[number]

/** One line of a tool's export, as text. */
export interface ExportLine {
  line: number
  identifier: string
  email: string
  name: string
  score: string
  maximum: string
}

/** Somebody of the course with what stands in the gradebook. */
export interface Known {
  id: string
  /** Everything that a tool may call the person by: user name, subject, sourced identifier. */
  identifiers: readonly string[]
  email: string | null
  name: string
  /** Exact points; null for none. */
  points: string | null
}

export interface Reconciled {
  /** Null for people whom the export does not name. */
  line: number | null
  personId: string | null
  /** The line's own words for who it is. */
  called: string
  matchedBy: 'identifier' | 'email' | 'name' | null
  /** Whether the match might be another person: only the name says so. */
  doubtful: boolean
  class: ReconciledClass
  ours: string | null
  /** As it stands in the file. */
  theirs: string | null
  /** The same in points of the column; null for none and for what cannot be read. */
  theirPoints: string | null
}

export interface CompareOptions {
  /** The column's points. */
  points: string
  /** What scores in the file are out of, where a line does not say: null means the column's points. */
  maximum: string | null
  /** Decimals that the gradebook shows. */
  decimals: number
}

/**
 * Compares a tool's export with a column of the gradebook, line by line, then everybody whom no line names. A person named twice keeps the first line; the second is unreadable.
 * Numbers are compared exactly; `scale` is the same share of another maximum, `rounding` what is shown alike or cut to as many decimals as the file has.
 */
export function reconcile(
  lines: readonly ExportLine[],
  people: readonly Known[],
  options: CompareOptions,
): Reconciled[] {
  const find = matcher(people)
  const seen = new Set<string>()
  const found = lines.map((line): Reconciled => {
    const match = find(line)
    const called = line.identifier || line.email || line.name
    const common = { line: line.line, called, theirs: line.score === '' ? null : line.score }
    if (!match)
      return {
        ...common,
        personId: null,
        matchedBy: null,
        doubtful: false,
        class: 'unknown_person',
        ours: null,
        theirPoints: null,
      }
    const { person, by, doubtful } = match
    const who = { ...common, personId: person.id, matchedBy: by, doubtful, ours: person.points }
    if (seen.has(person.id)) return { ...who, class: 'unreadable', theirPoints: null }
    seen.add(person.id)
    return { ...who, ...judge(line, person.points, options) }
  })
  const rest = people
    .filter((person) => !seen.has(person.id) && person.points !== null)
    .map((person): Reconciled => ({
      line: null,
      personId: person.id,
      called: person.name,
      matchedBy: null,
      doubtful: false,
      class: 'missing_there',
      ours: person.points,
      theirs: null,
      theirPoints: null,
    }))
  return [...found, ...rest]
}

function judge(
  line: ExportLine,
  ours: string | null,
  { points, maximum, decimals }: CompareOptions,
): Pick<Reconciled, 'class' | 'theirPoints'> {
  if (line.score === '') return { class: ours === null ? 'same' : 'missing_there', theirPoints: null }
  const read = readNumber(line.score)
  // A maximum that cannot be read is not the column's own.
  const outOf = readNumber(line.maximum.trim() || (read?.percent ? '100' : (maximum ?? points)))
  if (!read || !outOf || new Big(outOf.value).lte(0)) return { class: 'unreadable', theirPoints: null }
  const worth = new Big(points)
  const ownScale = new Big(outOf.value).eq(worth)
  const theirs = ownScale ? new Big(read.value) : new Big(fractionOf(read.value, outOf.value)).times(worth).round(15)
  const theirPoints = theirs.toFixed()
  if (ours === null) return { class: 'missing_here', theirPoints }
  const mine = new Big(ours)
  if (mine.eq(theirs)) return { class: ownScale ? 'same' : 'scale', theirPoints }
  return { class: alike(mine, theirs, read, outOf.value, worth, decimals) ? 'rounding' : 'different', theirPoints }
}

/** Whether two numbers differ by nothing but how many decimals somebody kept, here or there, rounded or cut. */
function alike(mine: Big, theirs: Big, read: { value: string }, outOf: string, worth: Big, decimals: number): boolean {
  if (mine.round(decimals, Big.roundHalfUp).eq(theirs.round(decimals, Big.roundHalfUp))) return true
  if (worth.eq(0)) return false
  const kept = read.value.split('.')[1]?.length ?? 0
  const there = mine.times(outOf).div(worth)
  const written = new Big(read.value)
  return [Big.roundHalfUp, Big.roundDown, Big.roundHalfEven].some((how) => there.round(kept, how).eq(written))
}

/** A number as exports write it: point or comma, or a percent. */
function readNumber(text: string): { value: string; percent: boolean } | undefined {
  const trimmed = text.trim()
  if (trimmed.length > 40) return undefined
  const percent = trimmed.endsWith('%')
  const plain = cutEnd(trimmed, '%')
    .trimEnd()
    .replace(/^(\d+),(\d+)$/, '$1.$2')
  return /^\d+(\.\d+)?$|^\.\d+$/.test(plain) ? { value: plain, percent } : undefined
}

interface Match {
  person: Known
  by: 'identifier' | 'email' | 'name'
  doubtful: boolean
}

/** Finds people by what a line says and only one of them has: identifier first, then email, then the name, which is doubtful. */
function matcher(people: readonly Known[]): (line: ExportLine) => Match | undefined {
  const byIdentifier = new Map<string, Known[]>()
  const byEmail = new Map<string, Known[]>()
  const byName = new Map<string, Known[]>()
  const add = (map: Map<string, Known[]>, key: string, one: Known) => {
    const before = map.get(key)
    if (before) before.push(one)
    else map.set(key, [one])
  }
  for (const one of people) {
    for (const identifier of new Set(one.identifiers.map((each) => each.toLowerCase())))
      add(byIdentifier, identifier, one)
    if (one.email) add(byEmail, one.email.toLowerCase(), one)
    add(byName, nameKey(one.name), one)
  }
  return (line) => {
    const called = line.identifier ? byIdentifier.get(line.identifier.trim().toLowerCase()) : undefined
    if (called?.length === 1) return { person: called[0]!, by: 'identifier', doubtful: false }
    const mails = line.email ? byEmail.get(line.email.trim().toLowerCase()) : undefined
    if (mails?.length === 1) return { person: mails[0]!, by: 'email', doubtful: false }
    const named = line.name ? byName.get(nameKey(line.name)) : undefined
    if (named?.length !== 1) return undefined
    // A name alone is taken, but said to be a guess.
    return { person: named[0]!, by: 'name', doubtful: true }
  }
}

/** A name however it is ordered, accented or written: `Okaforlind, Tomas` is `Tomas Okaforlind`. */
function nameKey(name: string): string {
  return name
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .sort()
    .join(' ')
}
