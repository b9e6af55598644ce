import { disclose, lti1Roles, lti13Roles, type DisclosedPerson } from '@bathyscribe/core/identity'
import { resolveVariables } from '@bathyscribe/core/links'
import type { DocumentTarget, LinkFacts } from '@bathyscribe/core/lti1'
import { plainOf } from '@bathyscribe/core/rich-text'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { platformFacts, resultIdOf, returnUrl } from '../platform/addresses.js'

export interface LaunchOptions {
  target?: DocumentTarget
  /** Custom parameters beside those of registration and link, for soundings. */
  extraCustom?: Readonly<Record<string, string>>
  /** Other credentials than the registration's, for probes. */
  credentials?: { consumerKey: string; sharedSecret: string }
}

/** With the sealed name of person and link, which a launch may say in two places. */
interface CommonFacts extends LinkFacts {
  resultId: string
}

/** What a link's launches say of platform, course and link, whoever launches: the same in a roster of the link. */
export function linkFacts(
  context: Context,
  course: Pick<Link['course'], 'id' | 'code' | 'title' | 'sourcedId' | 'startsAt' | 'endsAt'>,
  resource: Pick<Link['resource'], 'resourceLinkId' | 'title' | 'instructions' | 'opensAt' | 'dueAt' | 'closesAt'>,
) {
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
  }
}

/** What variables say of a person, of whom the tool may see `seen`. The user name tells as much as the name does. */
export function variablesOf(seen: DisclosedPerson, { username }: { username: string }) {
  return seen.fullName === undefined ? seen : { ...seen, username }
}

/** Gathers what a launch says whichever version carries it, for the person of `link`, reduced to what the registration's tool may see. */
export function commonFacts(context: Context, link: Link, options: LaunchOptions = {}): CommonFacts {
  const { resource, course, registration, person, enrolment } = link
  const courseRole = enrolment?.state === 'active' ? enrolment.role : undefined
  const facts = linkFacts(context, course, resource)
  const resultId = resultIdOf(context, link)
  const custom = { ...registration.customParameters, ...resource.customParameters, ...options.extraCustom }
  const seen = disclose(person, registration.disclosure)
  const roles =
    registration.version === '1.1'
      ? lti1Roles(courseRole, person.siteRole)
      : lti13Roles(courseRole, person.siteRole).join(',')
  return {
    ...facts,
    person: seen,
    courseRole,
    siteRole: person.siteRole,
    presentation: {
      target: options.target ?? resource.documentTarget,
      returnUrl: returnUrl(context.settings, resultId),
      locale: 'en',
    },
    // Most links have none.
    custom:
      Object.keys(custom).length === 0
        ? custom
        : resolveVariables(custom, { ...facts, person: variablesOf(seen, person), roles }),
    resultId,
  }
}
