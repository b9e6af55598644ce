import { ITEM_KINDS } from '@bathyscribe/core/content'
import { PARAMETER_VERDICTS } from '@bathyscribe/core/links'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { z } from 'zod'
import { CustomParameters, Decimal, Id, Moment, SerialId, ToolRef } from './common.js'

/** The column that a tool wants for an item. */
export const WantedColumn = z.object({
  label: z.string(),
  points: Decimal.nullable(),
  resourceId: z.string().nullable(),
  tag: z.string().nullable(),
  review: z
    .object({ url: z.string().nullable(), custom: CustomParameters })
    .optional()
    .describe('set when the tool shows single submissions of it'),
})

/** One item of a picker's answer, in the tool's own words. */
export const ContentItem = z.object({
  kind: z.enum(ITEM_KINDS),
  url: z.string().nullable(),
  title: z.string(),
  text: z.string(),
  html: z.string().describe('sanitised'),
  iconUrl: z.string().nullable(),
  mediaType: z.string().nullable(),
  target: z.enum(DOCUMENT_TARGETS).nullable(),
  custom: CustomParameters,
  column: WantedColumn.nullable(),
  opensAt: Moment.nullable(),
  dueAt: Moment.nullable(),
  closesAt: Moment.nullable(),
  expiresAt: Moment.nullable(),
  fileId: Id.nullable().optional().describe('the course file that it was fetched into, before its address expired'),
})
export type ContentItem = z.infer<typeof ContentItem>

export const PICKING_PURPOSES = ['assignment', 'unit', 'text'] as const
export const PICKING_STATES = ['open', 'answered', 'empty', 'failed', 'left'] as const

/** One question to a tool's picker, and what came back. */
export const Picking = z.object({
  id: Id,
  tool: ToolRef,
  purpose: z.enum(PICKING_PURPOSES),
  state: z.enum(PICKING_STATES).describe('`empty`: the tool came back without an item; `left`: given up here'),
  items: z.array(ContentItem),
  problems: z
    .array(z.object({ place: z.int(), title: z.string(), code: z.string(), sentence: z.string() }))
    .describe('items that were not taken, and why'),
  said: z.string().nullable().describe('what the tool said to people'),
  code: z.string().nullable().describe('why the answer was refused'),
  sentence: z.string().nullable(),
  openAt: z.string().describe('page that opens the picker in a frame'),
  windowAt: z.string().describe('page that opens it in a window'),
  wireEntryId: SerialId.nullable(),
  madeAt: Moment,
  expiresAt: Moment,
  answeredAt: Moment.nullable(),
})
export type Picking = z.infer<typeof Picking>

export const NewPicking = z.strictObject({
  tool: z.string().min(1).max(120),
  purpose: z.enum(PICKING_PURPOSES).default('assignment'),
  assignment: z.string().max(200).optional().describe('when the content of an existing one is picked again'),
  multiple: z.boolean().default(false),
})
/** An item of a picking, by its place in the answer, from 0. */
export const PickedItem = z.strictObject({ picking: Id, item: z.int().min(0).max(1000) })

export const AddressQuestion = z.strictObject({
  address: z.string().min(1).max(4000),
  keep: z.array(z.string().max(200)).max(50).default([]).describe('parameters to keep whatever they look like'),
  drop: z.array(z.string().max(200)).max(50).default([]).describe('parameters to take out whatever they look like'),
})
/** A pasted address, read. */
export const AddressAnswer = z.object({
  original: z.string(),
  cleaned: z.string(),
  parameters: z.array(
    z.object({
      name: z.string(),
      value: z.string(),
      verdict: z.enum(PARAMETER_VERDICTS),
      reason: z.string(),
      kept: z.boolean(),
    }),
  ),
  remarks: z.array(z.string()),
  tools: z
    .array(ToolRef)
    .describe('registrations of this course that the address belongs to; none or several is possible'),
})
export type AddressAnswer = z.infer<typeof AddressAnswer>
