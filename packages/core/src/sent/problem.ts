import type { Disclosure } from '../identity/index.js'

/** Something in a launch of ours that standard or registration do not allow. `name` is the parameter or claim. */
export interface SentProblem {
  name: string
  statement: string
}

/** What a launch is held against. */
export interface SentFacts {
  disclosure: Disclosure
  /** Whom it was sent as. */
  as: 'instructor' | 'learner'
  /** Values that must never leave the house in a message: shared secrets. */
  secrets: readonly string[]
}

/** Which parts of a person each limit keeps back. */
export function keptBack(disclosure: Disclosure): { name: boolean; email: boolean } {
  return {
    name: disclosure !== 'name' && disclosure !== 'name_and_email',
    email: disclosure !== 'email' && disclosure !== 'name_and_email',
  }
}

/** A secret shorter than this may stand in any text by chance. */
const TELLING_CHARACTERS = 6

/** The parts, by name, that hold a secret. */
export function leaksOf(parts: Iterable<readonly [string, string]>, secrets: readonly string[]): SentProblem[] {
  const telling = secrets.filter((one) => one.length >= TELLING_CHARACTERS)
  return [...parts]
    .filter(([, value]) => telling.some((secret) => value.includes(secret)))
    .map(([name]) => ({ name, statement: `“${name}” holds a shared secret.` }))
}
