import { DEPTHS, FOLLOWERS, STAGES, VERDICTS } from '@bathyscribe/core/checks'
import { z } from 'zod'
import { AssignmentRef, CourseRef, Id, KnownFacts, Moment, PersonRef, SerialId, ToolRef } from './common.js'

/** So long a sounding that somebody watches waits for the work of a person; in minutes. */
export const WATCHED_WAIT_MINUTES = 15

/** How a sounding is to go. */
export const NewSounding = z.strictObject({
  depth: z.enum(DEPTHS).default('deep').describe('deep: a second visit, roster, picker and review as well'),
  follower: z.enum(FOLLOWERS).default('http').describe('who follows the launch: the service itself, or a browser'),
  pilot: z
    .string()
    .max(100)
    .optional()
    .describe('a learner in whose name it goes, for tools that refuse test learners; what it leaves is set aside'),
  consented: z.boolean().default(false).describe('the pilot knows of it and agreed'),
  waitMinutes: z.int().min(0).max(60).default(0).describe('how long it waits for a person to do the work'),
})
export type NewSounding = z.infer<typeof NewSounding>

export const Finding = z.object({
  stage: z.enum(STAGES),
  check: z.string(),
  code: z.string().describe('what the check found'),
  verdict: z.enum(VERDICTS),
  facts: KnownFacts,
  statement: z.string(),
  cause: z.string().nullable(),
  remedy: z.string().nullable(),
  wireEntryId: SerialId.nullable(),
  pictureId: Id.nullable().describe('what was to be seen: GET /api/soundings/:id/pictures/:picture'),
  durationMs: z.number(),
})
export type Finding = z.infer<typeof Finding>

export const Sounding = z.object({
  id: Id,
  assignment: AssignmentRef,
  course: CourseRef,
  tool: ToolRef,
  state: z.enum(['running', 'done', 'interrupted']),
  depth: z.enum(DEPTHS),
  follower: z.enum(FOLLOWERS),
  pilot: PersonRef.nullable(),
  waiting: z.object({ for: z.string(), until: Moment }).nullable().describe('what a person is to do, and until when'),
  verdict: z.enum(VERDICTS).nullable(),
  startedAt: Moment,
  endedAt: Moment.nullable(),
  by: PersonRef.nullable(),
  stages: z.array(z.object({ stage: z.enum(STAGES), verdict: z.enum(VERDICTS) })),
  /** What is wrong, in one sentence; null when nothing is. */
  cause: z.string().nullable(),
})
export type Sounding = z.infer<typeof Sounding>

export const SoundingDetail = Sounding.extend({ findings: z.array(Finding) })
export type SoundingDetail = z.infer<typeof SoundingDetail>

/** Two soundings side by side: what each check found then and now. */
export const SoundingComparison = z.object({
  earlier: Sounding,
  later: Sounding,
  checks: z.array(
    z.object({
      stage: z.enum(STAGES),
      check: z.string(),
      change: z.enum(['same', 'better', 'worse', 'gone', 'new', 'other words']),
      earlier: Finding.pick({ verdict: true, statement: true, durationMs: true }).nullable(),
      later: Finding.pick({ verdict: true, statement: true, durationMs: true }).nullable(),
    }),
  ),
})
export type SoundingComparison = z.infer<typeof SoundingComparison>
