import { SIGNATURE_METHODS } from '../../oauth1/digest.js'
import type { SignatureCause } from './facts.js'

export const otherDigest: SignatureCause = {
  code: 'other_digest',
  name: 'SHA-1 in place of SHA-256',
  sentence: 'The signature was computed with the other hash than the one that the message names.',
  ours: 'Agree on one signature method with the tool’s end, and set it in the registration.',
  theirs: 'Name the method that is used in oauth_signature_method.',
  variants: ({ signatureMethod }) =>
    SIGNATURE_METHODS.filter((method) => method !== signatureMethod).map((method) => ({
      signatureMethod: method,
      evidence: [
        ['named', signatureMethod],
        ['used', method],
      ],
    })),
}
