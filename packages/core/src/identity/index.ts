export {
  COURSE_ROLES,
  isScored,
  lti1Roles,
  lti13Roles,
  SITE_ROLES,
  teaches,
  type CourseRole,
  type SiteRole,
} from './roles.js'
export { disclose, DISCLOSURES, type DisclosedPerson, type Disclosure, type PersonFacts } from './disclosure.js'
export {
  countedAddress,
  GUESS_RATIONS,
  GUESS_WINDOW_MS,
  guessWaitMs,
  type GuessFacts,
  type Misses,
} from './guessing.js'
export { likenessesOf, scoresOf, type Likeness, type NamedLaunch, type ScoreAt } from './doubles.js'
export { plainUsername } from './username.js'
export {
  accountOf,
  ADMITS,
  identifierOf,
  judgeFirstVisit,
  matchedClaim,
  MATCHES,
  roleChange,
  saysAdministrator,
  type Admits,
  type FirstVisit,
  type FoundAccount,
  type Identifier,
  type IdentityClaims,
  type Match,
  type SignOnRule,
} from './sign-on.js'
