import { COURSE_ROLES } from '@bathyscribe/core/identity'
import { z } from 'zod'
import { CourseRef, Id, line, Moment } from './common.js'

export const Category = z.object({ id: Id, name: z.string() })

export const Course = CourseRef.extend({
  term: z.string(),
  timeZone: z.string(),
  myRole: z.enum(COURSE_ROLES).nullable(),
  learners: z.int(),
  assignments: z.int(),
  unproven: z.int().describe('published assignments that have brought no score home yet'),
  categories: z.array(Category),
  startsAt: Moment.nullable(),
  endsAt: Moment.nullable(),
  createdAt: Moment,
})
export type Course = z.infer<typeof Course>

const TimeZone = line(60).refine((zone) => {
  try {
    return Boolean(new Intl.DateTimeFormat('en', { timeZone: zone }))
  } catch {
    return false
  }
}, 'is not a time zone, such as Europe/Oslo')

export const NewCourse = z.strictObject({
  code: line(40).regex(/^[\p{L}\p{N}][\p{L}\p{N} .-]*$/u, 'letters, figures, blanks, dots and hyphens'),
  title: line(200).min(1),
  term: line(60).default(''),
  timeZone: TimeZone.default('UTC'),
  sourcedId: line(100).nullable().default(null),
  categories: z.array(line(80).min(1)).max(20).default([]),
  startsAt: Moment.nullable().default(null),
  endsAt: Moment.nullable().default(null),
})
