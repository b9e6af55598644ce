import { Proof } from '../proof.js'
import type { TokenCause } from './facts.js'
import { oddForm } from './written.js'

/** A token is written in base64url, without padding, blanks or line ends (RFC 7515 sections 2 and 7.1). */
export const form: TokenCause = ({ token }) => {
  const what = oddForm(token)
  return what === undefined
    ? undefined
    : {
        code: 'token_form',
        sentence: `The token is written ${what}.`,
        evidence: [['must be', 'base64url without “=”, in three parts joined by full stops']],
        ours: null,
        theirs: 'Encode header, claims and signature as base64url without padding (RFC 7515 section 2).',
        proof: Proof.byNoneOf([/^[\w.-]+$/.test(token)], [true]),
      }
}

/** The signature is right, of something else than what was sent. */
export const signedOtherwise: TokenCause = ({ signed }) =>
  !signed || signed.odd.length === 0
    ? undefined
    : {
        code: 'token_signed_otherwise',
        sentence: `The signature is made by a known key, but of the same token written otherwise: ${signed.odd.join('; ')}.`,
        evidence: [['key', `“${signed.key.kid.slice(0, 60)}” of ${signed.owner}`]],
        ours: null,
        theirs: 'Sign the two parts exactly as they are sent, and write the signature as base64url without padding (RFC 7515 section 5.1).', // oxfmt-ignore
        proof: signed.proof,
      }
