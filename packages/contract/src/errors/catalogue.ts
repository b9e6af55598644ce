import type { ItemProblem, ItemsProblem } from '@bathyscribe/core/content'
import type { TableProblem } from '@bathyscribe/core/formats'
import type { JsonProblem } from '@bathyscribe/core/intake'
import type { AddressProblem } from '@bathyscribe/core/links'
import type { ConfigurationProblem, OutcomesProblem } from '@bathyscribe/core/lti1'
import type {
  AssertionProblem,
  AuthorizationProblem,
  DeepLinkingProblem,
  JwsProblem,
  KeysetProblem,
  MetadataProblem,
  ScoreProblem,
} from '@bathyscribe/core/lti13'
import type { OAuthProblem } from '@bathyscribe/core/oauth1'
import type { FractionProblem } from '@bathyscribe/core/scores'
import { CONTENT_ERRORS } from './content.js'
import { COURSES_ERRORS } from './courses.js'
import type { ErrorKind } from './kind.js'
import { PEOPLE_ERRORS } from './people.js'
import { PROTOCOL_ERRORS } from './protocol.js'
import { SIGN_ON_ERRORS } from './sign-on.js'
import { TOOLS_ERRORS } from './tools.js'

export type { ErrorKind } from './kind.js'

/** Kinds that core can find; the catalogue below must know every one of them. */
type CoreCode =
  | AssertionProblem['code']
  | AuthorizationProblem['code']
  | DeepLinkingProblem['code']
  | JwsProblem['code']
  | KeysetProblem['code']
  | MetadataProblem['code']
  | ScoreProblem['code']
  | ItemProblem['code']
  | ItemsProblem['code']
  | TableProblem['code']
  | JsonProblem['code']
  | ConfigurationProblem['code']
  | OAuthProblem['code']
  | OutcomesProblem['code']
  | FractionProblem['code']
  | AddressProblem['code']

/** Every error this product can answer, by its code. A code is never used again for something else. */
export const ERRORS = {
  ...PEOPLE_ERRORS,
  ...SIGN_ON_ERRORS,
  ...TOOLS_ERRORS,
  ...COURSES_ERRORS,
  ...CONTENT_ERRORS,
  ...PROTOCOL_ERRORS,
} as const satisfies Record<CoreCode, ErrorKind> & Record<string, ErrorKind>

export type ErrorCode = keyof typeof ERRORS
