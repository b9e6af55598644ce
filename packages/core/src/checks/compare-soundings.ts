import type { Finding } from './sounding.js'

export type CheckChange = 'same' | 'better' | 'worse' | 'gone' | 'new' | 'other words'
type Compared = Pick<Finding, 'stage' | 'check' | 'verdict' | 'statement' | 'durationMs'>

const RANK = { pass: 0, skipped: 1, warn: 2, fail: 3 }

/** Holds the findings of two soundings against each other, check by check; several of one name by their order. The order is that of the later. */
export function compareFindings(
  earlier: readonly Compared[],
  later: readonly Compared[],
): { stage: Finding['stage']; check: string; change: CheckChange; earlier: Compared | null; later: Compared | null }[] {
  const left = new Map<string, Compared[]>()
  const keyOf = (one: Compared) => `${one.stage} ${one.check}`
  for (const one of earlier) left.set(keyOf(one), [...(left.get(keyOf(one)) ?? []), one])
  const pairs = later.map((now) => {
    const before = left.get(keyOf(now))?.shift() ?? null
    return { stage: now.stage, check: now.check, change: changeOf(before, now), earlier: before, later: now }
  })
  const gone = [...left.values()].flat().map((one) => ({
    stage: one.stage,
    check: one.check,
    change: 'gone' as const,
    earlier: one,
    later: null,
  }))
  return [...pairs, ...gone]
}

function changeOf(before: Compared | null, now: Compared): CheckChange {
  if (!before) return 'new'
  if (RANK[now.verdict] > RANK[before.verdict]) return 'worse'
  if (RANK[now.verdict] < RANK[before.verdict]) return 'better'
  return gist(before.statement) === gist(now.statement) ? 'same' : 'other words'
}

/** Times and other figures differ from run to run. */
function gist(statement: string): string {
  return statement.replace(/\d+([.,]\d+)?/g, '0')
}
