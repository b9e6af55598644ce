import { MARK_STATES, MARKS, PROVEN_UNDER, type ProvenUnder } from '@bathyscribe/core/checks'
import { SAID_FIELDS } from '@bathyscribe/core/content'
import { COUNTING, WORK_STATES } from '@bathyscribe/core/scores'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { z } from 'zod'
import {
  AssignmentRef,
  CourseRef,
  CustomParameters,
  DatedCourse,
  Decimal,
  Id,
  KnownFacts,
  line,
  Moment,
  PersonRef,
  prose,
  Revision,
  SerialId,
  ToolRef,
} from './common.js'
import { ContentItem, PickedItem } from './content.js'
import { Category } from './courses.js'
import { FirstEntry } from './menu.js'

/** A change of something that a proof hangs on. */
export const ProofChange = z.object({
  what: z.enum(Object.keys(PROVEN_UNDER) as [ProvenUnder, ...ProvenUnder[]]),
  at: Moment,
  by: z.string().nullable(),
})
export type ProofChange = z.infer<typeof ProofChange>
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
  change: ProofChange.nullable().describe('what was changed since it was proven; null unless the state is `changed`'),
})
export type Mark = z.infer<typeof Mark>

export const PreflightRemark = z.object({
  rule: z.string(),
  field: z.string().describe('the part of the assignment that it is about'),
  verdict: z.enum(['warn', 'fail']),
  facts: KnownFacts,
  statement: z.string(),
  remedy: z.string(),
  accepted: z
    .object({ reason: z.string(), by: z.string(), at: Moment })
    .nullable()
    .default(null)
    .describe('who accepted a warning, and why'),
})
export type PreflightRemark = z.infer<typeof PreflightRemark>

/** Points: up to 100,000, at most four decimals; 0 is for what is not counted. */
export const Points = z
  .union([z.string().trim(), z.number().transform(String)])
  .pipe(z.string().regex(/^\d{1,6}(\.\d{1,4})?$/, 'a number such as 10 or 12.5, at most four decimals'))
  .refine((text) => Number(text) <= 100_000, 'at most 100000')

/** What console and command line make an assignment out of when nobody says. */
export const USUAL_POINTS = '100'

/** Whom an assignment is for, when not for everyone. */
export const Audience = z.object({
  groups: z.array(z.object({ id: Id, name: z.string(), members: z.int() })),
  people: z.array(PersonRef),
  reached: z.int().describe('learners that it is for'),
})
export type Audience = z.infer<typeof Audience>

export const Assignment = AssignmentRef.extend({
  course: DatedCourse,
  tool: ToolRef,
  instructions: z.string(),
  points: Decimal,
  counted: z.boolean().describe('whether its points enter the total'),
  counting: z.enum(COUNTING).describe('which of the scores received counts'),
  released: z.boolean().describe('whether learners see their results'),
  category: Category.nullable(),
  state: z.enum(['draft', 'published', 'deleted']),
  opensAt: Moment.nullable(),
  dueAt: Moment.nullable(),
  closesAt: Moment.nullable(),
  attempts: z.int().nullable().describe('how often a learner may hand in; null for unlimited'),
  audience: Audience.nullable().describe('null: everyone'),
  content: ContentItem.nullable().describe('what the tool’s picker handed over'),
  contentTool: Id.nullable(),
  unit: z.object({ id: Id, title: z.string(), published: z.boolean() }).nullable(),
  rowKey: z.string().nullable().describe('of the table row that it was made from'),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  launchUrl: z.string().nullable().describe('its own address; null uses the registration’s'),
  effectiveLaunchUrl: z.string().nullable(),
  customParameters: CustomParameters,
  resourceLinkId: z.string(),
  revision: Revision,
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
  instructions: prose(50_000).describe('rich text; what could do harm is taken out'),
  points: Points,
  counted: z.boolean().describe('false for work whose points enter no total'),
  counting: z.enum(COUNTING),
  released: z.boolean(),
  category: line(80).nullable().describe('name of one of the course’s categories'),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  launchUrl: z.string().trim().max(2000).nullable(),
  customParameters: CustomParameters,
  opensAt: Moment.nullable(),
  dueAt: Moment.nullable(),
  closesAt: Moment.nullable(),
  attempts: z.int().min(1).max(999).nullable(),
  audience: z
    .strictObject({
      groups: z
        .array(z.string().max(120))
        .max(200)
        .default([])
        .describe('identifiers, or names where they are unmistakable'),
      people: z.array(z.string().max(100)).max(500).default([]).describe('identifiers or user names'),
    })
    .nullable()
    .describe('null: everyone'),
  content: PickedItem.nullable().describe('an item of a picking; null takes the content out'),
  unit: Id.nullable().describe('the unit that it is added to, at the end'),
}

const publishUnit = z
  .boolean()
  .default(false)
  .describe('with it, publishes the unit that it stands in; what else stands there keeps its own state')

export const NewAssignment = z.strictObject({
  ...fields,
  tool: z.string().min(1).max(120).describe('identifier or short name of the tool'),
  instructions: fields.instructions.default(''),
  category: fields.category.default(null),
  documentTarget: fields.documentTarget.optional().describe('the registration’s own unless given'),
  launchUrl: fields.launchUrl.default(null),
  customParameters: CustomParameters.default({}),
  counted: z.boolean().default(true),
  counting: z.enum(COUNTING).default('latest'),
  released: z.boolean().default(true),
  opensAt: fields.opensAt.default(null),
  dueAt: fields.dueAt.default(null),
  closesAt: fields.closesAt.default(null),
  attempts: fields.attempts.default(null),
  audience: fields.audience.default(null),
  content: fields.content.default(null),
  unit: fields.unit.default(null),
  publish: z.boolean().default(false),
  publishUnit,
})
/** How an assignment is published. */
export const Publishing = z.strictObject({ publishUnit })
export const AssignmentChange = z.strictObject({
  revision: Revision,
  ...z.object(fields).partial().shape,
  tool: z.string().min(1).max(120).optional(),
  keepScores: z.boolean().default(false).describe('go on although scores exist; they are kept and recomputed'),
})
export const PreflightQuestion = NewAssignment.partial().extend({
  assignment: z.string().max(200).optional().describe('when an existing one is being changed'),
  tool: z.string().max(120).optional(),
  points: z.string().max(40).optional(),
})
export const Difference = z.object({
  field: z.enum(SAID_FIELDS),
  typed: z.string().nullable(),
  offered: z.string(),
  fills: z.boolean().describe('nothing was typed yet'),
})
export type Difference = z.infer<typeof Difference>
export const PreflightAnswer = z.object({
  remarks: z.array(PreflightRemark),
  effectiveLaunchUrl: z.string().nullable(),
  differences: z.array(Difference).describe('what the picked content says otherwise'),
})
export const Acceptance = z.strictObject({ rule: z.string().max(60), reason: line(500).min(3) })
export const CoursePreflight = z.object({
  items: z.array(
    AssignmentRef.extend({ tool: ToolRef, state: z.enum(['draft', 'published']), remarks: z.array(PreflightRemark) }),
  ),
  evaluated: z.int().describe('rules looked at'),
})
export type CoursePreflight = z.infer<typeof CoursePreflight>

/** A table of assignments: checked as a whole, then made in one go or not at all. */
export const TableQuestion = z.strictObject({
  table: z.string().min(1).max(480_000).describe('CSV or pasted cells; the first line holds the heads'),
  tool: z.string().max(120).optional().describe('for rows that name none'),
  category: line(80).optional().describe('for rows that name none'),
  unit: line(200).optional().describe('title of the unit, for rows that name none'),
  acceptWarnings: z
    .boolean()
    .optional()
    .describe('unless said, all are accepted but one: an address with somebody’s session in it is not published'),
})
export const TABLE_ACTS = ['make', 'change', 'keep', 'refuse'] as const
export const TableRow = z.object({
  line: z.int(),
  key: z.string(),
  title: z.string(),
  act: z.enum(TABLE_ACTS).describe('`keep`: it is there and nothing differs'),
  assignment: AssignmentRef.nullable(),
  tool: z.string().nullable(),
  points: z.string().nullable(),
  changes: z.array(z.object({ field: z.string(), now: z.string(), wanted: z.string() })),
  problems: z.array(z.object({ column: z.string(), message: z.string() })),
  remarks: z.array(PreflightRemark),
})
export type TableRow = z.infer<typeof TableRow>
export const TableAnswer = z.object({
  rows: z.array(TableRow),
  unknownColumns: z.array(z.string()),
  makes: z.int(),
  changes: z.int(),
  keeps: z.int(),
  refuses: z.int(),
  done: z.boolean().describe('false when it was only checked'),
})
export type TableAnswer = z.infer<typeof TableAnswer>
export const PickedAssignments = z.strictObject({
  picking: Id,
  items: z.array(z.int().min(0)).max(500).optional().describe('all tool links of the answer unless given'),
  points: Points.optional().describe('for items that say none'),
  category: line(80).nullable().default(null),
  unit: Id.nullable().default(null),
  publish: z.boolean().default(false),
})

/** A learner's own standing in one assignment. */
export const MyResult = z.object({
  state: z.enum(WORK_STATES),
  points: Decimal.nullable(),
  shown: z.string().nullable(),
  sent: z.string().nullable(),
  sentOutOf: z.string().nullable(),
  overridden: z.boolean().describe('your instructor’s own points'),
  comment: z.string().nullable(),
  at: Moment.nullable(),
})
/** An assignment as a search finds it. */
export const FoundAssignment = AssignmentRef.extend({
  course: CourseRef,
  toolName: z.string(),
  state: z.enum(['draft', 'published']),
})

export const Work = AssignmentRef.extend({
  course: DatedCourse,
  toolName: z.string(),
  instructions: z.string(),
  points: Decimal,
  category: z.string().nullable(),
  counted: z.boolean(),
  opensAt: Moment.nullable(),
  dueAt: Moment.nullable(),
  closesAt: Moment.nullable(),
  attempts: z.int().nullable(),
  handedIn: z.int().describe('how often you have handed in'),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  openable: z.boolean(),
  obstacle: z.string().nullable().describe('why it cannot be opened just now'),
  openedAt: Moment.nullable(),
  result: MyResult.nullable(),
  reviewable: z.boolean().describe('whether you can look at what you handed in, in the tool'),
  reportable: z.boolean().describe('whether you can say that your score is missing'),
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

export { ASSIGNMENT_COLUMNS } from '@bathyscribe/core/formats'
export { changeInWords, MARK_SIGNS, MARK_STATES, MARKS, proofLine, type MarkState } from '@bathyscribe/core/checks'
