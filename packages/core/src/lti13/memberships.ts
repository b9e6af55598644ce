import {
  disclose,
  lti13Roles,
  type CourseRole,
  type Disclosure,
  type PersonFacts,
  type SiteRole,
} from '../identity/index.js'
import { entryOf } from '../text/index.js'
import type { Claims } from './jws.js'
import { CLAIM } from './names.js'

/** Names and Role Provisioning Services 2.0. */
const NRPS = 'https://purl.imsglobal.org/spec/lti-nrps/'
export const MEMBERSHIP_SCOPE = `${NRPS}scope/contextmembership.readonly`
export const MEMBERSHIP_CLAIM = `${NRPS}claim/namesroleservice`
export const MEMBERSHIPS_MEDIA_TYPE = 'application/vnd.ims.lti-nrps.v2.membershipcontainer+json'

const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'

/** Somebody of a course as a roster knows them. */
export interface MemberFacts extends PersonFacts {
  courseRole: CourseRole
  siteRole: SiteRole
  status: 'Active' | 'Deleted'
  groups: readonly string[]
}

/** One member (NRPS 2.0 section 2.2), with no more of the identity than the registration allows. Of those who left only the identifier is said. */
export function memberView(member: MemberFacts, disclosure: Disclosure, message?: Claims): Claims {
  const seen = disclose(member, disclosure)
  const left = member.status === 'Deleted'
  return {
    status: member.status,
    user_id: seen.subject,
    roles: lti13Roles(member.courseRole, member.siteRole),
    ...(!left && {
      ...(seen.fullName && { name: seen.fullName }),
      ...(seen.givenName && { given_name: seen.givenName }),
      ...(seen.familyName && { family_name: seen.familyName }),
      ...(seen.email && { email: seen.email }),
      ...(seen.sourcedId && { lis_person_sourcedid: seen.sourcedId }),
      ...(member.groups.length > 0 && { group_enrollments: member.groups.map((id) => ({ group_id: id })) }),
      ...(message && { message: [message] }),
    }),
  }
}

/** What a launch of the link would say of this member beside the roster (NRPS 2.0 section 2.2.3). */
export function memberMessage(custom: Readonly<Record<string, string>>): Claims {
  return {
    [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
    ...(Object.keys(custom).length > 0 && { [`${CLAIM}custom`]: custom }),
  }
}

const ROLE_NAMES: Record<string, readonly CourseRole[]> = {
  Instructor: ['instructor', 'teaching_assistant'],
  Learner: ['learner', 'test_learner'],
}

/**
 * The course roles that a `role` filter asks for (NRPS 2.0 section 2.4.1): the full name or, as tools do, the short one.
 * @returns an empty list for roles that nobody can have here
 */
export function rolesAsked(role: string): readonly CourseRole[] {
  const short = role.startsWith(`${MEMBERSHIP}#`) ? role.slice(MEMBERSHIP.length + 1) : role
  if (role === `${MEMBERSHIP}/Instructor#TeachingAssistant` || short === 'TeachingAssistant')
    return ['teaching_assistant']
  return entryOf(ROLE_NAMES, short) ?? []
}
