import type { Found } from '../cause.js'
import { Proof } from '../proof.js'
import { shown, type TokenCause } from './facts.js'

/** LTI 1.3 takes RS256 only (Security Framework 1.0 section 5.1.2). */
export const algorithm: TokenCause = ({ header, signed }) => {
  const { alg } = header
  if (alg === 'RS256') return signed && signed.algorithm !== 'RS256' ? named(signed) : undefined
  return {
    code: 'algorithm',
    sentence: `The token is signed by “${shown(alg)}”; only RS256 is taken.`,
    evidence: [
      ['alg', shown(alg)],
      ['must be', 'RS256'],
      ...(signed ? [['signed by', `“${signed.key.kid.slice(0, 60)}”, ${signed.algorithm}`] as [string, string]] : []),
    ],
    ours: null,
    theirs: 'Sign with RSA and SHA-256, and say so in the header.',
    proof: Proof.byNoneOf([alg], ['RS256']),
  }
}

/** The header says one, and it was signed by another. */
function named({ algorithm: used, proof }: { algorithm: string; proof: Proof }): Found {
  return {
    code: 'algorithm_named_otherwise',
    sentence: `The token’s header names RS256, and its signature is one of ${used}.`,
    evidence: [
      ['alg', 'RS256'],
      ['signed by', used],
    ],
    ours: null,
    theirs: 'Sign with RSA (PKCS #1 version 1.5) and SHA-256, as the header says.',
    proof,
  }
}
