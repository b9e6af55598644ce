/** Prefix of the claims of LTI 1.3 (core specification, section 5.3). */
export const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
export const LTI13_VERSION = '1.3.0'
export const MESSAGE_TYPES = ['LtiResourceLinkRequest', 'LtiDeepLinkingRequest', 'LtiSubmissionReviewRequest'] as const
export type MessageType = (typeof MESSAGE_TYPES)[number]

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
/** Scopes of services that can be granted, with what each lets a tool do, for people (AGS 2.0, NRPS 2.0, Course Groups 1.0). */
export const SCOPES = {
  [`${AGS}lineitem`]: 'make, change and delete its own columns of the gradebook',
  [`${AGS}lineitem.readonly`]: 'read its own columns of the gradebook',
  [`${AGS}result.readonly`]: 'read the results in its own columns',
  [`${AGS}score`]: 'send scores',
  'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly': 'read the roster of a course',
  'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly': 'read the groups of a course',
} as const satisfies Record<string, string>
export type Scope = keyof typeof SCOPES

export function isScope(text: string): text is Scope {
  return Object.hasOwn(SCOPES, text)
}
