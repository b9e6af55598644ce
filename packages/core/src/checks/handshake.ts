import type { ToolAnswer } from './launch-answer.js'
import { found, type Found } from './findings/catalogue.js'
import { sameAnswer, type ProbeName } from './refused-launch.js'

/**
 * Judges how a tool answers a signed message that names no link and no person, beside the same under made-up credentials. A tool verifies the
 * signature first, so it objects to the missing parts only when key and secret are right, and to the signature when they are not.
 */
export function judgeHandshake(real: ToolAnswer, probes: Partial<Record<ProbeName, ToolAnswer>>, key: string): Found {
  const like = (name: ProbeName) => sameAnswer(real, probes[name], key)
  if (real.failure !== null || real.status >= 500) return found('key and secret', 'no_answer', {})
  if (!like('decoy_secret') && !like('decoy_key')) return found('key and secret', 'agree', { key })
  // Under better credentials the tool would object to something else than it does to made-up ones.
  const better = (name: ProbeName) =>
    probes[name] !== undefined &&
    !sameAnswer(probes[name], probes.decoy_secret, key) &&
    !sameAnswer(probes[name], probes.decoy_key, key)
  if (better('trimmed_secret')) return found('key and secret', 'hidden_characters', {})
  if (better('other_secret')) return found('key and secret', 'other_secret', {})
  if (better('swapped')) return found('key and secret', 'swapped', {})
  return like('decoy_secret') && !like('decoy_key')
    ? found('key and secret', 'secret_wrong', { key })
    : found('key and secret', 'not_told', { key })
}
