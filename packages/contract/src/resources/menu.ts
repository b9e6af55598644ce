import { AUDIENCES, FRAME_PERMISSIONS } from '@bathyscribe/core/links'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { z } from 'zod'
import { CustomParameters, Id, line, Moment, prose, Revision, ToolRef } from './common.js'
import { FEATURES, LTI_VERSIONS } from './tools.js'

/** Whether an instructor has to open it before learners may, and who did so when. */
export const FirstEntry = z.object({
  needed: z.boolean(),
  at: Moment.nullable(),
  by: z.string().nullable(),
})

/** An entry of a course's menu. It leads straight into a tool and returns no scores. */
export const MenuEntry = z.object({
  id: Id,
  label: z.string(),
  tool: ToolRef,
  launchUrl: z.string().nullable().describe('null: the registration’s own'),
  customParameters: CustomParameters,
  documentTarget: z.enum(DOCUMENT_TARGETS),
  audience: z.enum(AUDIENCES),
  shown: z.boolean(),
  firstEntry: FirstEntry,
  revision: Revision,
})
export type MenuEntry = z.infer<typeof MenuEntry>

const fields = {
  label: line(120).min(1),
  launchUrl: z.string().trim().max(2000).nullable(),
  customParameters: CustomParameters,
  documentTarget: z.enum(DOCUMENT_TARGETS),
  audience: z.enum(AUDIENCES),
  shown: z.boolean(),
}
export const NewMenuEntry = z.strictObject({ tool: z.string().max(120), ...z.object(fields).partial().shape })
export const MenuEntryChange = z.strictObject({ revision: Revision, ...z.object(fields).partial().shape })
export const MenuOrder = z.strictObject({ entries: z.array(Id).max(200).describe('all entries, in their new order') })

/** A tool that a course may use, with what it can do. */
export const CatalogueItem = z.object({
  tool: ToolRef,
  version: z.enum(LTI_VERSIONS),
  description: z.string(),
  features: z.array(z.enum(FEATURES)),
  framed: z.boolean().describe('runs in a frame'),
  framePermissions: z.array(z.enum(FRAME_PERMISSIONS)).describe('what its pages may use there'),
  inMenu: z.boolean().describe('meant for the course’s menu'),
  own: z.boolean().describe('registered for this course only'),
  added: z.boolean(),
  links: z.int().describe('assignments and menu entries of this course on it'),
  needsKeys: z.boolean().describe('the tool issues key and secret for each course'),
  lastProvenAt: Moment.nullable(),
  lookAlikes: z.int().describe('how many others have almost the same name'),
})
export type CatalogueItem = z.infer<typeof CatalogueItem>

export const NewCourseTool = z.strictObject({
  tool: z.string().max(120),
  consumerKey: prose(255).min(1).optional().describe('the course’s own, when the tool issues them per course'),
  sharedSecret: prose(255).min(1).optional(),
  acceptBlanks: z.boolean().default(false),
  menu: z.boolean().optional().describe('also into the course’s menu; unless given, when it is meant for that'),
})
export const CourseToolAdded = z.object({ tool: ToolRef, menuEntry: MenuEntry.nullable() })
