import { DEPTHS, FOLLOWERS, VERDICTS } from '@bathyscribe/core/checks'
import { LINK_CHANGES } from '@bathyscribe/core/sweeps'
import { z } from 'zod'
import { ProofChange } from './assignments.js'
import { AssignmentRef, CourseRef, Id, line, Moment, PageQuery, PersonRef, TextFile, ToolRef } from './common.js'

export const SWEEP_STATES = ['running', 'paused', 'done', 'stopped'] as const

/** Which links a sweep goes over: those that fit all that is given; without any, every link that the person may sound. */
export const SweepScope = z.strictObject({
  course: z.string().max(60).optional(),
  tool: z.string().max(120).optional(),
  term: line(60).optional(),
  assignments: z.array(z.string().max(200)).min(1).max(2000).optional(),
})
export type SweepScope = z.infer<typeof SweepScope>

/** How every link of a sweep is sounded. */
export const SweepManner = z.object({
  depth: z.enum(DEPTHS).default('plain'),
  follower: z.enum(FOLLOWERS).default('http'),
})
export const NewSweep = SweepScope.extend({
  drafts: z.boolean().default(false).describe('drafts as well'),
  ...SweepManner.shape,
})

export const Sweep = z.object({
  id: Id,
  title: z.string(),
  state: z.enum(SWEEP_STATES),
  startedAt: Moment,
  endedAt: Moment.nullable(),
  by: PersonRef.nullable(),
  scheduled: z.boolean(),
  depth: z.enum(DEPTHS),
  follower: z.enum(FOLLOWERS),
  /** The last finished sweep over the same scope, which it is compared with. */
  before: Id.nullable(),
  links: z.int(),
  done: z.int(),
  verdicts: z.object({ pass: z.int(), warn: z.int(), fail: z.int(), skipped: z.int() }),
  changes: z.record(z.enum(LINK_CHANGES), z.int()),
})
export type Sweep = z.infer<typeof Sweep>

export const SweepDetail = Sweep.extend({
  causes: z
    .array(
      z.object({
        cause: z.string(),
        tool: ToolRef,
        links: z.int(),
        newly: z.int(),
        soundingId: Id,
        assignment: AssignmentRef,
        course: CourseRef,
        changed: ProofChange.nullable().describe('of the example, since the sweep before'),
      }),
    )
    .describe('what is wrong, grouped by cause and tool, the most frequent first; an example with each'),
})
export type SweepDetail = z.infer<typeof SweepDetail>

export const SweepLink = z.object({
  assignment: AssignmentRef,
  course: CourseRef,
  tool: ToolRef,
  state: z.enum(['waiting', 'running', 'done', 'left_out']),
  soundingId: Id.nullable(),
  verdict: z.enum(VERDICTS).nullable(),
  cause: z.string().nullable(),
  change: z.enum(LINK_CHANGES).nullable(),
  tookMs: z.number().nullable(),
  tookBeforeMs: z.number().nullable(),
  changed: ProofChange.nullable().describe('what it depends on and was changed last since the previous sweep'),
})
export type SweepLink = z.infer<typeof SweepLink>

export const SweepLinksQuery = PageQuery.extend({
  verdict: z.enum(VERDICTS).optional(),
  change: z.enum(LINK_CHANGES).optional(),
  tool: z.string().max(120).optional(),
})

export const SweepReport = TextFile
export type SweepReport = z.infer<typeof SweepReport>
export const REPORT_FORMS = ['csv', 'junit'] as const

export const SweepSchedule = z.object({
  id: Id,
  title: z.string(),
  every: z.enum(['day', 'week']),
  hour: z.int(),
  mail: z.boolean(),
  nextAt: Moment,
  lastSweep: Id.nullable(),
  by: PersonRef,
})
export type SweepSchedule = z.infer<typeof SweepSchedule>

export const NewSweepSchedule = SweepScope.extend({
  ...SweepManner.shape,
  every: z.enum(['day', 'week']),
  hour: z.int().min(0).max(23).default(2).describe('hour of the day; UTC'),
  mail: z.boolean().default(false).describe('mails you when something is newly broken'),
})
