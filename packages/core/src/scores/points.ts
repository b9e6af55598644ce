import Big from 'big.js'

/**
 * The points of a fraction: `fraction × points`, exact, as a plain decimal text.
 * @param fraction decimal text in [0,1]
 * @param points the assignment's points, decimal text
 */
export function pointsOf(fraction: string, points: string): string {
  return new Big(fraction).times(points).toFixed()
}

/** The fraction as it is sent back on readResult: `earned ÷ points`, exact where it is finite, else 20 decimals. */
export function fractionOf(earned: string, points: string): string {
  const out = Big()
  out.DP = 20
  return out(earned).div(points).toFixed()
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
