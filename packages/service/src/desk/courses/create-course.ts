import { Refusal, type NewCourse } from '@bathyscribe/contract'
import { toDate } from '@bathyscribe/core/dates'
import type { z } from 'zod'
import { codeKey } from '../../records/courses.js'
import { violatedKey } from '../../records/database.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import { by, type Actor, type Context } from '../context.js'
import { newPerson } from '../identity/people.js'

/** Makes a course with its categories and its own test learner. @throws Refusal when the code is taken. */
export async function createCourse(
  context: Context,
  actor: Actor | null,
  wanted: z.output<typeof NewCourse>,
): Promise<CourseRecord> {
  const { ids, clock } = context
  const now = clock.now()
  const course: CourseRecord = {
    id: ids.next(),
    code: wanted.code,
    codeKey: codeKey(wanted.code),
    title: wanted.title,
    term: wanted.term,
    timeZone: wanted.timeZone ?? context.settings.timeZone,
    sourcedId: wanted.sourcedId,
    state: 'open',
    stateSince: null,
    startsAt: toDate(wanted.startsAt),
    endsAt: toDate(wanted.endsAt),
    welcome: '',
    revision: 1,
    shownDecimals: 0,
    missingCounts: false,
    createdAt: now,
  }
  requireOrder(course)
  const categories = [...new Set(wanted.categories)].map((name, position) => ({
    id: ids.next(),
    courseId: course.id,
    name,
    position,
    weight: null,
  }))
  const testLearner = {
    ...(await newPerson(context, {
      username: `test-learner-${course.id}`,
      givenName: 'Test',
      familyName: 'Learner',
      fullName: `Test learner of ${course.code}`,
      email: undefined,
      sourcedId: undefined,
      siteRole: 'none',
    })),
    isTestLearner: true,
  }
  await context.records
    .transaction(async (records) => {
      await records.courses.insert(course, categories)
      await records.people.insert(testLearner)
      await records.people.enrol({
        courseId: course.id,
        personId: testLearner.id,
        role: 'test_learner',
        state: 'active',
        since: now,
        droppedAt: null,
      })
      await records.audit.add({
        at: now,
        ...by(actor),
        action: 'make course',
        subject: `course ${course.code}`,
        courseId: course.id,
        after: { title: course.title },
      })
    })
    .catch((error: unknown) => {
      throw violatedKey(error) === undefined ? error : new Refusal('course.code_taken', course.code)
    })
  return course
}

/** @throws Refusal for a course that would end before it starts */
export function requireOrder({ startsAt, endsAt }: Pick<CourseRecord, 'startsAt' | 'endsAt'>): void {
  if (startsAt && endsAt && endsAt <= startsAt) throw new Refusal('course.ends_first')
}
