import { found, type Found } from '../findings/catalogue.js'
import type { ToolAnswer } from '../launch-answer.js'
import { unlessHindered, type Probes } from './credentials.js'
import { hindranceOf, isInTheWay } from './hindrance.js'

/**
 * Judges how a tool answers a signed message that names no link and no person, beside the same under made-up credentials. A tool verifies the
 * signature first, so it objects to the missing parts only when key and secret are right, and to the signature when they are not.
 */
export async function judgeHandshake(real: ToolAnswer, probes: Probes, key: string): Promise<Found> {
  const what = hindranceOf(real)
  if (what === 'no_answer' || what === 'server_error') return found('key and secret', 'no_answer', {})
  if (what !== undefined && isInTheWay(what)) return found('key and secret', 'hindered', { what, status: real.status })
  return unlessHindered(
    () => judged(probes, key),
    (instead, status) => found('key and secret', 'hindered', { what: instead, status }),
  )
}

async function judged(probes: Probes, key: string): Promise<Found> {
  const secret = await probes.compare('again', 'decoy_secret')
  const byKey = await probes.compare('again', 'decoy_key')
  if (secret === 'different' && byKey === 'different') return found('key and secret', 'agree', { key })
  // Under better credentials the tool would object to something else than it does to made-up ones, and to these.
  for (const [candidate, code] of BETTER)
    if (
      probes.has(candidate) &&
      (await probes.compare(candidate, 'decoy_secret')) === 'different' &&
      (await probes.compare(candidate, 'decoy_key')) === 'different' &&
      (await probes.compare(candidate, 'again')) === 'different'
    )
      return found('key and secret', code, {})
  if (secret === 'alike' && byKey === 'different') return found('key and secret', 'secret_wrong', { key })
  return secret === 'alike' && byKey === 'alike'
    ? found('key and secret', 'not_told', { key })
    : found('key and secret', 'not_clear', {})
}

const BETTER = [
  ['trimmed_secret', 'hidden_characters'],
  ['other_secret', 'other_secret'],
  ['swapped', 'swapped'],
] as const
