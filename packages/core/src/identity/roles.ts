/** What a person is in one course. The test learner is the course's own TestUser. */
export const COURSE_ROLES = ['instructor', 'teaching_assistant', 'learner', 'test_learner'] as const
export type CourseRole = (typeof COURSE_ROLES)[number]

export const SITE_ROLES = ['administrator', 'none'] as const
export type SiteRole = (typeof SITE_ROLES)[number]

const LTI1_ROLE: Record<CourseRole, string> = {
  instructor: 'Instructor',
  teaching_assistant: 'urn:lti:role:ims/lis/TeachingAssistant',
  learner: 'Learner',
  test_learner: 'Learner',
}

/**
 * The `roles` value of an LTI 1.1 launch (LTI 1.1.1 appendix A). An administrator without a role in the course enters as
 * Instructor beside the administrator roles, so that tools that know only the context roles still let them in.
 */
export function lti1Roles(courseRole: CourseRole | undefined, siteRole: SiteRole): string {
  const roles = [LTI1_ROLE[courseRole ?? 'instructor']]
  if (siteRole === 'administrator' && courseRole !== 'learner' && courseRole !== 'test_learner')
    roles.push('urn:lti:sysrole:ims/lis/Administrator', 'urn:lti:instrole:ims/lis/Administrator')
  return roles.join(',')
}

const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'
const INSTITUTION = 'http://purl.imsglobal.org/vocab/lis/v2/institution/person'
const SYSTEM = 'http://purl.imsglobal.org/vocab/lis/v2/system/person'

const LTI13_ROLES: Record<CourseRole, readonly string[]> = {
  instructor: [`${MEMBERSHIP}#Instructor`, `${INSTITUTION}#Faculty`],
  teaching_assistant: [`${MEMBERSHIP}#Instructor`, `${MEMBERSHIP}/Instructor#TeachingAssistant`],
  learner: [`${MEMBERSHIP}#Learner`, `${INSTITUTION}#Student`],
  test_learner: [`${MEMBERSHIP}#Learner`, 'http://purl.imsglobal.org/vocab/lti/system/person#TestUser'],
}

/** The `roles` claim (LTI 1.3 core, appendix A.2). An administrator without a role in the course enters as Instructor, too. */
export function lti13Roles(courseRole: CourseRole | undefined, siteRole: SiteRole): string[] {
  const isAdministrator = siteRole === 'administrator' && courseRole !== 'learner' && courseRole !== 'test_learner'
  const own = courseRole === undefined ? [`${MEMBERSHIP}#Instructor`] : LTI13_ROLES[courseRole]
  return isAdministrator
    ? [...own, `${MEMBERSHIP}#Administrator`, `${INSTITUTION}#Administrator`, `${SYSTEM}#Administrator`]
    : [...own, `${SYSTEM}#User`]
}

/** Learners and the test learner work and are scored; the others teach. */
export function isScored(role: CourseRole | undefined): boolean {
  return role === 'learner' || role === 'test_learner'
}

export function teaches(role: CourseRole | undefined): boolean {
  return role === 'instructor' || role === 'teaching_assistant'
}
