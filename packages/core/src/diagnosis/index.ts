export { concluded, faultsIn, partsOfCode, type Cause, type Diagnosis, type Found } from './cause.js'
export { Proof } from './proof.js'
export { diagnoseBaseString, diagnoseSignature, MISTAKES } from './signature/index.js'
export type { BaseStringFacts, HeldSecret, SignatureFacts } from './signature/facts.js'
export { diagnoseBodyHash } from './body-hash.js'
export { diagnoseClock, isInMilliseconds } from './clock.js'
export { diagnoseConsumerKey } from './consumer-key.js'
export { addressDifference, nearestAddress } from './difference.js'
export { diagnoseToken } from './token/index.js'
export {
  isOurs,
  kindOfToken,
  type TokenFacts,
  type TokenKeys,
  type TokenKind,
  type TokenTool,
  type VerifyRsa,
} from './token/facts.js'
export { identifierDifference } from './nearly.js'
export { tokenParts } from './token/written.js'
export { readAllPasted, readPasted, MOST_MESSAGES, MOST_PASTED, type Pasted } from './pasted/index.js'
export { compareMessages, type Difference } from './compare-messages.js'
export {
  earlierAddress,
  objectionIn,
  objectionWords,
  readObjection,
  type Objected,
  type Objection,
  type SentFacts,
} from './tool-words.js'
export { asDoubted, CAUSE_CODES, MOST_WRONG, trackRecord, type CountedCause, type TrackRecord } from './track-record.js'
export { LETTER_LANGUAGES, supportLetter, type LetterFacts, type LetterLanguage } from './letter/index.js'
