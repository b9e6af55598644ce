import { CLAIM, LTI13_VERSION } from '../lti13/names.js'
import type { Claims } from '../lti13/jws.js'
import { keptBack, leaksOf, type SentFacts, type SentProblem } from './problem.js'

/** Claims of a resource link launch (LTI 1.3 core sections 5.3 and 5.4; OpenID Connect Core section 2). */
const REQUIRED = [
  'iss',
  'aud',
  'sub',
  'iat',
  'exp',
  'nonce',
  `${CLAIM}message_type`,
  `${CLAIM}version`,
  `${CLAIM}deployment_id`,
  `${CLAIM}target_link_uri`,
  `${CLAIM}resource_link`,
  `${CLAIM}roles`,
]
const OPTIONAL = [
  'name',
  'given_name',
  'family_name',
  'middle_name',
  'picture',
  'email',
  'locale',
  'azp',
  ...['context', 'tool_platform', 'launch_presentation', 'lis', 'custom', 'role_scope_mentor', 'lti1p1'].map(
    (name) => CLAIM + name,
  ),
]
const OF_NAME = ['name', 'given_name', 'family_name', 'middle_name']
const LONGEST_SECONDS = 3600
const MAX_ID_CHARACTERS = 255

/**
 * Holds the claims of an LTI 1.3 launch against the standard's table (LTI 1.3 core section 5) and against what the registration allows.
 * @returns nothing when they are as they should be
 */
export function checkSentClaims(claims: Claims, facts: SentFacts): SentProblem[] {
  const problems: SentProblem[] = []
  const say = (name: string, statement: string) => problems.push({ name, statement })
  const text = (name: string) => (typeof claims[name] === 'string' ? claims[name] : '')
  for (const name of REQUIRED)
    if (claims[name] === undefined || claims[name] === '')
      say(name, `“${short(name)}” is missing, which every launch has to say.`)
  for (const name of Object.keys(claims))
    // Claims of services and extensions carry a whole address as their name.
    if (!REQUIRED.includes(name) && !OPTIONAL.includes(name) && !/^(https?:|urn:)/.test(name))
      say(name, `“${name}” is neither in the standard’s table nor the claim of an extension.`)
  if (text(`${CLAIM}version`) !== LTI13_VERSION) say(`${CLAIM}version`, '“version” is not 1.3.0.')
  if (text(`${CLAIM}message_type`) !== 'LtiResourceLinkRequest')
    say(`${CLAIM}message_type`, '“message_type” is not that of a launch.')
  if (text('sub').length > MAX_ID_CHARACTERS) say('sub', '“sub” is longer than 255 characters.')
  const link = claims[`${CLAIM}resource_link`] as { id?: unknown } | undefined
  if (typeof link?.id !== 'string' || link.id === '' || link.id.length > MAX_ID_CHARACTERS)
    say(`${CLAIM}resource_link`, 'The link has no identifier of 1 to 255 characters.')
  const [iat, exp] = [Number(claims['iat']), Number(claims['exp'])]
  if (!(exp > iat && exp - iat <= LONGEST_SECONDS)) say('exp', '“exp” is not within an hour after “iat”.')

  const kept = keptBack(facts.disclosure)
  for (const name of OF_NAME)
    if (kept.name && claims[name] !== undefined) say(name, `“${name}” is sent, which the registration keeps back.`)
  const lis = claims[`${CLAIM}lis`] as { person_sourcedid?: unknown } | undefined
  if (kept.name && lis?.person_sourcedid !== undefined)
    say(`${CLAIM}lis`, '“person_sourcedid” is sent, which the registration keeps back.')
  if (kept.email && claims['email'] !== undefined) say('email', '“email” is sent, which the registration keeps back.')
  const roles: unknown = claims[`${CLAIM}roles`]
  const isLearner = Array.isArray(roles) && roles.some((role) => /membership#Learner$/.test(String(role)))
  if (isLearner !== (facts.as === 'learner'))
    say(`${CLAIM}roles`, `“roles” does not say that this is ${facts.as === 'learner' ? 'a learner' : 'an instructor'}.`)
  const parts = Object.entries(claims).map(([name, value]): [string, string] => [name, JSON.stringify(value ?? null)])
  return [...problems, ...leaksOf(parts, facts.secrets)]
}

function short(name: string): string {
  return name.startsWith(CLAIM) ? name.slice(CLAIM.length) : name
}
