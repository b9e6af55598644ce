import type { Said } from './findings/definition.js'
import { IN_OLD_WORDS } from './findings/words.js'
import type { Finding } from './sounding.js'

export type CheckChange = 'same' | 'better' | 'worse' | 'gone' | 'new' | 'other words'
type Compared = Pick<Finding, 'stage' | 'check' | 'code' | 'verdict' | 'facts' | 'durationMs'>

const RANK = { pass: 0, skipped: 1, warn: 2, fail: 3 }

/**
 * Holds the findings of two soundings against each other, check by check; several of one name by their order. The order is that of the later.
 * @param statementOf tells a finding: one from before facts were kept has nothing else to be compared by
 */
export function compareFindings<F extends Compared>(
  earlier: readonly F[],
  later: readonly F[],
  statementOf: (found: Said) => string,
): { stage: Finding['stage']; check: string; change: CheckChange; earlier: F | null; later: F | null }[] {
  const left = new Map<string, F[]>()
  const keyOf = (one: F) => `${one.stage} ${one.check}`
  for (const one of earlier) left.set(keyOf(one), [...(left.get(keyOf(one)) ?? []), one])
  const pairs = later.map((now) => {
    const before = left.get(keyOf(now))?.shift() ?? null
    return {
      stage: now.stage,
      check: now.check,
      change: changeOf(before, now, statementOf),
      earlier: before,
      later: now,
    }
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

function changeOf(before: Compared | null, now: Compared, statementOf: (found: Said) => string): CheckChange {
  if (!before) return 'new'
  if (RANK[now.verdict] > RANK[before.verdict]) return 'worse'
  if (RANK[now.verdict] < RANK[before.verdict]) return 'better'
  const inWords = [before, now].some((one) => one.code === IN_OLD_WORDS)
  const gistOf = (one: Compared) => (inWords ? withoutFigures(statementOf(one)) : gist(one))
  return gistOf(before) === gistOf(now) ? 'same' : 'other words'
}

/** What was found without its figures, which differ from run to run. */
function gist({ code, facts }: Compared): string {
  return JSON.stringify([code, facts], (_, value: unknown) =>
    typeof value === 'number' ? 0 : typeof value === 'string' ? withoutFigures(value) : value,
  )
}

function withoutFigures(text: string): string {
  return text.replace(/\d+([.,]\d+)?/g, '0')
}
