import { isScored } from '@bathyscribe/core/identity'
import {
  AGS_CLAIM,
  COURSE_FILES_CLAIM,
  COURSE_FILES_SCOPE,
  GROUPS_CLAIM,
  GROUPS_SCOPE,
  holdsScope,
  LINE_ITEM_READ_SCOPE,
  LINE_ITEM_SCOPE,
  MEMBERSHIP_CLAIM,
  MEMBERSHIP_SCOPE,
  OUTCOMES_CLAIM,
  OUTCOMES_SCOPE,
  RESULT_READ_SCOPE,
  SCORE_SCOPE,
  type Claims,
} from '@bathyscribe/core/lti13'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { outcomesUrl, resultIdOf } from '../platform/addresses.js'

/** The claims of services that a tool of LTI 1.3 may use in the course of a link, as far as their scopes are granted. */
export function serviceClaims(context: Pick<Context, 'settings' | 'keys'>, link: Link): Claims {
  const { settings } = context
  const { registration, course, resource, enrolment } = link
  const at = courseServices(settings, course.id)
  const { scopes } = registration
  const grades = [LINE_ITEM_SCOPE, LINE_ITEM_READ_SCOPE, RESULT_READ_SCOPE, SCORE_SCOPE].filter((one) =>
    holdsScope(scopes, one),
  )
  const columns = [...(resource.kind === 'assignment' ? [resource.id] : []), ...resource.tiedColumns]
  return {
    ...(grades.length > 0 && {
      [AGS_CLAIM]: {
        scope: grades,
        lineitems: `${at}/lineitems`,
        // Only where there is exactly one: that is how two assignments on one content are told apart (AGS 2.0 section 3.1).
        ...(columns.length === 1 && { lineitem: `${at}/lineitems/${columns[0]!}` }),
      },
    }),
    ...(scopes.includes(MEMBERSHIP_SCOPE) && {
      [MEMBERSHIP_CLAIM]: { context_memberships_url: `${at}/memberships`, service_versions: ['2.0'] },
    }),
    ...(scopes.includes(OUTCOMES_SCOPE) &&
      resource.kind === 'assignment' && {
        [OUTCOMES_CLAIM]: {
          lis_outcome_service_url: outcomesUrl(settings),
          ...(isScored(enrolment?.role) && {
            lis_result_sourcedid: resultIdOf(context, link),
          }),
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
