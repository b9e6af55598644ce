import { stripHidden, visibleText } from '../text/index.js'
import { launchRefusal, type ToolAnswer } from './launch-answer.js'

/**
 * The same launch sent again with one thing changed, to learn what the tool objects to. The two decoys are wrong on purpose;
 * the candidates are mistakes seen in practice, each of which would be proven by the tool taking it.
 */
export const PROBES = ['trimmed_secret', 'other_secret', 'swapped', 'decoy_secret', 'decoy_key'] as const
export type ProbeName = (typeof PROBES)[number]

export interface ProbeCredentials {
  consumerKey: string
  sharedSecret: string
}

/** Another secret of the registration, and which it is. */
export interface OtherHeld {
  sharedSecret: string
  role: 'previous' | 'next'
}

/**
 * The credentials each probe signs with; a probe that would repeat the launch as it was is left out.
 * @param decoy a value that is certainly nobody's key or secret
 * @param other another secret of the same registration: the one before a rotation, or the one that is to come
 */
export function probeCredentials(
  held: ProbeCredentials,
  decoy: string,
  other?: OtherHeld,
): Partial<Record<ProbeName, ProbeCredentials>> {
  const trimmed = stripHidden(held.sharedSecret)
  return {
    decoy_secret: { ...held, sharedSecret: decoy },
    decoy_key: { ...held, consumerKey: decoy },
    ...(trimmed !== held.sharedSecret && { trimmed_secret: { ...held, sharedSecret: trimmed } }),
    ...(other &&
      other.sharedSecret !== held.sharedSecret && { other_secret: { ...held, sharedSecret: other.sharedSecret } }),
    ...(held.consumerKey !== held.sharedSecret && {
      swapped: { consumerKey: held.sharedSecret, sharedSecret: held.consumerKey },
    }),
  }
}

/** What servers answer at an address that is none, or none that forms are posted to (RFC 9110 sections 15.5.5, 15.5.6 and 15.5.11). */
const NO_ADDRESS = [404, 405, 410]

/** What a refused launch comes down to, with what is known of it. */
export type LaunchCause =
  | { code: 'server_error'; status: number }
  | { code: 'address_wrong'; status: number; url: string }
  | { code: 'key_or_secret_wrong' | 'secret_wrong'; key: string }
  | {
      code:
        | 'next_secret_is_held'
        | 'previous_secret_is_held'
        | 'secret_has_hidden_characters'
        | 'key_and_secret_swapped'
        | 'not_verified'
        | 'not_the_credentials'
    }

/**
 * Names the cause of a refused launch from how the tool answered the probes. A candidate that was taken is proof. Otherwise the
 * refusal is compared with those of the decoys: the same words as for a made-up secret, but not as for a made-up key, mean the
 * secret. The same words for both leave it open which of the two is wrong, and it says so; words that differ from both mean that
 * the credentials are not at fault.
 */
export function causeOfRefusal(
  refused: ToolAnswer,
  probes: Partial<Record<ProbeName, ToolAnswer>>,
  key: string,
  other?: Pick<OtherHeld, 'role'>,
): LaunchCause {
  if (refused.status >= 500) return { code: 'server_error', status: refused.status }
  const taken = (name: ProbeName) => probes[name] !== undefined && launchRefusal(probes[name]) === undefined
  // Who takes what is made up takes anything: no candidate is proof of anything then.
  if (taken('decoy_secret') || taken('decoy_key')) return { code: 'not_verified' }
  if (taken('trimmed_secret')) return { code: 'secret_has_hidden_characters' }
  if (taken('other_secret')) return { code: other?.role === 'next' ? 'next_secret_is_held' : 'previous_secret_is_held' }
  if (taken('swapped')) return { code: 'key_and_secret_swapped' }
  const likeSecret = sameAnswer(refused, probes.decoy_secret, key)
  const likeKey = sameAnswer(refused, probes.decoy_key, key)
  if (likeSecret && likeKey && NO_ADDRESS.includes(refused.status))
    return { code: 'address_wrong', status: refused.status, url: refused.url.slice(0, 200) }
  if (likeSecret && likeKey) return { code: 'key_or_secret_wrong', key }
  return likeSecret ? { code: 'secret_wrong', key } : { code: 'not_the_credentials' }
}

/** Two answers are the same when status and words agree, leaving aside the key sent, figures and long tokens, which differ each time. */
export function sameAnswer(a: ToolAnswer, b: ToolAnswer | undefined, consumerKey: string): boolean {
  return b !== undefined && gist(a, consumerKey) === gist(b, consumerKey)
}

function gist(answer: ToolAnswer, consumerKey: string): string {
  const words = answer.returned?.error ?? answer.failure ?? visibleText(answer.body)
  const folded = words
    .replaceAll(consumerKey, '…')
    .replace(/[A-Za-z0-9+/_=-]{16,}/g, '…')
    .replace(/\d+/g, '0')
    .slice(0, 2000)
  return `${answer.status} ${folded}`
}
