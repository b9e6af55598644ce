import { STAGES, VERDICTS } from '@bathyscribe/core/checks'
import { z } from 'zod'
import { AssignmentRef, CourseRef, Id, Moment, PersonRef, SerialId, ToolRef } from './common.js'

export const Finding = z.object({
  stage: z.enum(STAGES),
  check: z.string(),
  verdict: z.enum(VERDICTS),
  statement: z.string(),
  cause: z.string().nullable(),
  remedy: z.string().nullable(),
  wireEntryId: SerialId.nullable(),
  durationMs: z.number(),
})
export type Finding = z.infer<typeof Finding>

export const Sounding = z.object({
  id: Id,
  assignment: AssignmentRef,
  course: CourseRef,
  tool: ToolRef,
  state: z.enum(['running', 'done', 'interrupted']),
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
