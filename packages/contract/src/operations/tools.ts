import { z } from 'zod'
import { Id, page, PageQuery, TOOL_STATES } from '../resources/common.js'
import { IntakeAnswer, IntakeQuestion } from '../resources/intake.js'
import * as keys from '../resources/keys.js'
import * as tools from '../resources/tools.js'
import { administrator, administratorFresh, person, registrar } from './access.js'
import { define } from './define.js'

const tool = z.object({ tool: z.string().max(120).describe('identifier or short name') })
const reading = { ...registrar, scope: 'read' } as const

/** Registrations: from what a vendor hands over to the end of their use. */
export const toolOperations = {
  readIntake: define('tools', 'POST /api/intake', 'Reads what a vendor handed over; nothing is registered', {
    access: registrar,
    body: IntakeQuestion,
    answer: IntakeAnswer,
  }),
  listTools: define('tools', 'GET /api/tools', 'Lists the tools you may see', {
    touchedBy: ['refusal', 'tool', 'menu'],
    access: person,
    query: PageQuery.extend({
      search: z.string().max(100).optional(),
      course: z.string().max(60).optional().describe('only those that this course may use'),
      state: z.enum(TOOL_STATES).optional().describe('deleted ones are listed only when asked for'),
    }),
    answer: page(tools.Tool),
  }),
  registerTool: define('tools', 'POST /api/tools', 'Registers a tool by what is known of it', {
    access: registrar,
    status: 201,
    body: tools.NewTool,
    answer: tools.Tool,
  }),
  inviteTool: define(
    'tools',
    'POST /api/tools/invitations',
    'Lets a tool register itself; it waits for approval then',
    {
      access: registrar,
      perMinute: 30,
      status: 201,
      body: tools.NewInvitation,
      answer: tools.Invitation,
    },
  ),
  showInvitation: define('tools', 'GET /api/tools/invitations/:id', 'Whether the tool has registered itself yet', {
    touchedBy: ['tool'],
    access: reading,
    params: z.object({ id: Id }),
    answer: tools.Invitation,
  }),
  showTool: define('tools', 'GET /api/tools/:tool', 'Shows a tool', {
    touchedBy: ['tool', 'menu'],
    access: person,
    params: tool,
    answer: tools.Tool,
  }),
  changeTool: define('tools', 'PATCH /api/tools/:tool', 'Changes a registration', {
    access: registrar,
    params: tool,
    body: tools.ToolChange,
    answer: tools.Tool,
  }),
  setToolState: define('tools', 'PUT /api/tools/:tool/state', 'Enables, suspends or retires a tool', {
    access: registrar,
    params: tool,
    body: tools.ToolStateChange,
    answer: tools.Tool,
  }),
  approveTool: define('tools', 'POST /api/tools/:tool/approve', 'Approves a registration that waits, all or in part', {
    access: administrator,
    params: tool,
    body: tools.Approval,
    answer: tools.Tool,
  }),
  refuseTool: define('tools', 'POST /api/tools/:tool/refuse', 'Refuses a registration that waits', {
    access: administrator,
    params: tool,
    body: tools.ToolRefusal,
    answer: tools.Tool,
  }),
  acceptProposal: define('tools', 'POST /api/tools/:tool/proposal/accept', 'Takes over what the tool wants changed', {
    access: administrator,
    params: tool,
    body: tools.Approval,
    answer: tools.Tool,
  }),
  declineProposal: define('tools', 'POST /api/tools/:tool/proposal/decline', 'Leaves the registration as it is', {
    access: administrator,
    params: tool,
    body: tools.ToolRefusal,
    answer: tools.Tool,
  }),
  offerTool: define('tools', 'PUT /api/tools/:tool/offer', 'Says which courses may use a tool of the institution', {
    access: administrator,
    params: tool,
    body: tools.ToolOffer,
    answer: tools.Tool,
  }),
  showToolImpact: define('tools', 'GET /api/tools/:tool/impact', 'What depends on a registration', {
    touchedBy: ['tool', 'assignment', 'menu'],
    access: reading,
    params: tool,
    answer: tools.ToolImpact,
  }),
  deleteTool: define('tools', 'DELETE /api/tools/:tool', 'Deletes a registration; it can be restored for a while', {
    access: registrar,
    params: tool,
    answer: tools.Tool,
  }),
  restoreTool: define('tools', 'POST /api/tools/:tool/restore', 'Brings a deleted registration back', {
    access: registrar,
    params: tool,
    answer: tools.Tool,
  }),
  replaceTool: define(
    'tools',
    'POST /api/tools/:tool/replace',
    'Moves every link to another registration; retires this one',
    {
      access: administrator,
      params: tool,
      body: tools.ToolReplacement,
      answer: tools.Tool,
    },
  ),
  previewReplacement: define(
    'tools',
    'POST /api/tools/:tool/replacement-preview',
    'Says what would move to another registration, and what speaks against it',
    {
      touchedBy: ['assignment', 'tool'],
      access: { ...administrator, scope: 'read' },
      params: tool,
      body: tools.ToolReplacement,
      answer: tools.ReplacementPreview,
    },
  ),
  listReplacements: define('tools', 'GET /api/tools/:tool/replacements', 'Lists what was moved to or from it', {
    touchedBy: ['tool'],
    access: { ...administrator, scope: 'read' },
    params: tool,
    answer: z.object({ items: z.array(tools.Replacement) }),
  }),
  undoReplacement: define(
    'tools',
    'POST /api/tools/:tool/replacements/:id/undo',
    'Takes a replacement back: links that still are where it moved them go back',
    { access: administrator, params: tool.extend({ id: Id }), answer: tools.Replacement },
  ),
  previewAddressMove: define(
    'tools',
    'POST /api/tools/:tool/address-move-preview',
    'Says which addresses would move when a tool’s domain does',
    {
      touchedBy: ['assignment', 'menu'],
      access: { ...administrator, scope: 'read' },
      params: tool,
      body: tools.AddressMoveWanted,
      answer: tools.AddressMovePreview,
    },
  ),
  moveAddresses: define(
    'tools',
    'POST /api/tools/:tool/address-moves',
    'Moves the addresses of a tool and of its links that begin alike; it can be taken back',
    { access: administrator, status: 201, params: tool, body: tools.AddressMoveWanted, answer: tools.MovedAddresses },
  ),
  listAddressMoves: define(
    'tools',
    'GET /api/tools/:tool/address-moves',
    'Lists moves of its addresses, newest first',
    {
      touchedBy: ['tool'],
      access: { ...administrator, scope: 'read' },
      params: tool,
      answer: z.object({ items: z.array(tools.MovedAddresses) }),
    },
  ),
  undoAddressMove: define(
    'tools',
    'POST /api/tools/:tool/address-moves/:id/undo',
    'Takes a move back: addresses that still are what it made them become what they were',
    { access: administrator, params: tool.extend({ id: Id }), answer: tools.MovedAddresses },
  ),
  showExchangeSheet: define('tools', 'GET /api/tools/:tool/exchange-sheet', 'What each end needs from the other', {
    touchedBy: ['tool'],
    access: reading,
    params: tool,
    answer: tools.ExchangeSheet,
  }),
  revealSecret: define('tools', 'POST /api/tools/:tool/secret/reveal', 'Shows the shared secret; this is audited', {
    access: { who: 'registrar', scope: 'administer', freshOnly: true },
    params: tool,
    answer: tools.ToolSecret,
  }),
  rotateSecret: define('tools', 'POST /api/tools/:tool/secret/rotate', 'Brings in a new secret beside the old one', {
    access: { who: 'registrar', scope: 'administer', freshOnly: true },
    params: tool,
    body: keys.SecretRotation,
    answer: keys.SecretRotated,
  }),
  endSecret: define(
    'tools',
    'DELETE /api/tools/:tool/secrets/:id',
    'Ends a secret that is valid beside the current one',
    {
      access: registrar,
      params: tool.extend({ id: Id }),
      answer: keys.ToolKeys,
    },
  ),
  listToolKeys: define('tools', 'GET /api/tools/:tool/keys', 'Secrets and keys of a tool, with their use', {
    touchedBy: ['tool'],
    access: reading,
    params: tool,
    answer: keys.ToolKeys,
  }),
  readToolKeyset: define('tools', 'POST /api/tools/:tool/keyset/read', 'Reads the tool’s keyset now', {
    access: registrar,
    params: tool,
    answer: keys.ToolKeys,
  }),
  checkTool: define(
    'tools',
    'POST /api/tools/:tool/check',
    'Checks everything about the tool’s end short of a launch',
    {
      access: registrar,
      perMinute: 60,
      params: tool,
      answer: tools.ToolCheck,
    },
  ),
  listDeployments: define('tools', 'GET /api/tools/:tool/deployments', 'Deployments of a tool of LTI 1.3', {
    touchedBy: ['tool'],
    access: reading,
    params: tool,
    answer: z.object({ items: z.array(tools.Deployment) }),
  }),
  addDeployment: define('tools', 'POST /api/tools/:tool/deployments', 'Gives one course a deployment of its own', {
    access: administrator,
    params: tool,
    status: 201,
    body: tools.NewDeployment,
    answer: tools.Deployment,
  }),
  showToolPlaces: define('tools', 'GET /api/tools/:tool/showing', 'Where a tool shows in a course, to whom, and why', {
    touchedBy: ['tool', 'menu'],
    access: person,
    params: tool,
    query: tools.ShowingQuery,
    answer: z.object({ items: z.array(tools.Showing) }),
  }),
  previewIdentity: define('tools', 'GET /api/tools/:tool/preview', 'What a launch would say of one person', {
    touchedBy: ['tool'],
    access: person,
    params: tool,
    query: tools.PreviewQuery,
    answer: tools.IdentityPreview,
  }),
  listPlatformKeys: define('keys', 'GET /api/keys', 'The platform’s own keys, with their use', {
    touchedBy: ['tool'],
    access: { ...administrator, scope: 'read' },
    answer: keys.PlatformKeys,
  }),
  rotatePlatformKeys: define('keys', 'POST /api/keys/rotate', 'Goes on to the next key and makes another; no outage', {
    access: administratorFresh,
    body: keys.KeyRotation,
    answer: keys.PlatformKeys,
  }),
  endPlatformKeys: define('keys', 'POST /api/keys/end', 'Ends all keys at once and makes new ones, as after a theft', {
    access: administratorFresh,
    body: keys.KeyRotation,
    answer: keys.PlatformKeys,
  }),
} as const
