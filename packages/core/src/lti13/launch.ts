import { lti13Roles } from '../identity/index.js'
import type { LinkFacts } from '../lti1/launch.js'
import { hmacBase64 } from '../oauth1/digest.js'
import type { Claims } from './jws.js'
import { CLAIM, LTI13_VERSION, type MessageType } from './names.js'

/** What every message of LTI 1.3 says of sender, person, course, page and platform. */
export interface Message13Facts extends Omit<LinkFacts, 'link'> {
  issuer: string
  clientId: string
  deploymentId: string
  nonce: string
  nowSeconds: number
  targetLinkUri: string
  /** Claims of services that the tool may use here. */
  services?: Claims
}

/** Everything an LTI 1.3 resource link launch says. */
export interface Launch13Facts extends Message13Facts, Pick<LinkFacts, 'link'> {
  /** The pair of the 1.1 registration that this one came from, so that the tool knows people and links again. */
  migration?: { consumerKey: string; sharedSecret: string } | undefined
}

/** An id_token may be used this long (Security Framework 1.0 section 5.1.3.1 leaves it to the platform). */
export const ID_TOKEN_SECONDS = 300

/** The claims of `LtiResourceLinkRequest` (LTI 1.3 core, sections 5.3 and 5.4). Empty values are left out. */
export function launchClaims(facts: Launch13Facts): Claims {
  const { link } = facts
  return {
    ...messageClaims('LtiResourceLinkRequest', facts),
    [`${CLAIM}resource_link`]: filled({ id: link.id, title: link.title, description: link.description }),
    ...(facts.migration && {
      [`${CLAIM}lti1p1`]: migrationClaim(facts, facts.migration, facts.nowSeconds + ID_TOKEN_SECONDS),
    }),
  }
}

/** The claims that messages of every type share (LTI 1.3 core, section 5.3). Empty values are left out. */
export function messageClaims(type: MessageType, facts: Message13Facts): Claims {
  const { platform, context, person, presentation } = facts
  return {
    iss: facts.issuer,
    aud: facts.clientId,
    sub: person.subject,
    iat: facts.nowSeconds,
    exp: facts.nowSeconds + ID_TOKEN_SECONDS,
    nonce: facts.nonce,
    ...filled({
      name: person.fullName,
      given_name: person.givenName,
      family_name: person.familyName,
      email: person.email,
      locale: presentation.locale,
    }),
    [`${CLAIM}message_type`]: type,
    [`${CLAIM}version`]: LTI13_VERSION,
    [`${CLAIM}deployment_id`]: facts.deploymentId,
    [`${CLAIM}target_link_uri`]: facts.targetLinkUri,
    [`${CLAIM}roles`]: lti13Roles(facts.courseRole, facts.siteRole),
    [`${CLAIM}context`]: {
      ...filled({ id: context.id, label: context.label, title: context.title }),
      type: ['http://purl.imsglobal.org/vocab/lis/v2/course#CourseSection'],
    },
    [`${CLAIM}tool_platform`]: filled({
      guid: platform.guid,
      name: platform.name,
      description: platform.description,
      url: platform.url,
      contact_email: platform.contactEmail,
      product_family_code: 'bathyscribe',
      version: platform.version,
    }),
    [`${CLAIM}launch_presentation`]: filled({
      document_target: presentation.target === 'frame' ? 'iframe' : 'window',
      return_url: presentation.returnUrl,
      locale: presentation.locale,
    }),
    ...claimUnlessEmpty('lis', {
      person_sourcedid: person.sourcedId,
      course_section_sourcedid: context.sourcedId,
    }),
    ...claimUnlessEmpty('custom', facts.custom, true),
    ...facts.services,
  }
}

/** The `lti1p1` claim (LTI 1.3 migration guide): proves that we held the pair, without showing the secret. */
function migrationClaim(
  facts: Pick<Launch13Facts, 'deploymentId' | 'issuer' | 'clientId' | 'nonce'>,
  { consumerKey, sharedSecret }: NonNullable<Launch13Facts['migration']>,
  exp: number,
): Claims {
  const signed = [consumerKey, facts.deploymentId, facts.issuer, facts.clientId, exp, facts.nonce].join('&')
  return {
    oauth_consumer_key: consumerKey,
    oauth_consumer_key_sign: hmacBase64('HMAC-SHA256', sharedSecret, signed),
  }
}

function filled(values: Readonly<Record<string, string | null | undefined>>): Record<string, string> {
  return Object.fromEntries(
    Object.entries(values).filter(
      (one): one is [string, string] => one[1] !== undefined && one[1] !== null && one[1] !== '',
    ),
  )
}

function claimUnlessEmpty(
  name: string,
  values: Readonly<Record<string, string | null | undefined>>,
  keepEmptyValues = false,
): Claims {
  const kept = keepEmptyValues ? values : filled(values)
  return Object.keys(kept).length > 0 ? { [`${CLAIM}${name}`]: kept } : {}
}
