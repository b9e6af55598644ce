import { Proof } from '../proof.js'
import { shown, type TokenCause } from './facts.js'

/** The key that the header names is not there, or it is not the one that signed. */
export const key: TokenCause = ({ header, keys, signedBy }) => {
  const kid = header['kid']
  const evidence: [string, string][] = [
    ['kid', shown(kid)],
    ...(keys
      ? ([
          ['keys known', `${keys.ids.map((one) => `“${one.slice(0, 60)}”`).join(', ') || 'none'} of ${keys.owner}`],
          ['keyset last read', keys.readAt ?? 'never'],
        ] as [string, string][])
      : []),
  ]
  if (typeof kid !== 'string' || kid === '')
    return {
      code: 'key_id_missing',
      sentence: 'The token’s header names no key.',
      evidence,
      ours: null,
      theirs: 'Name the key in the header’s “kid”.',
      proof: Proof.byNoneOf([typeof kid === 'string' && kid !== ''], [true]),
    }
  if (!keys || header['alg'] !== 'RS256') return undefined
  if (!keys.ids.includes(kid) && typeof signedBy === 'string')
    return {
      code: 'key_named_otherwise',
      sentence: 'The token is signed by a published key, and calls it by another name than the keyset does.',
      evidence: [...evidence, ['signed by', `“${signedBy.slice(0, 60)}”`]],
      ours: null,
      theirs: 'Give the key the same “kid” in the token’s header as in the keyset.',
      proof: Proof.byNoneOf([kid], keys.ids),
    }
  if (!keys.ids.includes(kid))
    return {
      code: 'key_unknown',
      sentence: `The key that the token names is not in the keyset of ${keys.owner}: it was rotated, or the keyset is another one’s.`,
      evidence,
      ours: 'Compare the keyset’s address in the registration with what the tool’s end names.',
      theirs: 'Publish the key before signing with it, and leave it there while tokens by it live.',
      proof: Proof.byNoneOf([kid], keys.ids),
    }
  if (signedBy === undefined || signedBy === kid) return undefined
  return signedBy === null
    ? {
        code: 'signature',
        sentence:
          'The signature is by none of the keys of the keyset, the one that it names included, or the token was changed.',
        evidence,
        ours: null,
        theirs:
          'Sign with the private key that belongs to the published one; nothing of the token may change afterwards.',
        proof: Proof.byNoneOf([signedBy], keys.ids),
      }
    : {
        code: 'signed_by_other_key',
        sentence: 'The token names one key of the keyset and is signed by another.',
        evidence: [...evidence, ['signed by', signedBy]],
        ours: null,
        theirs: 'Name the key that signs.',
        proof: Proof.byNoneOf([signedBy], [kid]),
      }
}
