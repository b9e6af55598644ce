import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import { disclose, isScored, teaches } from '@bathyscribe/core/identity'
import { launchParameters, signLaunch, writeResultId, type DocumentTarget } from '@bathyscribe/core/lti1'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { MessageToWrite } from '../records/statements/messages.js'
import type { Link } from '../records/statements/links.js'
import { maskParameters } from '../wire/mask.js'
import type { Context } from './context.js'
import { outcomesUrl, platformFacts, returnUrl } from './platform.js'

/** A launch ready to be posted, by a browser or by the service itself. */
export interface PreparedLaunch {
  url: string
  fields: Parameter[]
  returnUrl: string
}

type LaunchCheck = (link: Link) => ErrorCode | undefined

/** Which check a launch must pass, in the order in which a person would want to know. */
const CHECKS: readonly LaunchCheck[] = [
  ({ enrolment, person }) =>
    enrolment === undefined && person.siteRole !== 'administrator' ? 'launch.not_enrolled' : undefined,
  ({ enrolment, person }) =>
    enrolment?.state === 'dropped' && person.siteRole !== 'administrator' ? 'launch.dropped' : undefined,
  ({ assignment, enrolment }) =>
    assignment.state === 'draft' && enrolment?.role === 'learner' ? 'assignment.not_found' : undefined,
  ({ registration }) => TOOL_REFUSALS[registration.state],
  ({ registration }) => (registration.secretSealed === null ? 'tool.secret_missing' : undefined),
  ({ assignment }) => (assignment.launchUrl === null ? 'launch.no_address' : undefined),
]

const TOOL_REFUSALS = {
  enabled: undefined,
  draft: 'launch.tool_draft',
  suspended: 'launch.tool_suspended',
  retired: 'launch.tool_retired',
} as const

/** Why this person may not open this link now; undefined when nothing stands against it. */
export function launchObstacle(link: Link): ErrorCode | undefined {
  for (const check of CHECKS) {
    const code = check(link)
    if (code) return code
  }
  return undefined
}

export interface LaunchOptions {
  target?: DocumentTarget
  /** Custom parameters beside those of registration and assignment, for soundings. */
  extraCustom?: Readonly<Record<string, string>>
  /** Other credentials than the registration's, for probes. */
  credentials?: { consumerKey: string; sharedSecret: string }
}

/** Builds and signs a launch for the person of `link`. Checks nothing: `launchObstacle` does. @throws Refusal without secret or address. */
export function prepareLaunch(context: Context, link: Link, options: LaunchOptions = {}): PreparedLaunch {
  const { assignment, course, registration, person, enrolment } = link
  if (assignment.launchUrl === null) throw new Refusal('launch.no_address')
  const back = returnUrl(context, link)
  const role = enrolment?.state === 'active' ? enrolment.role : undefined
  const parameters = launchParameters({
    platform: platformFacts(context),
    context: { id: course.id, label: course.code, title: course.title, sourcedId: course.sourcedId },
    link: {
      id: assignment.resourceLinkId,
      title: assignment.title,
      description: assignment.instructions.slice(0, 1000),
    },
    person: disclose(person, registration.disclosure),
    courseRole: role,
    siteRole: person.siteRole,
    presentation: { target: options.target ?? assignment.documentTarget, returnUrl: back, locale: 'en' },
    outcome: {
      serviceUrl: outcomesUrl(context.settings),
      resultId: isScored(role)
        ? writeResultId(context.keys.resultIdKey, { assignmentId: assignment.id, personId: person.id })
        : null,
    },
    custom: { ...registration.customParameters, ...assignment.customParameters, ...options.extraCustom },
  })
  const fields = signLaunch(assignment.launchUrl, parameters, {
    ...(options.credentials ?? heldCredentials(context, link)),
    signatureMethod: registration.signatureMethod,
    timestampSeconds: Math.floor(context.clock.now().getTime() / 1000),
    nonce: context.ids.secret(),
  })
  return { url: assignment.launchUrl, fields, returnUrl: back }
}

export function heldCredentials(
  context: Context,
  { registration }: Link,
): { consumerKey: string; sharedSecret: string } {
  if (registration.secretSealed === null) throw new Refusal('tool.secret_missing')
  return {
    consumerKey: registration.consumerKey,
    sharedSecret: context.keys.unseal(registration.secretSealed, registration.id),
  }
}

/** The parts of a wire entry that every launch has. */
export function launchEntry(
  context: Context,
  link: Link,
  prepared: PreparedLaunch | undefined,
  part: Pick<MessageToWrite, 'kind' | 'outcome' | 'statement' | 'durationMs'> & Partial<MessageToWrite>,
): MessageToWrite {
  return {
    at: context.clock.now(),
    direction: 'sent',
    code: null,
    detail: null,
    registrationId: link.registration.id,
    courseId: link.course.id,
    assignmentId: link.assignment.id,
    personId: link.person.id,
    soundingId: null,
    request: {
      method: 'POST',
      url: prepared?.url ?? link.assignment.launchUrl ?? '',
      ...(prepared && { parameters: maskParameters(prepared.fields) }),
    },
    response: null,
    ...part,
  }
}

/** Whether the person of a link sees it from the teaching side. */
export function isTeachingSide({ person, enrolment }: Link): boolean {
  return person.siteRole === 'administrator' || (enrolment?.state === 'active' && teaches(enrolment.role))
}
