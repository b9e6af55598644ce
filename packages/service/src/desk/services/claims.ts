import {
  AGS_CLAIM,
  COURSE_FILES_CLAIM,
  COURSE_FILES_SCOPE,
  GROUPS_CLAIM,
  GROUPS_SCOPE,
  holdsScope,
  LINE_ITEM_READ_SCOPE,
  SCORE_SCOPE,
  type Claims,
} from '@bathyscribe/core/lti13'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'

/** The claims of services that a tool of LTI 1.3 may use in the course of a link, as far as their scopes are granted. */
export function serviceClaims(
  { settings }: Pick<Context, 'settings'>,
  { registration, course, resource }: Link,
): Claims {
  const at = courseServices(settings, course.id)
  const { scopes } = registration
  const reads = holdsScope(scopes, LINE_ITEM_READ_SCOPE)
  const scores = scopes.includes(SCORE_SCOPE)
  return {
    ...((reads || scores) && {
      [AGS_CLAIM]: {
        scope: [...(reads ? [LINE_ITEM_READ_SCOPE] : []), ...(scores ? [SCORE_SCOPE] : [])],
        lineitems: `${at}/lineitems`,
        // A link has a column exactly when it is an assignment: that is how two assignments on one content are told apart.
        ...(resource.kind === 'assignment' && { lineitem: `${at}/lineitems/${resource.id}` }),
      },
    }),
    ...(scopes.includes(GROUPS_SCOPE) && {
      [GROUPS_CLAIM]: {
        scope: [GROUPS_SCOPE],
        context_groups_url: `${at}/groups`,
        context_group_sets_url: `${at}/group-sets`,
        service_versions: ['1.0'],
      },
    }),
    ...(scopes.includes(COURSE_FILES_SCOPE) && {
      [COURSE_FILES_CLAIM]: { scope: [COURSE_FILES_SCOPE], files_url: `${at}/files`, service_versions: ['1.0'] },
    }),
  }
}

/** Where the services of a course stand. */
export function courseServices(settings: Pick<Context['settings'], 'publicUrl'>, courseId: string): string {
  return `${settings.publicUrl}/lti/courses/${courseId}`
}
