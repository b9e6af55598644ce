export {
  DEEP_LINKING_CLAIM,
  DEEP_LINKING_MAX_CHARACTERS,
  deepLinkingClaims,
  readDeepLinkingAnswer,
  type DeepLinkingAnswer,
  type DeepLinkingFacts,
  type DeepLinkingProblem,
} from './deep-linking.js'
export {
  base64url,
  unbase64url,
  claimsAsTheyStand,
  readJws,
  verifyJws,
  writeJws,
  type Claims,
  type Jws,
  type JwsProblem,
  type PublicKey,
  type Sign,
  type TokenType,
  type Verify,
} from './jws.js'
export { KEYSET_MAX_KEYS, readKeyset, type KeysetProblem } from './keyset.js'
export { ID_TOKEN_SECONDS, launchClaims, type Launch13Facts, type Message13Facts } from './launch.js'
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
export {
  CLAIM,
  COURSE_FILES_CLAIM,
  COURSE_FILES_MEDIA_TYPE,
  COURSE_FILES_SCOPE,
  GROUPS_CLAIM,
  GROUPS_MEDIA_TYPE,
  GROUPS_SCOPE,
  isScope,
  LTI13_VERSION,
  MESSAGE_TYPES,
  OUTCOMES_CLAIM,
  OUTCOMES_SCOPE,
  scopeNamed,
  SCOPES,
  USUAL_SCOPES,
  type MessageType,
  type Scope,
} from './names.js'
export { codeVerifies, isCodeChallenge } from './pkce.js'
export { reviewClaims, type ReviewFacts } from './review.js'
export { isReviewable, readLineItem, type LineItemProblem, type WantedLineItem } from './line-items.js'
export {
  MEMBERSHIP_CLAIM,
  MEMBERSHIP_SCOPE,
  memberMessage,
  MEMBERSHIPS_MEDIA_TYPE,
  memberView,
  rolesAsked,
  type MemberFacts,
} from './memberships.js'
export {
  AGS_CLAIM,
  LINE_ITEM_MEDIA_TYPE,
  LINE_ITEM_READ_SCOPE,
  LINE_ITEM_SCOPE,
  LINE_ITEMS_MEDIA_TYPE,
  readScore,
  RESULT_READ_SCOPE,
  RESULTS_MEDIA_TYPE,
  SCORE_MEDIA_TYPE,
  SCORE_SCOPE,
  type ScoreProblem,
  type SentScore,
} from './scores.js'
export {
  configurationDocument,
  readToolMetadata,
  writeToolMetadata,
  MetadataProblem,
  type ToolMessage,
  type ToolMetadata,
} from './tool-metadata.js'
export {
  accessTokenClaims,
  ASSERTION_SECONDS,
  bearerToken,
  checkAccessToken,
  checkAssertion,
  grantedScopes,
  holdsScope,
  type Assertion,
  type AssertionProblem,
} from './token.js'
