import { ruleOf } from '../preflight/index.js'
import type { Finding } from '../sounding.js'
import { definitionOf, factsIn, saidOf } from './catalogue.js'
import { plain, type Explain, type Said, type Words } from './definition.js'

/** What was found before facts were kept: its own words are the facts. */
export const IN_OLD_WORDS = 'said'
/** The one code of a rule of preflight: what it has to remark. */
export const REMARK = 'remark'

/**
 * Puts what was found into words: the one place where that is done, for console, command line, reports and mail. Of what this version knows nothing
 * only the names are told.
 * @param explain gives the words of refusals
 */
export function wordsOf(said: Said, explain: Explain): Words {
  const { check, code, facts } = said
  if (code === IN_OLD_WORDS) return oldWords(facts)
  const rule = code === REMARK ? ruleOf(check) : undefined
  if (rule) return { cause: null, ...rule.words(facts) }
  const tell = (other: Said) => wordsOf(other, explain)
  return (
    definitionOf(check, code)?.words(facts, explain, tell) ?? {
      statement: `${plain(check)}: ${plain(code)}`,
      cause: null,
      remedy: null,
    }
  )
}

/** The worst finding: what a sounding is told by in one line. Null when nothing is wrong. */
export function headlineOf<F extends Pick<Finding, 'verdict' | 'check' | 'code' | 'facts'>>(
  findings: readonly F[],
): Said | null {
  const worst = findings.find((one) => one.verdict === 'fail') ?? findings.find((one) => one.verdict === 'warn')
  return worst ? saidOf(worst) : null
}

/** A headline in one sentence: the cause where one is known, otherwise what is the case. */
export function headlineWords(headline: Said, explain: Explain): string {
  const { cause, statement } = wordsOf(headline, explain)
  return cause ?? statement
}

/** What a mark of a proof says of a finding that shows it. */
export function evidenceWords(said: Said, explain: Explain): string {
  const score = factsIn([said], 'received', 'score')
  if (score) return `${score.sent ?? 'A cleared score'} of ${score.outOf ?? '1'} received.`
  const value = factsIn([said], 'value', 'agrees')
  return value
    ? `${value.sent} of ${value.outOf} × ${value.points} points = ${value.value} stood in the gradebook.`
    : headlineWords(said, explain)
}

function oldWords(facts: Said['facts']): Words {
  const text = (name: keyof Words) => (typeof facts[name] === 'string' ? facts[name] : null)
  return { statement: text('statement') ?? '', cause: text('cause'), remedy: text('remedy') }
}
