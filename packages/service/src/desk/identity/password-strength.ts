import { Refusal } from '@bathyscribe/contract'
import type { ZxcvbnFactory } from '@zxcvbn-ts/core'

/** Of five grades: below, a password is found within 10⁸ guesses. */
const LEAST_SCORE = 3
/** Judged by its beginning; what is longer is no weaker for it. */
const JUDGED_CHARACTERS = 40

let judge: Promise<ZxcvbnFactory> | undefined

/** Word lists take a tenth of a second to load, and most processes never set a password. */
async function loadJudge(): Promise<ZxcvbnFactory> {
  const [{ ZxcvbnFactory: Factory }, { dictionary, adjacencyGraphs }] = await Promise.all([
    import('@zxcvbn-ts/core'),
    import('@zxcvbn-ts/language-common'),
  ])
  return new Factory({ dictionary, graphs: adjacencyGraphs })
}

/**
 * Refuses passwords that guessing begins with: usual ones, repetitions, rows of keys, and what is known of the person.
 * @param about names by which the person is known, which the password may not be made of
 * @throws Refusal `person.password_weak`
 */
export async function requireStrong(password: string, about: readonly (string | null | undefined)[]): Promise<void> {
  judge ??= loadJudge()
  const known = about.filter((one): one is string => Boolean(one))
  const { score } = (await judge).check(password.slice(0, JUDGED_CHARACTERS), known)
  if (score < LEAST_SCORE) throw new Refusal('person.password_weak')
}
