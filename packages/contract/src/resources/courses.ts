import { isTimeZone } from '@bathyscribe/core/dates'
import { COURSE_ROLES } from '@bathyscribe/core/identity'
import { z } from 'zod'
import { CourseRef, Id, line, Moment } from './common.js'

export const Category = z.object({ id: Id, name: z.string() })

/** Closed: to be looked at, but learners begin no work any more. Deleted: out of everybody's way until an administrator restores it. */
export const COURSE_STATES = ['open', 'closed', 'deleted'] as const
export type CourseState = (typeof COURSE_STATES)[number]

export const Course = CourseRef.extend({
  term: z.string(),
  timeZone: z.string(),
  state: z.enum(COURSE_STATES),
  stateSince: Moment.nullable().describe('when it was closed or deleted'),
  sourcedId: z.string().nullable().describe('what the registrar’s system calls it; only administrators see it'),
  myRole: z.enum(COURSE_ROLES).nullable(),
  learners: z.int(),
  assignments: z.int(),
  unproven: z.int().describe('published assignments that have not returned a score yet'),
  categories: z.array(Category),
  startsAt: Moment.nullable(),
  endsAt: Moment.nullable(),
  createdAt: Moment,
})
export type Course = z.infer<typeof Course>

export const TimeZone = line(60).refine(isTimeZone, 'is not a time zone, such as Europe/Oslo')

const Code = line(40).regex(/^[\p{L}\p{N}][\p{L}\p{N} .-]*$/u, 'letters, digits, spaces, dots and hyphens')

export const NewCourse = z.strictObject({
  code: Code,
  title: line(200).min(1),
  term: line(60).default(''),
  timeZone: TimeZone.optional().describe('the institution’s own unless said'),
  sourcedId: line(100).nullable().default(null),
  categories: z.array(line(80).min(1)).max(20).default([]),
  startsAt: Moment.nullable().default(null),
  endsAt: Moment.nullable().default(null),
})

/** What is not named stays. */
export const CourseChange = z.strictObject({
  code: Code.optional(),
  title: line(200).min(1).optional(),
  term: line(60).optional(),
  timeZone: TimeZone.optional().describe('in which dates are read and shown; moments that are set already stay'),
  sourcedId: line(100).min(1).nullable().optional(),
  startsAt: Moment.nullable().optional(),
  endsAt: Moment.nullable().optional(),
})
export const CourseStateChange = z.strictObject({ state: z.enum(COURSE_STATES) })

const Percent = z
  .string()
  .regex(/^\d{1,3}(\.\d{1,4})?$/, 'must be a percent, such as 40')
  .refine((text) => Number(text) <= 100, 'is 100 at most')
export const GradebookCategory = Category.extend({
  weight: z.string().nullable().describe('percent of the total; null as long as none was given'),
  assignments: z.int().describe('in it'),
})
export type GradebookCategory = z.infer<typeof GradebookCategory>
export const NewCategory = z.strictObject({ name: line(80).min(1), weight: Percent.nullable().default(null) })
export const CategoryChange = z.strictObject({
  name: line(80).min(1).optional(),
  weight: Percent.nullable().optional(),
  position: z.int().min(1).max(200).optional().describe('its place, counted from 1'),
})
/** Where the assignments of a category go that is taken away: identifier of another, or `none`. */
export const CategoryRemoval = z.strictObject({ moveTo: z.union([Id, z.literal('none')]).optional() })
