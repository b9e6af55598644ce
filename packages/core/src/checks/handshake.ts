import type { ToolAnswer } from './launch-answer.js'
import { sameAnswer, type ProbeName } from './refused-launch.js'
import type { Verdict } from './sounding.js'

/** What an exchange of unusable messages shows about key and secret, without launching anybody. */
export interface Handshake {
  verdict: Verdict
  statement: string
  remedy: string | null
}

/**
 * Judges how a tool answers a signed message that names no link and no person, beside the same under made-up credentials. A tool verifies the
 * signature first, so it objects to the missing parts only when key and secret are right, and to the signature when they are not.
 */
export function judgeHandshake(
  real: ToolAnswer,
  probes: Partial<Record<ProbeName, ToolAnswer>>,
  consumerKey: string,
): Handshake {
  const like = (name: ProbeName) => sameAnswer(real, probes[name], consumerKey)
  if (real.failure !== null || real.status >= 500)
    return {
      verdict: 'skipped',
      statement: 'Key and secret were not tried, because the launch address does not answer.',
      remedy: null,
    }
  if (!like('decoy_secret') && !like('decoy_key'))
    return {
      verdict: 'pass',
      statement: `The tool tells our key “${consumerKey}” and its secret from made-up ones: both ends agree.`,
      remedy: null,
    }
  // Under better credentials the tool would object to something else than it does to made-up ones.
  const better = (name: ProbeName) =>
    probes[name] !== undefined &&
    !sameAnswer(probes[name], probes.decoy_secret, consumerKey) &&
    !sameAnswer(probes[name], probes.decoy_key, consumerKey)
  if (better('trimmed_secret'))
    return {
      verdict: 'fail',
      statement: 'The shared secret carries blanks or invisible characters: without them the tool knows it.',
      remedy: 'Enter the shared secret again without the characters around it.',
    }
  if (better('other_secret'))
    return {
      verdict: 'fail',
      statement:
        'The tool knows another secret of this registration than the one that launches are signed with: the one before, or the next.',
      remedy: 'Look at “Keys over time” on the tool’s page, and have both ends use the same.',
    }
  if (better('swapped'))
    return {
      verdict: 'fail',
      statement: 'Consumer key and shared secret are swapped: the other way round the tool knows them.',
      remedy: 'Exchange consumer key and shared secret in the registration.',
    }
  if (like('decoy_secret') && !like('decoy_key'))
    return {
      verdict: 'fail',
      statement: `The shared secret is wrong: the tool knows the key “${consumerKey}”, but answers exactly as it does to a made-up secret.`,
      remedy: 'Copy the shared secret from the tool’s end again and enter it in the registration.',
    }
  return {
    verdict: 'warn',
    statement: `The tool answers our key “${consumerKey}” and made-up ones alike: it does not know the key, or it does not tell.`,
    remedy: 'Compare the key with what the tool’s end shows, letter by letter; then run a sounding, which launches.',
  }
}
