import { Refusal, type Approval, type ToolOffer, type ToolRefusal } from '@bathyscribe/contract'
import type { Placement } from '@bathyscribe/core/links'
import type { ToolMetadata } from '@bathyscribe/core/lti13'
import type { z } from 'zod'
import { requireComplete } from './registration.js'
import { featuresOf } from './fields.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Actor, Context } from '../context.js'
import { refuseEnded, store } from './change-tool.js'

/** Approves a registration that waits, with all that it asks for or a part of it. @throws Refusal */
export async function approveTool(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof Approval>,
): Promise<string> {
  const tool = await context.records.tools.byRef(ref)
  if (tool.state !== 'waiting') throw new Refusal('tool.not_waiting', tool.slug)
  const change: Partial<RegistrationRecord> = {
    state: 'enabled',
    ...granted(tool.metadata, wanted),
    ...(wanted.placements && { placements: wanted.placements }),
    ...(wanted.disclosure && { disclosure: wanted.disclosure }),
    ...(wanted.offer && tool.courseId === null && { offer: wanted.offer }),
    updatedAt: context.clock.now(),
  }
  requireComplete({ ...tool, ...change })
  await store(context, actor, tool, wanted.revision, change, 'approve tool')
  return tool.id
}

/** Only what was asked for can be granted; without a choice all of it is. */
function granted(metadata: ToolMetadata | null, { scopes }: z.output<typeof Approval>): Partial<RegistrationRecord> {
  if (!metadata) {
    if (scopes && scopes.length > 0) throw new Refusal('tool.not_asked_for', scopes[0]!.slice(0, 120))
    return {}
  }
  const strange = scopes?.find((scope) => !metadata.scopes.some((one) => one === scope))
  if (strange !== undefined) throw new Refusal('tool.not_asked_for', strange.slice(0, 120))
  const given = scopes ?? metadata.scopes
  const picker = metadata.messages.find((message) => message.type === 'LtiDeepLinkingRequest')
  return {
    scopes: given,
    features: [...featuresOf(given), ...(picker ? (['picker'] as const) : [])],
    ...(picker && { pickerUrl: picker.targetLinkUri }),
  }
}

/** Refuses a registration that waits. It is kept as a deleted one for a while, so that the decision can be undone. */
export async function refuseTool(
  context: Context,
  actor: Actor,
  ref: string,
  { revision, reason }: z.output<typeof ToolRefusal>,
): Promise<string> {
  const tool = await context.records.tools.byRef(ref)
  if (tool.state !== 'waiting') throw new Refusal('tool.not_waiting', tool.slug)
  const now = context.clock.now()
  const change = { state: 'deleted' as const, stateBefore: 'waiting' as const, deletedAt: now, updatedAt: now }
  await store(context, actor, tool, revision, change, 'refuse tool', undefined, { reason })
  return tool.id
}

/** Takes over what a tool proposes, scopes as far as they are granted. @throws Refusal */
export async function acceptProposal(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof Approval>,
): Promise<string> {
  const tool = await context.records.tools.byRef(ref)
  refuseEnded(tool)
  if (!tool.proposal) throw new Refusal('tool.no_proposal', tool.slug)
  const change: Partial<RegistrationRecord> = {
    ...fieldsFrom(tool.proposal),
    ...granted(tool.proposal, wanted),
    proposal: null,
    updatedAt: context.clock.now(),
  }
  await store(context, actor, tool, wanted.revision, change, 'accept proposed change')
  return tool.id
}

export async function declineProposal(
  context: Context,
  actor: Actor,
  ref: string,
  { revision, reason }: z.output<typeof ToolRefusal>,
): Promise<string> {
  const tool = await context.records.tools.byRef(ref)
  if (!tool.proposal) throw new Refusal('tool.no_proposal', tool.slug)
  const change = { proposal: null, updatedAt: context.clock.now() }
  await store(context, actor, tool, revision, change, 'decline proposed change', undefined, { reason })
  return tool.id
}

/** The fields of a registration that a tool's own description fills. Its name and what it may see of people stay with us. */
export function fieldsFrom(metadata: ToolMetadata): Partial<RegistrationRecord> {
  return {
    description: metadata.description,
    launchUrl: metadata.targetLinkUri,
    initiationUrl: metadata.initiationUrl,
    redirectUris: metadata.redirectUris,
    keysetUrl: metadata.keysetUrl,
    publicKeys: metadata.keys.length > 0 ? metadata.keys : null,
    customParameters: metadata.customParameters,
    metadata,
  }
}

/** Where a tool asks to be shown, as placements; assignments are always among them. */
export function placementsFrom(metadata: ToolMetadata): Placement[] {
  const asked = metadata.messages
    .filter((message) => message.type === 'LtiResourceLinkRequest')
    .flatMap((message) =>
      message.places.map((place): Placement => ({
        place,
        label: message.label,
        launchUrl: message.targetLinkUri === metadata.targetLinkUri ? null : message.targetLinkUri,
        audience: 'everyone',
        target: 'frame',
      })),
    )
  const all: Placement[] = [
    ...asked,
    { place: 'assignment', label: null, launchUrl: null, audience: 'everyone', target: 'frame' },
  ]
  return all.filter((one, i) => all.findIndex((other) => other.place === one.place) === i)
}

/** Says which courses may use a tool of the institution. @throws Refusal */
export async function offerTool(
  context: Context,
  actor: Actor,
  ref: string,
  { revision, offer, courses }: z.output<typeof ToolOffer>,
): Promise<string> {
  const tool = await context.records.tools.byRef(ref)
  refuseEnded(tool)
  const ids = await Promise.all(courses.map(async (course) => (await context.records.courses.byRef(course)).id))
  await store(
    context,
    actor,
    tool,
    revision,
    { offer, updatedAt: context.clock.now() },
    'offer tool',
    (records) => records.tools.setOffers(tool.id, offer === 'named' ? ids : []),
    { courses },
  )
  return tool.id
}
