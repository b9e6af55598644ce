import { percentDecoded, stripHidden } from '../text/index.js'

/** Shorter identifiers are too much alike to say that one is nearly another. */
const SHORTEST = 6
const MOST_BEHIND = 3

/**
 * How an identifier differs from the one that was expected, in words that say where; undefined when it is the same, or another altogether. Reads each of the two a few times
 * from end to end.
 */
export function identifierDifference(given: string, expected: string): string | undefined {
  if (given === expected || expected === '') return undefined
  if (/^(["'“„‘«]).*(["'”“’»])$/su.test(given) && given.slice(1, -1) === expected) return 'quotes around it'
  if (stripHidden(given) === expected) return 'spaces or invisible characters around it'
  if (percentDecoded(given) === expected) return 'escaped as in an address'
  if (given.toLowerCase() === expected.toLowerCase()) return `other capital letters, ${placeOf(given, expected)}`
  if (Math.min(given.length, expected.length) < SHORTEST) return undefined
  if (expected.startsWith(given) && given.length * 2 >= expected.length)
    return `cut off after ${given.length} of ${expected.length} characters`
  if (given.startsWith(expected) && given.length - expected.length <= MOST_BEHIND)
    return `“${given.slice(expected.length)}” behind it`
  return isOneApart(given, expected) ? placeOf(given, expected) : undefined
}

/** The one of several identifiers that it nearly is. */
export function nearestIdentifier(
  given: string,
  expected: readonly string[],
): { identifier: string; difference: string } | undefined {
  for (const identifier of expected) {
    const difference = identifierDifference(given, identifier)
    if (difference !== undefined) return { identifier, difference }
  }
  return undefined
}

/** Where two texts begin to differ, with what stands there. */
export function placeOf(given: string, expected: string): string {
  const at = commonStart(given, expected)
  const sign = (text: string) => {
    const point = text.codePointAt(at)
    return point === undefined ? 'the end' : `“${String.fromCodePoint(point)}”`
  }
  return `at character ${at + 1} ${sign(given)} in place of ${sign(expected)}`
}

/** One character more, less or other, or two exchanged. */
function isOneApart(given: string, expected: string): boolean {
  const start = commonStart(given, expected)
  const longer = Math.max(given.length, expected.length)
  const end = commonEnd(given, expected, Math.min(given.length, expected.length) - start)
  const between = longer - start - end
  if (between === 1) return true
  return (
    between === 2 &&
    given.length === expected.length &&
    given[start] === expected[start + 1] &&
    given[start + 1] === expected[start]
  )
}

function commonStart(a: string, b: string): number {
  let n = 0
  while (n < a.length && n < b.length && a[n] === b[n]) n++
  return n
}

function commonEnd(a: string, b: string, most: number): number {
  let n = 0
  while (n < most && a[a.length - 1 - n] === b[b.length - 1 - n]) n++
  return n
}
