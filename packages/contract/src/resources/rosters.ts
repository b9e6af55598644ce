import { z } from 'zod'
import { TimeZone } from './courses.js'
import { CourseRef, line, Moment, PersonRef, ToolRef } from './common.js'

/** A roster to be read: a table of people as text, or the files of OneRoster 1.2 in a zip archive. */
export const RosterImport = z.strictObject({
  fileName: line(200).min(1),
  table: z.string().max(4_000_000).optional().describe('a table of people as CSV or pasted cells'),
  zip: z.base64().max(6_000_000).optional().describe('OneRoster 1.2 CSV, full or delta'),
  course: z.string().max(60).optional().describe('for lines of a table that name none'),
  makeCourses: z.boolean().default(true).describe('whether classes that are not known become courses'),
  timeZone: TimeZone.optional().describe('of courses that are made; the institution’s own unless said'),
  apply: z.boolean().default(false).describe('false: only says what would change'),
})
export const RosterImported = z.object({
  applied: z.boolean(),
  whole: z.boolean().describe('whoever is no longer named in a class of the file has left it'),
  peopleMade: z.int(),
  peopleChanged: z.int(),
  coursesMade: z.int(),
  coursesDated: z.int().describe('courses that were here and got their term from the roster'),
  added: z.int().describe('enrolments made'),
  returned: z.int().describe('people who had left and are back, or have another role'),
  dropped: z.int(),
  unchanged: z.int(),
  courses: z.array(CourseRef),
  problems: z.array(z.object({ file: z.string(), line: z.int(), message: z.string() })),
})
export type RosterImported = z.infer<typeof RosterImported>

/** What one tool knows of a course's people. */
export const ToolRoster = z.object({
  tool: ToolRef,
  readAt: Moment.nullable().describe('when it last read the roster; null where it never did'),
  learners: z.int(),
  launched: z.int().describe('learners who have entered'),
  scored: z.int(),
  unheard: z
    .array(PersonRef)
    .describe('learners whom it cannot know: never entered, not in a roster that it read, never scored'),
  keeps: z.array(PersonRef).describe('people who left, whom it still has as far as we know'),
})
export type ToolRoster = z.infer<typeof ToolRoster>
