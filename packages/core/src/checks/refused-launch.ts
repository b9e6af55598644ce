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

export interface Cause {
  code:
    | 'server_error'
    | 'other_secret_is_held'
    | 'secret_has_hidden_characters'
    | 'key_and_secret_swapped'
    | 'secret_wrong'
    | 'key_or_secret_wrong'
    | 'not_verified'
    | 'address_wrong'
    | 'not_the_credentials'
  statement: string
  remedy: string
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
  consumerKey: string,
  other?: Pick<OtherHeld, 'role'>,
): Cause {
  if (refused.status >= 500)
    return {
      code: 'server_error',
      statement: `The tool’s own server failed with ${refused.status}: it never came to judge the launch.`,
      remedy: 'Ask the tool’s support; the wire entry has the time and what was sent.',
    }
  const taken = (name: ProbeName) => probes[name] !== undefined && launchRefusal(probes[name]) === undefined
  if (taken('trimmed_secret'))
    return {
      code: 'secret_has_hidden_characters',
      statement: 'The shared secret carries blanks or invisible characters: without them the tool takes the launch.',
      remedy: 'Enter the shared secret again without the characters around it.',
    }
  if (taken('other_secret'))
    return other?.role === 'next'
      ? {
          code: 'other_secret_is_held',
          statement: 'The tool has the next secret already: signed with that it takes the launch.',
          remedy:
            'End the old secret on the tool’s page under “Keys over time”; launches are then signed with the new one.',
        }
      : {
          code: 'other_secret_is_held',
          statement: 'The tool still has the previous secret: signed with that it takes the launch.',
          remedy:
            'Enter the new secret at the tool’s end; until then enter the previous one in the registration again.',
        }
  if (taken('swapped'))
    return {
      code: 'key_and_secret_swapped',
      statement: 'Consumer key and shared secret are swapped: the other way round the tool takes the launch.',
      remedy: 'Exchange consumer key and shared secret in the registration.',
    }
  if (taken('decoy_secret') || taken('decoy_key'))
    return {
      code: 'not_verified',
      statement: 'The tool takes the same launch under a made-up key or secret: it does not verify what it receives.',
      remedy: 'Ask the tool’s support why launches are not verified, and what it refused this time.',
    }
  const likeSecret = sameAnswer(refused, probes.decoy_secret, consumerKey)
  const likeKey = sameAnswer(refused, probes.decoy_key, consumerKey)
  if (likeSecret && likeKey && NO_ADDRESS.includes(refused.status))
    return {
      code: 'address_wrong',
      statement: `Whatever key and secret, the tool’s server answers ${refused.status} at ${refused.url.slice(0, 200)}: ${
        refused.status === 405
          ? 'the address takes no launches.'
          : 'nothing stands at the address; or, less often, a tool answers so to a key that it does not know.'
      }`,
      remedy: 'Compare the launch address with what the tool’s end shows, letter by letter; then the key.',
    }
  if (likeSecret && likeKey)
    return {
      code: 'key_or_secret_wrong',
      statement: `The tool answers as it does to a made-up key: it does not know the consumer key “${consumerKey}”, or it does not tell a wrong key from a wrong shared secret.`,
      remedy:
        'Compare the key with what the tool’s end shows, letter by letter, then the secret, and enter them again.',
    }
  if (likeSecret)
    return {
      code: 'secret_wrong',
      statement: `The shared secret is wrong: the tool knows the key “${consumerKey}”, but answers exactly as it does to a made-up secret.`,
      remedy: 'Copy the shared secret from the tool’s end again and enter it in the registration.',
    }
  return {
    code: 'not_the_credentials',
    statement: 'Key and secret are not what the tool objects to: it answers differently to made-up ones.',
    remedy: 'Read the tool’s own words above, and send them with the wire entry to its support.',
  }
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
