import { percentEncode } from '../../oauth1/encoding.js'
import type { SignatureCause } from './facts.js'

/** RFC 5849 section 3.4.2: both secrets are percent-encoded before they become the key. */
export const secretNotEncoded: SignatureCause = {
  code: 'secret_not_encoded',
  name: 'secret used without encoding it',
  sentence: 'The shared secret holds characters that must be percent-encoded in the signing key, and were not.',
  ours: 'Until the tool is mended, agree on a secret of letters and figures only.',
  theirs: 'Percent-encode the shared secret before it becomes the key of the signature (RFC 5849 section 3.4.2).',
  variants: ({ held: { sharedSecret } }) =>
    percentEncode(sharedSecret) === sharedSecret
      ? []
      : [{ macKey: `${sharedSecret}&`, evidence: [['signing key', 'the secret as it is, then “&”']] }],
}
