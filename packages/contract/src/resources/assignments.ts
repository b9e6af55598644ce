import { MARK_STATES, MARKS } from '@bathyscribe/core/checks'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { z } from 'zod'
import {
  AssignmentRef,
  CourseRef,
  CustomParameters,
  Decimal,
  Id,
  line,
  Moment,
  prose,
  SerialId,
  ToolRef,
} from './common.js'
import { Category } from './courses.js'
import { FirstEntry } from './menu.js'

export const Mark = z.object({
  name: z.enum(MARKS),
  state: z.enum(MARK_STATES),
  statement: z.string(),
  evidence: z
    .object({
      kind: z.enum(['registration', 'assignment', 'wire', 'sounding']),
      id: z.string(),
      at: Moment,
      person: z.string().nullable(),
    })
    .nullable(),
})
export type Mark = z.infer<typeof Mark>

export const PreflightRemark = z.object({
  rule: z.string(),
  verdict: z.enum(['warn', 'fail']),
  statement: z.string(),
  remedy: z.string(),
})
export type PreflightRemark = z.infer<typeof PreflightRemark>

/** Points: more than nothing up to 100,000, at most four decimals. */
export const Points = z
  .union([z.string().trim(), z.number().transform(String)])
  .pipe(z.string().regex(/^\d{1,6}(\.\d{1,4})?$/, 'a number such as 10 or 12.5, at most four decimals'))
  .refine((text) => Number(text) <= 100_000, 'at most 100000')

export const Assignment = AssignmentRef.extend({
  course: CourseRef,
  tool: ToolRef,
  instructions: z.string(),
  points: Decimal,
  category: Category.nullable(),
  state: z.enum(['draft', 'published']),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  launchUrl: z.string().nullable().describe('its own address; null uses the registration’s'),
  effectiveLaunchUrl: z.string().nullable(),
  customParameters: CustomParameters,
  resourceLinkId: z.string(),
  revision: z.int(),
  publishedAt: Moment.nullable(),
  createdAt: Moment,
  updatedAt: Moment,
  proof: z.array(Mark).length(6),
})
export type Assignment = z.infer<typeof Assignment>

export const AssignmentDetail = Assignment.extend({
  preflight: z.array(PreflightRemark),
  testLearner: z.object({ id: Id, fullName: z.string() }).nullable(),
  firstEntry: FirstEntry.describe('whether an instructor has opened it, where the tool asks for that'),
  scores: z.int().describe('scores accepted so far, the test learner’s included'),
})
export type AssignmentDetail = z.infer<typeof AssignmentDetail>

const fields = {
  title: line(200).min(1),
  instructions: prose(20_000),
  points: Points,
  category: line(80).nullable().describe('name of one of the course’s categories'),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  launchUrl: z.string().trim().max(2000).nullable(),
  customParameters: CustomParameters,
}

export const NewAssignment = z.strictObject({
  ...fields,
  tool: z.string().min(1).max(120).describe('identifier or short name of the tool'),
  instructions: fields.instructions.default(''),
  category: fields.category.default(null),
  documentTarget: fields.documentTarget.optional().describe('the registration’s own unless given'),
  launchUrl: fields.launchUrl.default(null),
  customParameters: CustomParameters.default({}),
  publish: z.boolean().default(false),
})
export const AssignmentChange = z.strictObject({
  revision: z.int(),
  ...z.object(fields).partial().shape,
  tool: z.string().min(1).max(120).optional(),
  keepScores: z.boolean().default(false).describe('go on although scores exist; they are kept and recomputed'),
})
export const PreflightQuestion = NewAssignment.partial().extend({
  tool: z.string().max(120).optional(),
  points: z.string().max(40).optional(),
})
export const PreflightAnswer = z.object({
  remarks: z.array(PreflightRemark),
  effectiveLaunchUrl: z.string().nullable(),
})

/** A learner's own standing in one assignment. */
export const MyResult = z.object({
  points: Decimal,
  shown: z.string(),
  fraction: z.string().nullable(),
  at: Moment,
})
export const Work = AssignmentRef.extend({
  course: CourseRef,
  toolName: z.string(),
  instructions: z.string(),
  points: Decimal,
  category: z.string().nullable(),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  openable: z.boolean(),
  openedAt: Moment.nullable(),
  result: MyResult.nullable(),
})
export type Work = z.infer<typeof Work>

export const LAUNCH_ROLES = ['instructor', 'learner', 'test_learner'] as const
export const LaunchTry = z.strictObject({
  as: z.enum(LAUNCH_ROLES).default('test_learner'),
  person: z.string().max(100).optional().describe('with `learner`: identifier or user name of a learner of the course'),
})
export const LaunchTried = z.object({
  wireEntryId: SerialId,
  accepted: z.boolean(),
  statement: z.string(),
  status: z.int(),
  url: z.string(),
  steps: z.array(z.object({ method: z.string(), url: z.string(), status: z.int(), durationMs: z.number() })),
  excerpt: z.string(),
  durationMs: z.number(),
})
export type LaunchTried = z.infer<typeof LaunchTried>

export { MARK_SIGNS, MARK_STATES, MARKS, proofLine, type MarkState } from '@bathyscribe/core/checks'
