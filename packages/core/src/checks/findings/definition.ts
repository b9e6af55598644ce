import type { Verdict } from '../verdict.js'

/** What is known of something found, as it can be kept: numbers, codes and what others said. Never a sentence of ours. */
export type Facts = Record<string, unknown>
export type NoFacts = Record<string, never>

/** What a person is told: what is the case and, unless all is well, why and what mends it. */
export interface Words {
  statement: string
  cause: string | null
  remedy: string | null
}

/** A refusal of our own as a fact. Its words are in the catalogue of errors, which the core does not know. */
export interface RefusalFacts {
  code: string
  detail: string | null
}

/** Gives the words of a refusal. `statement` has the detail in it, `sentence` has not. */
export type Explain = (refusal: RefusalFacts) => { statement: string; sentence: string; hint: string | null }

/** Something found as it is kept: by which check, what, and what is known of it. */
export interface Said {
  check: string
  code: string
  facts: Facts
}

/** Puts something that was found on the way of another check into words. */
export type Tell = (said: Said) => Words

/** How one thing that a check can find is judged and told. */
export interface Definition<F extends Facts = Facts> {
  verdict: Verdict | ((facts: F) => Verdict)
  words: (facts: F, explain: Explain, tell: Tell) => Words
}

interface Telling {
  statement: string
  cause?: string | null
  remedy?: string | null
}

export function passes<F extends Facts = NoFacts>(statement: (facts: F) => string): Definition<F> {
  return { verdict: 'pass', words: (facts) => ({ statement: statement(facts), cause: null, remedy: null }) }
}

/** What could not be tried, or needs nothing. */
export function skips<F extends Facts = NoFacts>(
  statement: (facts: F) => string,
  remedy?: (facts: F) => string,
): Definition<F> {
  return {
    verdict: 'skipped',
    words: (facts) => ({ statement: statement(facts), cause: null, remedy: remedy?.(facts) ?? null }),
  }
}

/** What somebody has to look at: a verdict, or what it is by the facts. */
export function tells<F extends Facts = NoFacts>(
  verdict: Definition<F>['verdict'],
  words: (facts: F, explain: Explain, tell: Tell) => Telling,
): Definition<F> {
  return {
    verdict,
    words: (facts, explain, tell) => ({ cause: null, remedy: null, ...words(facts, explain, tell) }),
  }
}

/** A refusal of ours met on the way, told as the catalogue tells it. */
export function refusal(verdict: Verdict = 'fail'): Definition<{ refusal: RefusalFacts }> {
  return tells(verdict, ({ refusal: met }, explain) => {
    const { statement, sentence, hint } = explain(met)
    return { statement, cause: sentence, remedy: hint }
  })
}

/** A number with its noun: 1 key, 2 keys. */
export function many(count: number, one: string, more = `${one}s`): string {
  return `${count} ${count === 1 ? one : more}`
}
