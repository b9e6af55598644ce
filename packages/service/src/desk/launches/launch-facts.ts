import { disclose, lti1Roles, lti13Roles, type Disclosure } from '@bathyscribe/core/identity'
import { resolveVariables } from '@bathyscribe/core/links'
import type { DocumentTarget, LinkFacts } from '@bathyscribe/core/lti1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { plainOf } from '../rich-text.js'
import { platformFacts, returnUrl } from '../platform.js'

export interface LaunchOptions {
  target?: DocumentTarget
  /** Custom parameters beside those of registration and link, for soundings. */
  extraCustom?: Readonly<Record<string, string>>
  /** Other credentials than the registration's, for probes. */
  credentials?: { consumerKey: string; sharedSecret: string }
}

/** Of a course, a link and a person what variables are resolved from, reduced to what the tool may see: the same in a launch and in a roster of the link. */
export function variableFacts(
  context: Context,
  of: {
    course: Pick<Link['course'], 'id' | 'code' | 'title' | 'sourcedId' | 'startsAt' | 'endsAt'>
    resource: Pick<Link['resource'], 'resourceLinkId' | 'title' | 'instructions' | 'opensAt' | 'dueAt' | 'closesAt'>
    person: Link['person']
    disclosure: Disclosure
  },
) {
  const { course, resource, person } = of
  const seen = disclose(person, of.disclosure)
  return {
    platform: platformFacts(context),
    context: {
      id: course.id,
      label: course.code,
      title: course.title,
      sourcedId: course.sourcedId,
      startsAt: course.startsAt?.toISOString() ?? null,
      endsAt: course.endsAt?.toISOString() ?? null,
    },
    link: {
      id: resource.resourceLinkId,
      title: resource.title,
      description: resource.instructions === '' ? '' : plainOf(resource.instructions, 4000).slice(0, 1000),
      opensAt: resource.opensAt?.toISOString() ?? null,
      dueAt: resource.dueAt?.toISOString() ?? null,
      closesAt: resource.closesAt?.toISOString() ?? null,
    },
    // The user name tells as much as the name does.
    person: seen.fullName === undefined ? seen : { ...seen, username: person.username },
  }
}

/** Gathers what a launch says whichever version carries it, for the person of `link`, reduced to what the registration's tool may see. */
export function commonFacts(context: Context, link: Link, options: LaunchOptions = {}): LinkFacts {
  const { resource, course, registration, person, enrolment } = link
  const courseRole = enrolment?.state === 'active' ? enrolment.role : undefined
  const facts = variableFacts(context, { course, resource, person, disclosure: registration.disclosure })
  const roles =
    registration.version === '1.1'
      ? lti1Roles(courseRole, person.siteRole)
      : lti13Roles(courseRole, person.siteRole).join(',')
  return {
    ...facts,
    person: disclose(person, registration.disclosure),
    courseRole,
    siteRole: person.siteRole,
    presentation: {
      target: options.target ?? resource.documentTarget,
      returnUrl: returnUrl(context, link),
      locale: 'en',
    },
    custom: resolveVariables(
      { ...registration.customParameters, ...resource.customParameters, ...options.extraCustom },
      { ...facts, roles },
    ),
  }
}
