import type { ErrorCode } from '@bathyscribe/contract'
import { isScored, teaches } from '@bathyscribe/core/identity'
import type { Link } from '../../records/statements/links.js'

type LaunchCheck = (link: Link, now: Date) => ErrorCode | undefined

/** Which check a launch must pass, of either version, in the order in which a person would want to know. */
const CHECKS: readonly LaunchCheck[] = [
  ({ enrolment, person }) =>
    enrolment === undefined && person.siteRole !== 'administrator' ? 'launch.not_enrolled' : undefined,
  ({ enrolment, person }) =>
    enrolment?.state === 'dropped' && person.siteRole !== 'administrator' ? 'launch.dropped' : undefined,
  ({ resource, enrolment }) =>
    resource.state === 'draft' && enrolment?.role === 'learner'
      ? resource.kind !== 'assignment'
        ? 'launch.hidden'
        : 'assignment.not_found'
      : undefined,
  ({ resource, enrolment }) =>
    resource.audience === 'instructors' && isScored(enrolment?.role) ? 'launch.hidden' : undefined,
  ({ resource, enrolment }) => (resource.isFor || enrolment?.role !== 'learner' ? undefined : 'launch.not_for_you'),
  ({ course, enrolment }) => (course.closed && isScored(enrolment?.role) ? 'course.closed' : undefined),
  ({ resource, enrolment }, now) => (enrolment?.role === 'learner' ? learnerObstacle(resource, now) : undefined),
  ({ registration }) => TOOL_REFUSALS[registration.state],
  ({ registration }) =>
    registration.version === '1.1' && registration.secretSealed === null ? 'tool.secret_missing' : undefined,
  ({ registration }) =>
    registration.version === '1.3' && !(registration.initiationUrl && registration.deploymentId)
      ? 'tool.incomplete'
      : undefined,
  ({ resource }) => (resource.launchUrl === null ? 'launch.no_address' : undefined),
  (link) => (link.entered || !isScored(link.enrolment?.role) ? undefined : 'launch.waiting_first_entry'),
  ({ resource, registration }) =>
    resource.kind === 'picker' && !registration.features.includes('picker') ? 'picker.none' : undefined,
]

const TOOL_REFUSALS = {
  enabled: undefined,
  draft: 'launch.tool_draft',
  waiting: 'launch.tool_waiting',
  suspended: 'launch.tool_suspended',
  retired: 'launch.tool_retired',
  deleted: 'launch.tool_deleted',
} as const

/** What keeps a learner from opening at this moment what is otherwise open. */
export function learnerObstacle(
  { opensAt, closesAt, attempts, handedIn }: Pick<Link['resource'], 'opensAt' | 'closesAt' | 'attempts' | 'handedIn'>,
  now: Date,
): ErrorCode | undefined {
  if (opensAt !== null && opensAt > now) return 'launch.not_open_yet'
  if (closesAt !== null && closesAt <= now) return 'launch.closed'
  return attempts !== null && handedIn >= attempts ? 'launch.no_attempt_left' : undefined
}

/** Why this person may not open this link now; undefined when nothing stands against it. */
export function launchObstacle(link: Link, now: Date): ErrorCode | undefined {
  for (const check of CHECKS) {
    const code = check(link, now)
    if (code) return code
  }
  return undefined
}

/** Whether the person of a link sees it from the teaching side. */
export function isTeachingSide({ person, enrolment }: Link): boolean {
  return person.siteRole === 'administrator' || (enrolment?.state === 'active' && teaches(enrolment.role))
}
