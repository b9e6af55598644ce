import Big from 'big.js'

/** One column as totals see it. `weightOf` is the identifier of its category; null for columns without one. */
export interface TotalColumn {
  id: string
  points: string
  counted: boolean
  category: string | null
}
/** Percent that a category weighs, by identifier. Empty: points are simply added up. */
export type Weights = ReadonlyMap<string, string>

/** Points in one column; null for none, undefined where the learner is exempt. */
export type Earned = string | null | undefined

/** `earned of outOf`, both exact decimal texts. With weights both are percents. Null `earned`: there is nothing to count yet. */
export interface Total {
  earned: string | null
  outOf: string
}

const DECIMALS = 20

/**
 * The total of one person. Columns without a score count as nothing earned when `missingCounts`, else they are left out on both sides, as exempt ones always are.
 * With weights each category counts by what was earned of what it is out of, weighted; categories without anything to count are left out and the rest is scaled up to a hundred.
 * @param earned points by column
 */
export function totalOf(
  columns: readonly TotalColumn[],
  earned: (column: string) => Earned,
  options: { weights: Weights; missingCounts: boolean },
): Total {
  const { weights, missingCounts } = options
  const parts = new Map<string, { earned: Big; outOf: Big; some: boolean }>()
  for (const column of columns) {
    if (!column.counted || (weights.size > 0 && !weights.has(column.category ?? ''))) continue
    const points = earned(column.id)
    if (points === undefined || (points === null && !missingCounts)) continue
    const key = weights.size > 0 ? column.category! : ''
    const part = parts.get(key) ?? { earned: new Big(0), outOf: new Big(0), some: false }
    parts.set(key, {
      earned: part.earned.plus(points ?? 0),
      outOf: part.outOf.plus(column.points),
      some: part.some || points !== null,
    })
  }
  const all = [...parts]
  if (!all.some(([, part]) => part.some)) return { earned: null, outOf: sumOf(all.map(([, part]) => part.outOf)) }
  if (weights.size === 0) {
    const [, only] = all[0]!
    return { earned: only.earned.toFixed(), outOf: only.outOf.toFixed() }
  }
  const weighed = all
    .filter(([, part]) => part.outOf.gt(0))
    .map(([key, part]) => ({ ...part, weight: new Big(weights.get(key)!) }))
  const weight = weighed.reduce((sum, one) => sum.plus(one.weight), new Big(0))
  if (weight.eq(0)) return { earned: null, outOf: '100' }
  const exact = Big()
  exact.DP = DECIMALS
  const reached = weighed.reduce((sum, one) => sum.plus(exact(one.earned).times(one.weight).div(one.outOf)), exact(0))
  return { earned: exact(reached).times(100).div(weight).toFixed(), outOf: '100' }
}

function sumOf(values: readonly Big[]): string {
  return values.reduce((sum, one) => sum.plus(one), new Big(0)).toFixed()
}
