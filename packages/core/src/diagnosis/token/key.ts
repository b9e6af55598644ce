import type { Cause, Found } from '../cause.js'
import { identifierDifference } from '../nearly.js'
import { Proof } from '../proof.js'
import { shown, type Signed, type TokenCause, type TokenKeys } from './facts.js'
import { thumbprintsOf } from './thumbprint.js'

type Row = [name: string, value: string]

const nameOf = (kid: string) => `“${kid.slice(0, 60)}”`

/** The key that the header names is not there, or it is not the one that signed. */
export const key: TokenCause = ({ header, keys, signed }) => {
  const kid = header['kid']
  const evidence: Row[] = [['kid', shown(kid)], ...knownKeys(keys), ...signer(signed)]
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
  const found = signed ? bySigner(keys, signed, kid) : unsigned(keys, signed, kid)
  return found && { ...found, evidence: [...evidence, ...found.evidence] }
}

function knownKeys(keys: TokenKeys | null): Row[] {
  return keys
    ? [
        ['keys known', `${keys.now.map(({ kid }) => nameOf(kid)).join(', ') || 'none'} of ${keys.owner}`],
        ['keyset last read', keys.readAt ?? 'never'],
      ]
    : []
}

function signer(signed: Signed | null | undefined): Row[] {
  return signed ? [['signed by', `${nameOf(signed.key.kid)} of ${signed.owner}`]] : []
}

/** The key that verifies it is known: it is another one’s, one of before, or goes by another name. */
function bySigner(keys: TokenKeys, signed: Signed, kid: string): Found | undefined {
  const { proof } = signed
  if (signed.place === 'elsewhere')
    return {
      code: 'key_of_another',
      sentence: `The token is signed by a key of ${signed.owner}, and not of ${keys.owner}.`,
      evidence: [],
      ours: 'Look which of the two registrations is meant: the keyset address of one may have been entered in the other.',
      theirs: `Sign with the key of ${keys.owner}, or name the client identifier that the key belongs to.`,
      proof,
    }
  if (signed.place === 'before')
    return {
      code: 'key_withdrawn',
      sentence: `The token is signed by a key that ${keys.owner} published before, but no longer publishes.`,
      evidence: signed.until === null ? [] : [['last seen published', signed.until]],
      ours: null,
      theirs: 'Sign with a key that is published; leave an old one published while tokens by it are sent.',
      proof,
    }
  if (signed.key.kid === kid) return undefined
  if (keys.now.some((one) => one.kid === kid))
    return {
      code: 'signed_by_other_key',
      sentence: 'The token names one key of the keyset and is signed by another.',
      evidence: [],
      ours: null,
      theirs: 'Name the key that signs.',
      proof,
    }
  return {
    code: 'key_named_otherwise',
    sentence: `The token is signed by a published key, and calls it by another name than the keyset does${howNamed(kid, signed)}.`,
    evidence: [],
    ours: null,
    theirs: 'Give the key the same “kid” in the token’s header as in the keyset.',
    proof,
  }
}

/** How a name for a key comes from that key, or from its name. */
function howNamed(kid: string, { key: by }: Signed): string {
  if (thumbprintsOf(by).includes(kid)) return ': by its thumbprint'
  const difference = identifierDifference(kid, by.kid)
  return difference === undefined ? '' : `: ${difference}`
}

/** No key that is known verifies it, or there was nothing to verify. */
function unsigned(
  keys: TokenKeys,
  signed: null | undefined,
  kid: string,
): (Cause & { proof: Proof | undefined }) | undefined {
  const known = keys.now.map((one) => one.kid)
  const before = keys.before.find((one) => one.key.kid === kid)
  if (!known.includes(kid))
    return {
      code: 'key_unknown',
      sentence: before
        ? `The key that the token names was in the keyset of ${keys.owner} before, but no longer is.`
        : `The key that the token names is not in the keyset of ${keys.owner}: it was rotated, or the keyset is another one’s.`,
      evidence: before ? [['last seen published', before.until]] : [],
      ours: 'Compare the keyset’s address in the registration with what the tool’s end names.',
      theirs: 'Publish the key before signing with it, and leave it there while tokens by it live.',
      proof: Proof.byNoneOf([kid], known),
    }
  if (signed === undefined) return undefined
  return {
    code: 'signature',
    sentence:
      'The signature is by none of the keys of the keyset, the one that it names included, or the token was changed.',
    evidence: [],
    ours: null,
    theirs: 'Sign with the private key that belongs to the published one; nothing of the token may change afterwards.',
    proof: Proof.byNoneOf([signed], known),
  }
}
