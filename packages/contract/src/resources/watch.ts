import { z } from 'zod'
import { Mark } from './assignments.js'
import { AssignmentRef, CourseRef, Id, Moment, PersonRef, SerialId, ToolRef } from './common.js'
import { Sounding } from './soundings.js'

/** What needs someone now, as far as the person may see it. */
export const Watch = z.object({
  unproven: z.array(
    AssignmentRef.extend({ course: CourseRef, tool: ToolRef, proof: z.array(Mark).length(6), nextAct: z.string() }),
  ),
  unprovenCount: z.int(),
  publishedCount: z.int(),
  refusals: z.array(
    z.object({
      code: z.string(),
      sentence: z.string(),
      hint: z.string(),
      tool: ToolRef.nullable(),
      count: z.int(),
      links: z.int(),
      courses: z.int(),
      lastAt: Moment,
      wireEntryId: SerialId,
    }),
  ),
  approvals: z
    .array(
      z.object({
        tool: ToolRef,
        course: CourseRef.nullable(),
        what: z.enum(['registration', 'change']),
        since: Moment,
      }),
    )
    .describe('registrations and changes that wait for an administrator'),
  firstEntries: z
    .array(
      z.object({
        tool: ToolRef,
        course: CourseRef,
        label: z.string(),
        openAt: z.string().describe('page that opens it'),
      }),
    )
    .describe('links that an instructor must open before learners may'),
  scores: z
    .object({
      refused: z.array(
        z.object({
          code: z.string(),
          sentence: z.string(),
          tool: ToolRef.nullable(),
          count: z.int(),
          lastAt: Moment,
          wireEntryId: SerialId,
        }),
      ),
      unscored: z.array(
        z.object({ assignment: AssignmentRef, course: CourseRef, tool: ToolRef, dueAt: Moment, learners: z.int() }),
      ),
      silent: z.array(
        z.object({
          tool: ToolRef,
          course: CourseRef,
          lastLaunchAt: Moment,
          lastScoreAt: Moment.nullable(),
          launches: z.int(),
        }),
      ),
      office: z.object({ waiting: z.int(), refused: z.int() }).nullable(),
    })
    .describe(
      'refused in the last day by cause; past due with learners who worked but have no score; tools gone silent; records office behind (for administrators)',
    ),
  ownAddress: z
    .object({ now: z.string(), before: z.string(), since: Moment })
    .nullable()
    .describe('our public address is another one than before, since less than 60 days; for administrators'),
  newAdministrators: z
    .array(z.object({ person: PersonRef, provider: z.string(), since: Moment }))
    .describe('who became an administrator by claims of an identity provider, in the last 7 days; for administrators'),
  doubtedCauses: z
    .array(z.object({ code: z.string(), wrong: z.int() }))
    .describe('causes that were said to be wrong too often to be told as proven; for administrators'),
  waitingWork: z.int().describe('pieces of work that wait for a person to grade them'),
  openCases: z.int().describe('of learners whose score is missing, taken up and not closed'),
  soundings: z.array(Sounding).describe('the last ones that did not pass'),
  scoresPerHour: z.array(z.object({ hour: Moment, scores: z.int() })).describe('the last 24 hours, oldest first'),
})
export type Watch = z.infer<typeof Watch>

/** A change that somebody may be looking at, sent as a server-sent event named `change`. */
export const ChangeEvent = z.object({
  kind: z.enum([
    'score',
    'launch',
    'sounding',
    'assignment',
    'tool',
    'people',
    'refusal',
    'menu',
    'outline',
    'picking',
    'groups',
    'files',
    'office',
    'sweep',
    'case',
  ]),
  courseId: Id.nullable(),
  assignmentId: Id.nullable(),
  personId: Id.nullable(),
})
export type ChangeEvent = z.infer<typeof ChangeEvent>
