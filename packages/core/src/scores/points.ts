import { cutEnd } from '../text/index.js'
import Big from 'big.js'

/** Decimals of a quotient that does not end. */
export const QUOTIENT_DECIMALS = 30
/** A fraction with so many decimals came out of a division that does not end; points of it are rounded to what such a fraction still says exactly. */
const ENDLESS_DECIMALS = 25
const POINTS_DECIMALS = 15

/**
 * The points of a fraction: `fraction × points`, exact, as a plain decimal text. Only where the fraction is a quotient that does not end (20 of 30) the points are rounded
 * to 15 decimals, which gives 20 of 30 points back as 20.
 * @param fraction decimal text, 0 upwards
 * @param points the column's points, decimal text
 */
export function pointsOf(fraction: string, points: string): string {
  const [one, other] = [wholeOf(fraction), wholeOf(points)]
  const exact = { whole: one.whole * other.whole, decimals: one.decimals + other.decimals }
  return textOf(one.decimals >= ENDLESS_DECIMALS ? rounded(exact, POINTS_DECIMALS) : exact)
}

/** What of the whole was given: `earned ÷ points`, exact where it ends, else rounded half up at 30 decimals. @throws RangeError for 0 points */
export function fractionOf(earned: string, points: string): string {
  const [one, other] = [wholeOf(earned), wholeOf(points)]
  const shift = QUOTIENT_DECIMALS + other.decimals - one.decimals
  const [over, under] = shift >= 0 ? [one.whole * tenTo(shift), other.whole] : [one.whole, other.whole * tenTo(-shift)]
  return textOf({ whole: halfUp(over, under), decimals: QUOTIENT_DECIMALS })
}

/** Rounds for display only, half up. */
export function shown(points: string, decimals = 0): string {
  return new Big(points).round(decimals, Big.roundHalfUp).toFixed()
}

export function sameNumber(a: string, b: string): boolean {
  return new Big(a).eq(b)
}

/** The exact sum of decimal texts; `0` for none. */
export function addPoints(points: readonly string[]): string {
  return points.reduce((sum, one) => sum.plus(one), new Big(0)).toFixed()
}

/** Whether a number lies between two others, both included. */
export function isWithin(value: string, from: string, to: string): boolean {
  return new Big(value).gte(from) && new Big(value).lte(to)
}

/** A decimal that is not negative as `whole ÷ 10^decimals`. */
interface Exact {
  whole: bigint
  decimals: number
}

/** As numbers are sent and kept: `.5`, `5.` and `+0.5` are numbers, too (XML Schema 1.0 part 2, section 3.2.3). */
const DECIMAL = /^\+?(?=\.?\d)(\d*)(?:\.(\d*))?$/

/** By the runtime's own integers: every score that comes in is divided once and multiplied once. @throws RangeError for what is no decimal from 0 upwards */
function wholeOf(text: string): Exact {
  const match = DECIMAL.exec(text)
  if (!match) throw new RangeError(`“${text.slice(0, 40)}” is no decimal from 0 upwards.`)
  const after = match[2] ?? ''
  return { whole: BigInt(match[1]! + after), decimals: after.length }
}

/** To fewer decimals than it has. */
function rounded(exact: Exact, decimals: number): Exact {
  return { whole: halfUp(exact.whole, tenTo(exact.decimals - decimals)), decimals }
}

function halfUp(over: bigint, under: bigint): bigint {
  return (2n * over + under) / (2n * under)
}

function tenTo(exponent: number): bigint {
  return 10n ** BigInt(exponent)
}

function textOf({ whole, decimals }: Exact): string {
  const digits = whole.toString().padStart(decimals + 1, '0')
  const [before, after] = [digits.slice(0, digits.length - decimals), digits.slice(digits.length - decimals)]
  const kept = cutEnd(after, '0')
  return kept === '' ? before : `${before}.${kept}`
}
