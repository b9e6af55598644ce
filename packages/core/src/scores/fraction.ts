import { Problem } from '../result/index.js'
import Big from 'big.js'

/** Why a result score is refused; `detail` is what was sent, cut to 40 characters. */
export type FractionProblem = Problem<
  'score.empty' | 'score.decimal_comma' | 'score.not_a_number' | 'score.negative' | 'score.above_one' | 'score.too_long'
>

/** A score as it crossed the wire: the text that was sent, and the same value in plain form (`.5` is `0.5`). */
export interface Fraction {
  sent: string
  value: string
}

const MAX_CHARACTERS = 64

/**
 * Reads a result score: a decimal in [0,1] with `.` as the mark (Basic Outcomes 1.1, replaceResult). Nothing is rounded.
 * White space around the number is XML's, not part of it. Exponents are refused: the standard's type is a plain decimal.
 */
export function readFraction(text: string): Fraction | FractionProblem {
  const sent = text.trim()
  const detail = sent.slice(0, 40)
  if (sent === '') return new Problem('score.empty', detail)
  if (sent.length > MAX_CHARACTERS) return new Problem('score.too_long', `${sent.length} characters`)
  if (/^[+-]?\d*,\d+$/.test(sent)) return new Problem('score.decimal_comma', detail)
  if (!/^[+-]?(?:\d+(?:\.\d*)?|\.\d+)$/.test(sent)) return new Problem('score.not_a_number', detail)
  if (sent.startsWith('-')) return new Problem('score.negative', detail)
  const value = new Big(sent.replace(/^\+/, '').replace(/\.$/, ''))
  if (value.gt(1)) return new Problem('score.above_one', detail)
  return { sent, value: value.toFixed() }
}
