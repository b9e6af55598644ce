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

type Refused = { refusal: RefusalFacts }

/** A refusal of ours met on the way, told as the catalogue tells it. @param cause the part of it that is told as the cause, if any */
export function refusal(cause?: 'statement' | 'sentence'): Definition<Refused> {
  return tells('fail', ({ refusal: met }: Refused, explain) => {
    const told = explain(met)
    return { statement: told.statement, cause: cause ? told[cause] : null, remedy: told.hint }
  })
}

/** Nothing came back from a tool; why, and by which refusal of ours that is known. */
export function noAnswer(): Definition<{ failure: string; code: string | null }> {
  return tells('fail', ({ failure, code }: { failure: string; code: string | null }, explain) => ({
    statement: failure,
    remedy: hintOf(code, explain),
  }))
}

/** The way out of a refusal; null where there is none. */
export function hintOf(code: string | null, explain: Explain): string | null {
  return code === null ? null : explain({ code, detail: null }).hint
}

/** Some of a list in a sentence, with how many more there were. */
export function andMore(some: readonly string[], more: number): string {
  return some.join(', ') + (more > 0 ? ` and ${more} more` : '')
}

/** A name of ours as a sentence has it. */
export function plain(name: string): string {
  return name.replaceAll('_', ' ')
}
