import { lti1Roles, type CourseRole, type DisclosedPerson, type SiteRole } from '../identity/index.js'
import { oauthParameters, type Parameter, type SigningOptions } from '../oauth1/index.js'
import { customParameters } from './custom-parameters.js'

/** Where the tool is shown: inside our page, or in a window of its own. */
export const DOCUMENT_TARGETS = ['frame', 'window'] as const
export type DocumentTarget = (typeof DOCUMENT_TARGETS)[number]

/** The platform as it names itself to tools. */
export interface PlatformFacts {
  guid: string
  name: string
  description: string
  url: string
  contactEmail: string
  version: string
}

/** What a resource link launch says whichever version carries it. */
export interface LinkFacts {
  platform: PlatformFacts
  context: { id: string; label: string; title: string; sourcedId: string | null }
  link: { id: string; title: string; description: string }
  /** Already reduced to what the registration's tool may see. */
  person: DisclosedPerson
  courseRole: CourseRole | undefined
  siteRole: SiteRole
  presentation: { target: DocumentTarget; returnUrl: string; locale: string }
  /** Variables in it are resolved already. */
  custom: Readonly<Record<string, string>>
}

/** Everything an LTI 1.1 resource link launch says, before it is signed. */
export interface LaunchFacts extends LinkFacts {
  /** Present when the link can be scored. `resultId` is null for people who are not scored themselves. */
  outcome: { serviceUrl: string; resultId: string | null } | undefined
}

/** What every message of LTI 1.x says of person, course, page and platform. Empty values are left out. */
export function contextParameters(facts: Omit<LinkFacts, 'link' | 'custom'>): Parameter[] {
  const { platform, context, person, presentation } = facts
  return filled([
    ['user_id', person.subject],
    ['roles', lti1Roles(facts.courseRole, facts.siteRole)],
    ['lis_person_name_given', person.givenName],
    ['lis_person_name_family', person.familyName],
    ['lis_person_name_full', person.fullName],
    ['lis_person_contact_email_primary', person.email],
    ['lis_person_sourcedid', person.sourcedId],
    ['context_id', context.id],
    ['context_type', 'CourseSection'],
    ['context_title', context.title],
    ['context_label', context.label],
    ['lis_course_section_sourcedid', context.sourcedId],
    ['launch_presentation_locale', presentation.locale],
    ['launch_presentation_document_target', presentation.target === 'frame' ? 'iframe' : 'window'],
    ['launch_presentation_return_url', presentation.returnUrl],
    ['tool_consumer_info_product_family_code', 'bathyscribe'],
    ['tool_consumer_info_version', platform.version],
    ['tool_consumer_instance_guid', platform.guid],
    ['tool_consumer_instance_name', platform.name],
    ['tool_consumer_instance_description', platform.description],
    ['tool_consumer_instance_url', platform.url],
    ['tool_consumer_instance_contact_email', platform.contactEmail],
  ])
}

/** The parameters of `basic-lti-launch-request` (LTI 1.1.1 section 3), unsigned, empty values left out but those of custom parameters. */
export function launchParameters(facts: LaunchFacts): Parameter[] {
  const { link, outcome } = facts
  return [
    ['lti_message_type', 'basic-lti-launch-request'],
    ['lti_version', 'LTI-1p0'],
    ...filled([
      ['resource_link_id', link.id],
      ['resource_link_title', link.title],
      ['resource_link_description', link.description],
    ]),
    ...contextParameters(facts),
    ...filled([
      ['lis_outcome_service_url', outcome?.serviceUrl],
      ['lis_result_sourcedid', outcome?.resultId],
    ]),
    // A custom parameter is sent empty, too: a variable that the identity limits keep back says so that it was asked for.
    ...customParameters(facts.custom),
  ]
}

function filled(parameters: readonly (readonly [string, string | null | undefined])[]): Parameter[] {
  return parameters.filter((one): one is Parameter => one[1] !== null && one[1] !== undefined && one[1] !== '')
}

// Browsers post every line break of a form field as CR LF (HTML, constructing the entry list), so that is what must be signed.
function asPosted([name, value]: Parameter): Parameter {
  return [name, value.toWellFormed().replace(/\r\n|\r|\n/g, '\r\n')]
}

/**
 * Signs launch parameters for a form post to `launchUrl`. The URL's own query parameters enter the signature but are not
 * repeated among the fields (LTI 1.1.1 section 4.2).
 * @returns the fields of the form, in order, to be posted to `launchUrl` as it stands.
 */
export function signLaunch(launchUrl: string, parameters: readonly Parameter[], options: SigningOptions): Parameter[] {
  const posted = parameters.map(asPosted)
  const request = { method: 'POST', url: launchUrl, parameters: posted }
  return [...posted, ...oauthParameters(request, options, [['oauth_callback', 'about:blank']])]
}
