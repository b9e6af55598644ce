import { Refusal, type CourseChange, type CourseState } from '@bathyscribe/contract'
import { toDate } from '@bathyscribe/core/dates'
import type { z } from 'zod'
import { codeKey } from '../../records/courses.js'
import { violatedKey } from '../../records/database.js'
import { by, type Actor, type Context } from '../context.js'
import { requireOrder } from './create-course.js'

/** Changes what a course is called, when it is, and what the registrar's system calls it. @returns its identifier. @throws Refusal */
export async function changeCourse(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof CourseChange>,
): Promise<string> {
  const { startsAt, endsAt, ...plain } = wanted
  const id = await context.records
    .transaction(async (records) => {
      // Identifiers of the registrar's system are also given by imports.
      await records.rosterImports.lock()
      const course = await records.courses.byRef(ref)
      const change = {
        ...plain,
        ...(plain.code !== undefined && { codeKey: codeKey(plain.code) }),
        ...(startsAt !== undefined && { startsAt: toDate(startsAt) }),
        ...(endsAt !== undefined && { endsAt: toDate(endsAt) }),
      }
      requireOrder({ ...course, ...change })
      if (plain.sourcedId && (await records.courses.sourcedIdTaken(plain.sourcedId, course.id)))
        throw new Refusal('course.sourced_id_taken', plain.sourcedId)
      await records.courses.change(course.id, change)
      await records.audit.add({
        at: context.clock.now(),
        ...by(actor),
        action: 'change course',
        subject: `course ${course.code}`,
        courseId: course.id,
        before: Object.fromEntries(Object.keys(wanted).map((key) => [key, course[key as keyof typeof wanted]])),
        after: wanted,
      })
      return course.id
    })
    .catch((error: unknown) => {
      throw violatedKey(error) === undefined ? error : new Refusal('course.code_taken', plain.code)
    })
  context.changes.publish({ kind: 'outline', courseId: id })
  context.changes.publish({ kind: 'people', courseId: id })
  return id
}

const ACTS: Record<CourseState, string> = { open: 'open course', closed: 'close course', deleted: 'delete course' }

/** Closes, opens, deletes or restores a course. Everything in it stays where it is, so that each can be undone. @returns its identifier. @throws Refusal */
export async function setCourseState(context: Context, actor: Actor, ref: string, state: CourseState): Promise<string> {
  const now = context.clock.now()
  const id = await context.records.transaction(async (records) => {
    const course = await records.courses.byRef(ref, true)
    if (course.state === state) return course.id
    await records.courses.change(course.id, { state, stateSince: state === 'open' ? null : now })
    await records.audit.add({
      at: now,
      ...by(actor),
      action: course.state === 'deleted' ? 'restore course' : ACTS[state],
      subject: `course ${course.code}`,
      courseId: course.id,
      before: { state: course.state },
      after: { state },
    })
    return course.id
  })
  context.changes.publish({ kind: 'people', courseId: id })
  context.changes.publish({ kind: 'assignment', courseId: id })
  return id
}
