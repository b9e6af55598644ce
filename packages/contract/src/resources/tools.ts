import { scopeNamed } from '@bathyscribe/core/lti13'
import { DISCLOSURES } from '@bathyscribe/core/identity'
import { AUDIENCES, FRAME_PERMISSIONS, PLACES } from '@bathyscribe/core/links'
import { DOCUMENT_TARGETS } from '@bathyscribe/core/lti1'
import { MESSAGE_TYPES } from '@bathyscribe/core/lti13'
import { SIGNATURE_METHODS } from '@bathyscribe/core/oauth1'
import { z } from 'zod'
import {
  CourseRef,
  CustomParameters,
  Id,
  KnownFacts,
  line,
  Moment,
  PersonRef,
  prose,
  Revision,
  ToolRef,
} from './common.js'

export const LTI_VERSIONS = ['1.1', '1.3'] as const
export type LtiVersion = (typeof LTI_VERSIONS)[number]
/** What a tool can do beside being opened. */
export const FEATURES = ['scores', 'roster', 'picker'] as const
export type Feature = (typeof FEATURES)[number]
/** To which courses a tool of the institution is offered. */
export const OFFERS = ['all', 'named', 'none'] as const
export type Offer = (typeof OFFERS)[number]
/** What an instructor must have opened before learners may: nothing, the tool in this course, or each link. */
export const FIRST_ENTRY_RULES = ['none', 'course', 'link'] as const
export type FirstEntryRule = (typeof FIRST_ENTRY_RULES)[number]

const address = z.string().trim().max(2000)

export const Placement = z.strictObject({
  place: z.enum(PLACES),
  label: line(120).min(1).nullable().default(null).describe('null: the tool’s name'),
  launchUrl: address.nullable().default(null).describe('null: the registration’s launch address'),
  audience: z.enum(AUDIENCES).default('everyone'),
  target: z.enum(DOCUMENT_TARGETS).default('frame'),
})
export const Placements = z
  .array(Placement)
  .max(PLACES.length)
  .refine((all) => new Set(all.map((one) => one.place)).size === all.length, 'each place once')

/** What a tool says of itself, in the words of the form that it is read into. */
export const ToolMetadata = z.object({
  name: z.string(),
  description: z.string(),
  initiationUrl: z.string(),
  redirectUris: z.array(z.string()),
  keysetUrl: z.string().nullable(),
  targetLinkUri: z.string(),
  domain: z.string(),
  scopes: z.array(z.object({ scope: z.string(), allows: z.string() })),
  unknownScopes: z.array(z.string()),
  claims: z.array(z.string()),
  customParameters: CustomParameters,
  messages: z.array(
    z.object({
      type: z.enum(MESSAGE_TYPES),
      targetLinkUri: z.string().nullable(),
      label: z.string().nullable(),
      customParameters: CustomParameters,
      places: z.array(z.enum(PLACES)),
    }),
  ),
  unknownMessages: z.array(z.string()),
  iconUrl: z.string().nullable(),
  clientUrl: z.string().nullable(),
  policyUrl: z.string().nullable(),
  termsUrl: z.string().nullable(),
  contacts: z.array(z.string()),
})
export type ToolMetadataView = z.infer<typeof ToolMetadata>

export { FRAME_PERMISSIONS, type FramePermission } from '@bathyscribe/core/links'

export const Tool = ToolRef.extend({
  version: z.enum(LTI_VERSIONS),
  description: z.string(),
  course: CourseRef.nullable().describe('the course it is registered for; null for the whole institution'),
  consumerKey: z.string().nullable(),
  hasSecret: z.boolean(),
  secretSetAt: Moment.nullable(),
  clientId: z.string().nullable(),
  configurationUrl: z.string().nullable().describe('where the vendor publishes this configuration'),
  initiationUrl: z.string().nullable(),
  redirectUris: z.array(z.string()),
  keysetUrl: z.string().nullable(),
  publicKeys: z.int().describe('keys that were pasted instead of an address'),
  scopes: z.array(z.string()).describe('granted'),
  features: z.array(z.enum(FEATURES)),
  placements: z.array(Placement),
  offer: z.enum(OFFERS),
  offeredTo: z.array(CourseRef).describe('when it is offered to named courses'),
  keysPerCourse: z.boolean().describe('the tool issues key and secret for each course'),
  firstEntry: z.enum(FIRST_ENTRY_RULES),
  scoresWhileSuspended: z.boolean(),
  launchUrl: z.string().nullable(),
  pickerUrl: z.string().nullable().describe('where its picker is opened; null for the launch address'),
  learnerText: z.string().describe('rich text for learners, offered when an assignment on it is made'),
  exactTitles: z.array(z.string()).describe('exact titles under which it opens; empty for any'),
  framePermissions: z
    .array(z.enum(FRAME_PERMISSIONS))
    .describe('what its pages may use in a frame; the browser still asks the person'),
  framing: z.enum(['unknown', 'allowed', 'refused']).describe('what its pages said of frames when last looked at'),
  signatureMethod: z.enum(SIGNATURE_METHODS),
  disclosure: z.enum(DISCLOSURES).describe('what of a person’s identity the tool may see'),
  documentTarget: z.enum(DOCUMENT_TARGETS).describe('offered first when an assignment is made'),
  customParameters: CustomParameters,
  soundingParameters: CustomParameters.describe(
    'sent only by soundings, for tools that can score without a person when told so',
  ),
  note: z.string(),
  asked: ToolMetadata.nullable().describe('what the tool said of itself when it registered'),
  proposal: z
    .object({
      metadata: ToolMetadata,
      differences: z.array(z.object({ what: z.string(), now: z.string(), proposed: z.string() })),
    })
    .nullable()
    .describe('what the tool wants to be changed'),
  deletedAt: Moment.nullable(),
  replacedBy: ToolRef.nullable(),
  lookAlikes: z.array(ToolRef).describe('others of almost the same name'),
  revision: Revision,
  createdAt: Moment,
  updatedAt: Moment,
  assignments: z.int(),
  menuEntries: z.int(),
  unitItems: z.int().describe('links in units that return no score'),
  courses: z.int(),
  lastLaunchAt: Moment.nullable(),
  lastScoreAt: Moment.nullable(),
  refusals: z.int().describe('messages refused in the last seven days'),
})
export type Tool = z.infer<typeof Tool>

/** A scope by its whole name, or by the end of it: `score`, `roster`. */
const ScopeName = z
  .string()
  .max(200)
  .transform((text): string => scopeNamed(text) ?? text)

const toolFields = {
  name: line(120).min(1),
  description: prose(2000),
  consumerKey: prose(255).min(1).describe('exactly as the tool shows it'),
  launchUrl: address.nullable().describe('of LTI 1.3 the target link URI'),
  configurationUrl: address.nullable(),
  initiationUrl: address,
  redirectUris: z.array(address.min(1)).max(20),
  keysetUrl: address.nullable(),
  publicKeys: prose(100_000).describe('a keyset as JSON, or one or more public keys as PEM'),
  scopes: z.array(ScopeName).max(20),
  features: z.array(z.enum(FEATURES)).max(FEATURES.length),
  placements: Placements,
  pickerUrl: address.nullable(),
  learnerText: prose(20_000),
  exactTitles: z.array(line(200).min(1)).max(100),
  framePermissions: z
    .array(z.enum(FRAME_PERMISSIONS))
    .max(FRAME_PERMISSIONS.length)
    .transform((all) => [...new Set(all)]),
  firstEntry: z.enum(FIRST_ENTRY_RULES),
  keysPerCourse: z.boolean(),
  signatureMethod: z.enum(SIGNATURE_METHODS),
  disclosure: z.enum(DISCLOSURES),
  documentTarget: z.enum(DOCUMENT_TARGETS),
  customParameters: CustomParameters,
  soundingParameters: CustomParameters,
  note: prose(4000),
}
const changeable = z.object(toolFields).partial().shape

export const NewTool = z.strictObject({
  ...changeable,
  name: toolFields.name,
  version: z.enum(LTI_VERSIONS).default('1.1'),
  sharedSecret: prose(255).optional().describe('sealed at rest; never shown again without being asked for'),
  acceptBlanks: z.boolean().default(false).describe('keep spaces around the secret: they belong to it'),
  course: z.string().max(60).nullable().default(null).describe('course identifier or code; null for the institution'),
  offer: z.enum(OFFERS).default('all'),
  offeredTo: z.array(z.string().max(60)).max(500).default([]).describe('courses, when it is offered to named ones'),
  enable: z.boolean().default(true).describe('false keeps it a draft'),
  secondReason: line(300).optional().describe('why the same tool is registered a second time'),
})
export type NewTool = z.input<typeof NewTool>

const ToolRevision = Revision.describe('of the tool as you read it; a later change by somebody else is not overwritten')

export const ToolChange = z.strictObject({
  revision: ToolRevision,
  ...changeable,
  sharedSecret: prose(255)
    .min(1)
    .optional()
    .describe('puts a mistyped one right, at once; rotation is a call of its own'),
  acceptBlanks: z.boolean().default(false),
})
export const ToolStateChange = z.strictObject({
  state: z.enum(['enabled', 'suspended', 'retired']),
  scoresWhileSuspended: z.boolean().optional().describe('whether scores are still taken while it is suspended'),
})
export const ToolOffer = z.strictObject({
  revision: ToolRevision,
  offer: z.enum(OFFERS),
  courses: z.array(z.string().max(60)).max(500).default([]),
})
/** An administrator's answer to a registration that waits, or to a change that a tool proposes. */
export const Approval = z.strictObject({
  revision: ToolRevision,
  scopes: z.array(ScopeName).max(20).optional().describe('granted, of those asked for; all of them unless given'),
  placements: Placements.optional(),
  disclosure: z.enum(DISCLOSURES).optional(),
  offer: z.enum(OFFERS).optional(),
})
export const ToolRefusal = z.strictObject({ revision: ToolRevision, reason: line(300).default('') })
export const ToolReplacement = z.strictObject({
  with: z.string().max(120).describe('identifier or short name'),
  course: z.string().max(60).optional().describe('moves only the links of this course, and retires nothing'),
})
export const ReplacementPreview = z.object({
  courses: z.array(
    z.object({
      course: CourseRef,
      assignments: z.int(),
      published: z.int(),
      counted: z.int(),
      menuEntries: z.int(),
      unitItems: z.int(),
      results: z.int().describe('in the gradebook; they stay'),
      ownAddresses: z.int().describe('links with an address of their own, which they keep'),
    }),
  ),
  remarks: z.array(z.object({ verdict: z.enum(['warn', 'fail']), statement: z.string() })),
  retires: z.boolean().describe('whether the registration is retired by it'),
})
export type ReplacementPreview = z.infer<typeof ReplacementPreview>
export const Replacement = z.object({
  id: Id,
  at: Moment,
  from: ToolRef,
  to: ToolRef,
  course: CourseRef.nullable().describe('null: all courses'),
  by: z.string().nullable(),
  links: z.int().describe('that were moved'),
  still: z.int().describe('of them, that are still where they were moved to'),
  undoneAt: Moment.nullable(),
})
export type Replacement = z.infer<typeof Replacement>

/** What people call the addresses of a registration. */
export const ADDRESS_WORDS: Readonly<Record<string, string>> = {
  launchUrl: 'launch address',
  initiationUrl: 'login initiation address',
  keysetUrl: 'keyset address',
  pickerUrl: 'picker address',
  configurationUrl: 'configuration address',
  redirectUris: 'redirect address',
}
export const AddressMoveWanted = z.strictObject({
  from: address.min(1).describe('what the addresses begin with now, such as https://old.example/lti'),
  to: address.min(1).describe('what they are to begin with'),
  course: z.string().max(60).optional().describe('moves only the links of this course; the registration stays'),
})
const MovedLink = z.object({
  course: CourseRef,
  kind: z.enum(['assignment', 'menu_entry', 'unit_item']),
  title: z.string(),
  before: z.string(),
  after: z.string(),
})
export const AddressMovePreview = z.object({
  registration: z
    .array(z.object({ field: z.string(), before: z.string(), after: z.string() }))
    .describe('addresses of the registration itself; empty where only one course is moved'),
  courses: z.array(z.object({ course: CourseRef, addresses: z.int() })),
  addresses: z.int().describe('of links, in all'),
  links: z.array(MovedLink).describe('the first 50 of them'),
  staying: z.int().describe('addresses that links have of their own and that begin otherwise'),
  remarks: z.array(z.object({ verdict: z.enum(['warn', 'fail']), statement: z.string() })),
})
export type AddressMovePreview = z.infer<typeof AddressMovePreview>
export const MovedAddresses = z.object({
  id: Id,
  at: Moment,
  from: z.string(),
  to: z.string(),
  course: CourseRef.nullable().describe('null: all courses, and the registration'),
  by: z.string().nullable(),
  addresses: z.int().describe('of links, that were moved'),
  still: z.int().describe('of them, that are still what they were moved to'),
  undoneAt: Moment.nullable(),
})
export type MovedAddresses = z.infer<typeof MovedAddresses>

/** What depends on a registration: what would go, move or stop with it. */
export const ToolImpact = z.object({
  assignments: z.int(),
  published: z.int(),
  menuEntries: z.int(),
  courses: z.array(CourseRef),
  scores: z.int().describe('results in gradebooks; they are kept whatever happens'),
  undoDays: z.int().describe('how long a deleted one can be restored'),
})

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

export const Deployment = z.object({
  id: z.string(),
  course: CourseRef.nullable(),
  label: z.string(),
  createdAt: Moment,
})
export const NewDeployment = z.strictObject({ course: z.string().max(60), label: line(120).default('') })

export const ToolCheckFinding = z.object({
  check: z.string(),
  code: z.string().describe('what the check found'),
  verdict: z.enum(['pass', 'warn', 'fail', 'skipped']),
  facts: KnownFacts,
  statement: z.string(),
  remedy: z.string().nullable(),
})
export const ToolCheck = z.object({
  verdict: z.enum(['pass', 'warn', 'fail', 'skipped']),
  findings: z.array(ToolCheckFinding),
  durationMs: z.number(),
})
export type ToolCheck = z.infer<typeof ToolCheck>

export const ShowingQuery = z.strictObject({
  course: z.string().max(60),
  role: z.enum(['instructor', 'learner']).default('learner'),
})
export const Showing = z.object({
  place: z.enum(PLACES),
  shows: z.boolean(),
  label: z.string().nullable(),
  target: z.enum(DOCUMENT_TARGETS).nullable(),
  reason: z.string(),
})

/** What a launch would say of one real person, name by name. */
export const IdentityPreview = z.object({
  person: PersonRef,
  role: z.string(),
  sent: z.array(z.object({ name: z.string(), value: z.string() })),
  keptBack: z.array(z.string()).describe('what is known of the person, but not sent'),
  custom: z.array(z.object({ name: z.string(), given: z.string(), sent: z.string() })),
})
export type IdentityPreview = z.infer<typeof IdentityPreview>
export const PreviewQuery = z.strictObject({
  course: z.string().max(60),
  person: z.string().max(100).optional().describe('identifier or user name; the first learner unless given'),
  disclosure: z.enum(DISCLOSURES).optional().describe('as it would be under another limit'),
})

export const Invitation = z.object({
  id: Id,
  address: z.string().describe('the tool’s own'),
  openAt: z.string().describe('where a browser goes on: the address with token and configuration'),
  expiresAt: Moment,
  usedAt: Moment.nullable(),
  tool: ToolRef.nullable().describe('what the tool registered as'),
  registeredAlready: z.boolean().describe('it came and was refused, because the same tool is registered already'),
  sameAs: ToolRef.nullable().describe('as this; null also where you may not see it'),
  said: z.string().nullable().describe('what the tool’s page answered when the service opened it'),
})
export type Invitation = z.infer<typeof Invitation>
export const NewInvitation = z.strictObject({
  address: address.min(1),
  course: z.string().max(60).nullable().default(null),
  open: z
    .boolean()
    .default(false)
    .describe('the service opens the address itself, for tools that need nobody to click'),
  name: line(120).min(1).optional().describe('its name here; the one it gives itself unless given'),
  secondReason: line(300).min(1).optional().describe('why the same tool registers a second time'),
})
