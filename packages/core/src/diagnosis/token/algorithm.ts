import { Proof } from '../proof.js'
import { shown, type TokenCause } from './facts.js'

/** LTI 1.3 takes RS256 only (Security Framework 1.0 section 5.1.2). */
export const algorithm: TokenCause = ({ header }) =>
  header['alg'] === 'RS256'
    ? undefined
    : {
        code: 'algorithm',
        sentence: `The token is signed by “${shown(header['alg'])}”; only RS256 is taken.`,
        evidence: [
          ['alg', shown(header['alg'])],
          ['must be', 'RS256'],
        ],
        ours: null,
        theirs: 'Sign with RSA and SHA-256, and say so in the header.',
        proof: Proof.byNoneOf([header['alg']], ['RS256']),
      }
