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
  const [head = '', body = '', signature = ''] = token.split('.')
  const own = keys ? ownOf(keys) : []
  const all = [...own, ...others.map((one): Known => ({ ...one, place: 'elsewhere', until: null }))]
  if (all.length === 0 || signature.length < 20) return undefined
  const sent = utf8.encode(`${head}.${body}`)
  const forms = signatureForms(signature)
  const tried = (of: Known, algorithm: RsaAlgorithm, data: Uint8Array, form: (typeof forms)[number], odd: string[]) => {
    const by = (...given: [Uint8Array, Uint8Array, PublicKey]) => verify(algorithm, ...given)
    const proof = Proof.byVerifying(by, { data, signature: form.bytes, key: of.key })
    return proof && { ...of, algorithm, odd: form.what === null ? odd : [...odd, `the signature ${form.what}`], proof }
  }
  for (const form of forms)
    for (const one of all) {
      const found = tried(one, 'RS256', sent, form, [])
      if (found) return found
    }
  const likely = own.slice(0, MOST_IN_FORMS)
  for (const form of forms)
    for (const one of likely)
      for (const algorithm of RSA_ALGORITHMS.slice(1)) {
        const found = tried(one, algorithm, sent, form, [])
        if (found) return found
      }
  for (const { what, text } of signingInputs(token)) {
    const data = utf8.encode(text)
    for (const form of forms)
      for (const one of likely) {
        const found = tried(one, 'RS256', data, form, [what])
        if (found) return found
      }
  }
  return null
}

function ownOf({ owner, now, before }: TokenKeys): Known[] {
  return [
    ...now.map((key): Known => ({ key, place: 'here', owner, until: null })),
    ...before.map(({ key, until }): Known => ({ key, place: 'before', owner, until })),
  ]
}
