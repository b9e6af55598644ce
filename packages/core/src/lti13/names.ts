import { entryOf } from '../text/index.js'

/** Prefix of the claims of LTI 1.3 (core specification, section 5.3). */
export const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
export const LTI13_VERSION = '1.3.0'
export const MESSAGE_TYPES = ['LtiResourceLinkRequest', 'LtiDeepLinkingRequest', 'LtiSubmissionReviewRequest'] as const
export type MessageType = (typeof MESSAGE_TYPES)[number]

/** Course Groups 1.0. */
export const GROUPS_SCOPE = 'https://purl.imsglobal.org/spec/lti-gs/scope/contextgroup.readonly'
export const GROUPS_CLAIM = 'https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice'
export const GROUPS_MEDIA_TYPE = 'application/vnd.ims.lti-gs.v1.contextgroupcontainer+json'
/** Course files, an extension of ours: docs/course-files.md. */
export const COURSE_FILES_SCOPE = 'urn:bathyscribe:scope:coursefiles.readonly'
export const COURSE_FILES_CLAIM = 'urn:bathyscribe:claim:coursefiles'
export const COURSE_FILES_MEDIA_TYPE = 'application/vnd.bathyscribe.coursefiles.v1+json'

/** Basic Outcomes 1.1 for links of LTI 1.3, opened by a token instead of a signature. */
export const OUTCOMES_SCOPE = 'https://purl.imsglobal.org/spec/lti-bo/scope/basicoutcome'
export const OUTCOMES_CLAIM = 'https://purl.imsglobal.org/spec/lti-bo/claim/basicoutcome'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'
/** Scopes of services that can be granted, with what each lets a tool do, for people (AGS 2.0, NRPS 2.0, Course Groups 1.0). */
export const SCOPES = {
  [`${AGS}lineitem`]: 'make, change and delete its own columns of the gradebook',
  [`${AGS}lineitem.readonly`]: 'read its own columns of the gradebook',
  [`${AGS}result.readonly`]: 'read the results in its own columns',
  [`${AGS}score`]: 'send scores',
  [OUTCOMES_SCOPE]: 'send scores in the way of LTI 1.1',
  'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly': 'read the roster of a course',
  [GROUPS_SCOPE]: 'read the groups of a course',
  [COURSE_FILES_SCOPE]: 'list the files of a course and read them',
} as const satisfies Record<string, string>
export type Scope = keyof typeof SCOPES

/** What a tool needs so that scores come back: its columns, its results, sending scores. */
export const USUAL_SCOPES: readonly Scope[] = [`${AGS}lineitem`, `${AGS}result.readonly`, `${AGS}score`]

/** A scope by its whole name or by the end of it: `score`, `contextmembership.readonly`, and `roster`, `groups`, `files` for short. */
export function scopeNamed(text: string): Scope | undefined {
  const wanted = entryOf(SHORT_NAMES, text.toLowerCase()) ?? text
  const all = Object.keys(SCOPES) as Scope[]
  return all.find((one) => one === wanted) ?? all.find((one) => one.split(/[/:]/).at(-1) === wanted.toLowerCase())
}
const SHORT_NAMES: Record<string, string> = {
  roster: 'contextmembership.readonly',
  groups: 'contextgroup.readonly',
  files: 'coursefiles.readonly',
  result: 'result.readonly',
}

export function isScope(text: string): text is Scope {
  return Object.hasOwn(SCOPES, text)
}
