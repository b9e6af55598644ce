import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import { violatedKey } from '../../records/database.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import { act, type Actor, type Context } from '../context.js'

/** What runs against these unique keys is told in words of its own. */
const TAKEN: Record<string, ErrorCode> = {
  unit_title: 'unit.title_taken',
  group_set_name: 'group.name_taken',
  course_group_name: 'group.name_taken',
}

/** Where an act of a course is done, by whom, and what its readers hear. */
export interface CourseAct {
  actor: Actor
  course: Pick<CourseRecord, 'id'>
  kind: 'outline' | 'groups' | 'assignment'
}

/**
 * One act in a course: done and noted in the audit together, then told.
 * @param after what the audit says of what was done
 * @throws Refusal when a name is taken
 */
export async function actInCourse<Done>(
  context: Context,
  { actor, course, kind }: CourseAct,
  action: string,
  subject: string,
  work: (records: Records) => Promise<Done>,
  after: (done: Done) => object | undefined = () => undefined,
): Promise<void> {
  await act(context, { doer: actor, action, subject, courseId: course.id }, work, (done) => ({
    after: after(done),
  })).catch((error: unknown) => {
    const code = TAKEN[violatedKey(error) ?? '']
    throw code === undefined ? error : new Refusal(code)
  })
  context.changes.publish({ kind, courseId: course.id })
}
