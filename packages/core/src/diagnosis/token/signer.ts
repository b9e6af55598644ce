import type { PublicKey } from '../../lti13/index.js'
import { Proof } from '../proof.js'
import {
  RSA_ALGORITHMS,
  type RsaAlgorithm,
  type Signed,
  type TokenFacts,
  type TokenKeys,
  type VerifyRsa,
} from './facts.js'
import { signatureForms, signingInputs } from './written.js'

type Known = Pick<Signed, 'key' | 'place' | 'owner' | 'until'>

const utf8 = new TextEncoder()
/** Keys that are tried with every algorithm and in every form. */
const MOST_IN_FORMS = 8

/**
 * Looks for the key by which a token verifies, whichever it names: first as it has to be, by the keys published now, those of before, and those of others; then by another
 * algorithm, and over the same claims written otherwise, by its own keys. At most a few hundred verifications.
 * @returns null when by none; undefined when there is no signature, or no key to try
 */
export function signerOf({ token, keys, others }: TokenFacts, verify: VerifyRsa): Signed | null | undefined {
  const [, , signature = ''] = token.split('.')
  const own = keys ? ownOf(keys) : []
  const all = [...own, ...others.map((one): Known => ({ ...one, place: 'elsewhere', until: null }))]
  if (all.length === 0 || signature.length < 20) return undefined
  const forms = signatureForms(signature)
  for (const { known, algorithm, text, odd } of attempts(token, own, all)) {
    const by = (...given: [Uint8Array, Uint8Array, PublicKey]) => verify(algorithm, ...given)
    const data = utf8.encode(text)
    for (const { what, bytes } of forms) {
      const proof = Proof.byVerifying(by, { data, signature: bytes, key: known.key })
      if (proof) return { ...known, algorithm, odd: what === null ? odd : [...odd, `the signature ${what}`], proof }
    }
  }
  return null
}

interface Attempt {
  known: Known
  algorithm: RsaAlgorithm
  /** What may have been signed, and what is odd about it. */
  text: string
  odd: string[]
}

/** In the order of how much they take: what was signed instead is put together only where all else has failed. */
function* attempts(token: string, own: readonly Known[], all: readonly Known[]): Generator<Attempt> {
  const sent = token.split('.', 2).join('.')
  for (const known of all) yield { known, algorithm: 'RS256', text: sent, odd: [] }
  const likely = own.slice(0, MOST_IN_FORMS)
  for (const known of likely)
    for (const algorithm of RSA_ALGORITHMS.slice(1)) yield { known, algorithm, text: sent, odd: [] }
  for (const { what, text } of signingInputs(token))
    for (const known of likely) yield { known, algorithm: 'RS256', text, odd: [what] }
}

function ownOf({ owner, now, before }: TokenKeys): Known[] {
  return [
    ...now.map((key): Known => ({ key, place: 'here', owner, until: null })),
    ...before.map(({ key, until }): Known => ({ key, place: 'before', owner, until })),
  ]
}
