export { checkInitiation, type InitiationFinding } from './initiation.js'
export {
  base64url,
  unbase64url,
  readJws,
  verifyJws,
  writeJws,
  type Claims,
  type Jws,
  type JwsProblem,
  type PublicKey,
  type Sign,
  type Verify,
} from './jws.js'
export { KEYSET_MAX_KEYS, readKeyset, type KeysetProblem } from './keyset.js'
export { ID_TOKEN_SECONDS, launchClaims, type Launch13Facts } from './launch.js'
export {
  addressDifference,
  checkAuthorization,
  initiationParameters,
  readHints,
  writeHints,
  type AuthorizationProblem,
  type AuthorizationRequest,
  type Hints,
  type LoginHint,
} from './login.js'
export { CLAIM, isScope, LTI13_VERSION, MESSAGE_TYPES, SCOPES, type MessageType, type Scope } from './names.js'
export {
  configurationDocument,
  readToolMetadata,
  writeToolMetadata,
  type MetadataProblem,
  type ToolMessage,
  type ToolMetadata,
} from './tool-metadata.js'
export { accessTokenClaims, checkAssertion, grantedScopes, type Assertion, type AssertionProblem } from './token.js'
