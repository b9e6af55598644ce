import { WORK_STATES, type WorkState } from '@bathyscribe/core/scores'
import { z } from 'zod'
import { AssignmentRef, CourseRef, DatedCourse, Decimal, Moment, PersonRef, ToolRef } from './common.js'

/** Where the learners of an assignment stand, as people look for them. */
export const WORK_GROUPS = [
  'never_opened',
  'opened',
  'at_work',
  'handed_in',
  'waiting',
  'graded',
  'trouble',
  'exempt',
] as const
export type WorkGroup = (typeof WORK_GROUPS)[number]

/** Each state in its group. `trouble`: refused, failed at the tool’s end, or taken back. */
export const GROUP_OF: Readonly<Record<WorkState, WorkGroup>> = {
  never_opened: 'never_opened',
  opened: 'opened',
  started: 'at_work',
  submitted: 'handed_in',
  waiting: 'waiting',
  graded: 'graded',
  commented: 'graded',
  failed: 'trouble',
  cleared: 'trouble',
  refused: 'trouble',
  exempt: 'exempt',
}

/** One learner in one assignment. */
export const LearnerStanding = z.object({
  person: PersonRef,
  state: z.enum(WORK_STATES),
  since: Moment.nullable(),
  activity: z.string().nullable().describe('how far the tool last said that the work is (AGS 2.0, `activityProgress`)'),
  points: Decimal.nullable(),
  late: z.boolean(),
})
export type LearnerStanding = z.infer<typeof LearnerStanding>

export const Standing = z.object({
  assignment: AssignmentRef,
  course: DatedCourse,
  tool: ToolRef,
  outOf: Decimal,
  reviewable: z.boolean().describe('whether the tool shows single submissions'),
  items: z.array(LearnerStanding).describe('active learners whom it is for, by name'),
  more: z.boolean().describe('there are more than are listed'),
})
export type Standing = z.infer<typeof Standing>

/** Work that waits for a person to grade it, in the tool. */
export const WaitingWork = z.object({
  person: PersonRef,
  assignment: AssignmentRef,
  course: CourseRef,
  tool: ToolRef,
  since: Moment.describe('when the tool said so'),
  dueAt: Moment.nullable(),
  reviewable: z.boolean().describe('whether the tool shows single submissions'),
})
export type WaitingWork = z.infer<typeof WaitingWork>
