export { decodeForm, percentEncode, type Parameter } from './encoding.js'
export { normaliseParameters, signatureBaseString, splitAddress, type SignedRequest } from './base-string.js'
export { bodyHash, isSignatureMethod, SIGNATURE_METHODS, type SignatureMethod } from './digest.js'
export { formatAuthorizationHeader, parseAuthorizationHeader } from './authorization-header.js'
export { oauthParameters, signatureOf, type SigningOptions } from './sign.js'
export {
  readOAuthParameters,
  verifyRequest,
  type OAuthParameters,
  type OAuthProblem,
  type VerificationOptions,
} from './verify.js'
