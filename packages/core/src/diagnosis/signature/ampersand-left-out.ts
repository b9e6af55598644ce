import { percentEncode } from '../../oauth1/encoding.js'
import type { SignatureCause } from './facts.js'

/** RFC 5849 section 3.4.2: the key ends in “&”, even where there is no token secret. */
export const ampersandLeftOut: SignatureCause = {
  code: 'ampersand_left_out',
  name: 'signing key without its “&”',
  sentence: 'The signing key lacks the “&” that stands behind the secret even without a token secret.',
  ours: null,
  theirs: 'Sign with the encoded secret followed by “&” (RFC 5849 section 3.4.2).',
  variants: ({ held: { sharedSecret } }) => [
    { macKey: percentEncode(sharedSecret), evidence: [['signing key', 'the secret without “&” behind it']] },
  ],
}
