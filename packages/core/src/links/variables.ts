import type { DisclosedPerson } from '../identity/index.js'
import { entryOf } from '../text/index.js'

/** What custom parameter variables are resolved from. Fields that are null or absent resolve to nothing. */
export interface VariableFacts {
  /** Already reduced to what the registration's tool may see. */
  person: DisclosedPerson & { username?: string }
  /** Moments are ISO 8601. */
  context: {
    id: string
    title: string
    label: string
    sourcedId: string | null
    startsAt?: string | null
    endsAt?: string | null
  }
  link: {
    id: string
    title: string
    description: string
    opensAt?: string | null
    dueAt?: string | null
    closesAt?: string | null
  }
  /** As the launch carries them, joined by commas. */
  roles: string
  platform: { guid: string; name: string }
}

type Resolve = (facts: VariableFacts) => string | null | undefined

const nothing: Resolve = () => ''

/**
 * The variables that are resolved (LTI 1.1.1 appendix C; LTI 1.3 core appendix B). One that is known but has no value here, or that the identity limits
 * keep back, is sent empty.
 */
const VARIABLES: Record<string, Resolve> = {
  '$User.id': ({ person }) => person.subject,
  '$User.username': ({ person }) => person.username,
  '$Person.name.full': ({ person }) => person.fullName,
  '$Person.name.given': ({ person }) => person.givenName,
  '$Person.name.family': ({ person }) => person.familyName,
  '$Person.email.primary': ({ person }) => person.email,
  '$Person.sourcedId': ({ person }) => person.sourcedId,
  '$Context.id': ({ context }) => context.id,
  '$Context.title': ({ context }) => context.title,
  '$Context.label': ({ context }) => context.label,
  '$Context.sourcedId': ({ context }) => context.sourcedId,
  '$Context.id.history': nothing,
  '$CourseOffering.sourcedId': nothing,
  '$CourseSection.sourcedId': ({ context }) => context.sourcedId,
  '$CourseSection.timeFrame.begin': ({ context }) => context.startsAt,
  '$CourseSection.timeFrame.end': ({ context }) => context.endsAt,
  '$Membership.role': ({ roles }) => roles,
  '$ResourceLink.id': ({ link }) => link.id,
  '$ResourceLink.title': ({ link }) => link.title,
  '$ResourceLink.description': ({ link }) => link.description,
  '$ResourceLink.id.history': nothing,
  '$ResourceLink.available.startDateTime': ({ link }) => link.opensAt,
  '$ResourceLink.available.endDateTime': ({ link }) => link.closesAt,
  '$ResourceLink.submission.startDateTime': ({ link }) => link.opensAt,
  '$ResourceLink.submission.endDateTime': ({ link }) => link.dueAt,
  '$ToolPlatformInstance.guid': ({ platform }) => platform.guid,
  '$ToolPlatformInstance.name': ({ platform }) => platform.name,
}

export const VARIABLE_NAMES: readonly string[] = Object.keys(VARIABLES)

/** Replaces each value that is exactly one known variable. Everything else, unknown variables included, is sent as it stands. */
export function resolveVariables(
  custom: Readonly<Record<string, string>>,
  facts: VariableFacts,
): Record<string, string> {
  return Object.fromEntries(
    Object.entries(custom).map(([name, value]) => {
      const known = entryOf(VARIABLES, value)
      return [name, known ? (known(facts) ?? '') : value]
    }),
  )
}
