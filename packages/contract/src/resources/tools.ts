import { DISCLOSURES } from '@bathyscribe/core/identity'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { SIGNATURE_METHODS } from '@bathyscribe/core/oauth1'
import { z } from 'zod'
import { CourseRef, CustomParameters, line, Moment, prose, ToolRef } from './common.js'

export const TOOL_STATES = ['draft', 'enabled', 'suspended', 'retired'] as const

export const Tool = ToolRef.extend({
  version: z.literal('1.1'),
  course: CourseRef.nullable().describe('the course it is registered for; null for the whole institution'),
  consumerKey: z.string(),
  hasSecret: z.boolean(),
  secretSetAt: Moment.nullable(),
  launchUrl: z.string().nullable(),
  signatureMethod: z.enum(SIGNATURE_METHODS),
  disclosure: z.enum(DISCLOSURES).describe('what of a person’s identity the tool may see'),
  documentTarget: z.enum(DOCUMENT_TARGETS).describe('offered first when an assignment is made'),
  customParameters: CustomParameters,
  soundingParameters: CustomParameters.describe(
    'sent only by soundings, for tools that can score without a person when told so',
  ),
  note: z.string(),
  revision: z.int(),
  createdAt: Moment,
  updatedAt: Moment,
  assignments: z.int(),
  courses: z.int(),
  lastLaunchAt: Moment.nullable(),
  lastScoreAt: Moment.nullable(),
  refusals: z.int().describe('messages refused in the last seven days'),
})
export type Tool = z.infer<typeof Tool>

const toolFields = {
  name: line(120).min(1),
  consumerKey: prose(255).min(1).describe('exactly as the tool shows it'),
  launchUrl: z.string().trim().max(2000).nullable(),
  signatureMethod: z.enum(SIGNATURE_METHODS),
  disclosure: z.enum(DISCLOSURES),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  customParameters: CustomParameters,
  soundingParameters: CustomParameters,
  note: prose(4000),
}

export const NewTool = z.strictObject({
  ...toolFields,
  sharedSecret: prose(255).optional().describe('sealed at rest; never shown again without being asked for'),
  acceptBlanks: z.boolean().default(false).describe('keep blanks around the secret: they belong to it'),
  course: z.string().max(60).nullable().default(null).describe('course identifier or code; null for the institution'),
  launchUrl: toolFields.launchUrl.default(null),
  signatureMethod: toolFields.signatureMethod.default('HMAC-SHA1'),
  disclosure: toolFields.disclosure.default('opaque'),
  documentTarget: toolFields.documentTarget.default('frame'),
  customParameters: CustomParameters.default({}),
  soundingParameters: CustomParameters.default({}),
  note: toolFields.note.default(''),
  enable: z.boolean().default(true).describe('false keeps it a draft'),
  secondReason: line(300).optional().describe('why the same tool is registered a second time'),
})

export const ToolChange = z.strictObject({
  revision: z.int().describe('of the tool as you read it; a later change by somebody else is not overwritten'),
  ...z.object(toolFields).partial().shape,
  sharedSecret: prose(255).min(1).optional(),
  acceptBlanks: z.boolean().default(false),
})

export const ToolStateChange = z.strictObject({ state: z.enum(['enabled', 'suspended', 'retired']) })
export const ToolSecret = z.object({ sharedSecret: z.string() })

export const ExchangeLine = z.object({
  label: z.string(),
  value: z.string(),
  secret: z.boolean().describe('masked here; shown on demand, which is audited'),
})
export const ExchangeSheet = z.object({
  toolNeeds: z.array(ExchangeLine).describe('what the tool’s end needs from us'),
  weHold: z.array(ExchangeLine).describe('what we hold from the tool'),
})
export type ExchangeSheet = z.infer<typeof ExchangeSheet>

export const ToolCheckFinding = z.object({
  check: z.string(),
  verdict: z.enum(['pass', 'warn', 'fail', 'skipped']),
  statement: z.string(),
  remedy: z.string().nullable(),
})
export const ToolCheck = z.object({
  verdict: z.enum(['pass', 'warn', 'fail', 'skipped']),
  findings: z.array(ToolCheckFinding),
  durationMs: z.number(),
})
export type ToolCheck = z.infer<typeof ToolCheck>
