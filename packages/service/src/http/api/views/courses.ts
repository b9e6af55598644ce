import type { Course } from '@bathyscribe/contract'
import { teaches } from '@bathyscribe/core/identity'
import { isAdministrator } from '../../../desk/identity/access.js'
import type { Actor } from '../../../desk/context.js'
import type { CourseSummary } from '../../../records/courses.js'
import { inText } from './moments.js'

/** A course as somebody may see it. */
export function courseView(
  { codeKey: _key, sourcedId, welcome: _welcome, revision: _revision, unproven, ...course }: CourseSummary,
  actor: Pick<Actor, 'siteRole'>,
): Course {
  const administers = isAdministrator(actor)
  return {
    ...inText(course),
    unproven: administers || teaches(course.myRole ?? undefined) ? unproven : 0,
    sourcedId: administers ? sourcedId : null,
  }
}
