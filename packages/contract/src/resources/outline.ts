import { MARK_STATES, MARKS } from '@bathyscribe/core/checks'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { z } from 'zod'
import { CustomParameters, DatedCourse, Decimal, Id, line, Moment, prose, Revision, ToolRef } from './common.js'
import { PickedItem } from './content.js'

export const UNIT_ITEM_KINDS = ['assignment', 'tool_link', 'page', 'file', 'address', 'heading'] as const

/** What stands in a unit. Fields of other kinds are null. */
export const UnitItem = z.object({
  id: Id,
  kind: z.enum(UNIT_ITEM_KINDS),
  title: z.string(),
  published: z.boolean(),
  pinned: z.boolean().describe('also on the course’s welcome page'),
  revision: Revision,
  assignment: z
    .object({
      id: Id,
      slug: z.string(),
      points: Decimal,
      counted: z.boolean(),
      opensAt: Moment.nullable(),
      dueAt: Moment.nullable(),
      closesAt: Moment.nullable(),
      proof: z
        .array(z.object({ name: z.enum(MARKS), state: z.enum(MARK_STATES), statement: z.string() }))
        .describe('the six marks; empty for learners'),
      result: z.string().nullable().describe('a learner’s own, as shown'),
      opened: z.boolean().describe('a learner’s own'),
    })
    .nullable(),
  tool: ToolRef.nullable(),
  documentTarget: z.enum(DOCUMENT_TARGETS).nullable(),
  file: z.object({ id: Id, name: z.string(), mediaType: z.string(), bytes: z.int() }).nullable(),
  address: z.string().nullable(),
})
export type UnitItem = z.infer<typeof UnitItem>
export const UnitItemDetail = UnitItem.extend({
  course: DatedCourse,
  body: z.string().describe('rich text, sanitised'),
  launchUrl: z.string().nullable(),
  customParameters: CustomParameters.nullable(),
})
export type UnitItemDetail = z.infer<typeof UnitItemDetail>

export const Unit = z.object({
  id: Id,
  title: z.string(),
  published: z.boolean(),
  revision: Revision,
  items: z.array(UnitItem),
})
export type Unit = z.infer<typeof Unit>

export const Outline = z.object({
  course: DatedCourse,
  revision: Revision.describe('of the welcome page'),
  welcome: z.string().describe('rich text, sanitised'),
  units: z.array(Unit),
  loose: z.array(UnitItem).describe('assignments in no unit; for learners the published ones'),
})
export type Outline = z.infer<typeof Outline>

export const NewUnit = z.strictObject({ title: line(200).min(1), published: z.boolean().default(false) })
export const UnitChange = z.strictObject({
  revision: Revision,
  title: line(200).min(1).optional(),
  published: z.boolean().optional(),
  withItems: z.boolean().default(false).describe('publishes or hides everything in it that can be, too'),
})
export const OutlineOrder = z.strictObject({
  units: z
    .array(z.strictObject({ unit: Id, items: z.array(Id).max(2000) }))
    .max(300)
    .describe('all units with all of their items, in their new order; items may go from one unit to another'),
})

const fields = {
  title: line(200),
  published: z.boolean(),
  pinned: z.boolean(),
  body: prose(100_000).describe('rich text; what could do harm is taken out'),
  address: z.string().trim().max(2000),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  launchUrl: z.string().trim().max(2000).nullable(),
  customParameters: CustomParameters,
}
export const NewUnitItem = z.strictObject({
  kind: z.enum(UNIT_ITEM_KINDS),
  unit: Id.nullable().describe('null only for a tool link that running text shows'),
  ...z.object(fields).partial().shape,
  assignment: z.string().max(200).optional().describe('to place an assignment'),
  file: Id.optional(),
  tool: z.string().max(120).optional(),
  content: PickedItem.optional().describe('what a picker handed over'),
})
export type NewUnitItem = z.input<typeof NewUnitItem>
export const UnitItemChange = z.strictObject({ revision: Revision, ...z.object(fields).partial().shape })
export const WelcomeChange = z.strictObject({ revision: Revision, welcome: prose(100_000) })

/** What is due next, for a learner, over all courses. */
export const DueItem = z.object({
  assignment: z.object({ id: Id, slug: z.string(), title: z.string() }),
  course: DatedCourse,
  dueAt: Moment,
  closesAt: Moment.nullable(),
  points: Decimal,
  opened: z.boolean(),
  handedIn: z.boolean(),
})
export type DueItem = z.infer<typeof DueItem>
