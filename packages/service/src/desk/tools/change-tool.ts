import { Refusal, type ToolChange, type ToolState, type ToolStateChange } from '@bathyscribe/contract'
import type { z } from 'zod'
import { checkAddresses, checkCredentials, featuresOf, pickerFeature, fieldsOf, refuseForeignFields } from './fields.js'
import { auditable, requireComplete, sealed } from './registration.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Records } from '../../records/index.js'
import { isAdministrator, ownTool } from '../identity/access.js'
import { by, type Actor, type Context } from '../context.js'

/** Changes a registration as the caller read it. @throws Refusal `record.changed_meanwhile` when somebody was faster. */
export async function changeTool(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof ToolChange>,
): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  refuseEnded(tool)
  refuseForeignFields(tool.version, wanted)
  checkCredentials(wanted)
  checkAddresses(wanted)
  const { revision, sharedSecret, acceptBlanks: _, ...fields } = wanted
  const now = context.clock.now()
  const change: Partial<RegistrationRecord> = {
    ...fieldsOf(fields),
    // Of LTI 1.3 what a tool can do follows from its scopes, beside what was said of it.
    ...(fields.scopes !== undefined && fields.features === undefined && { features: withScopes(tool, fields.scopes) }),
    ...pickerFeature(
      fields.features ?? (fields.scopes === undefined ? tool.features : withScopes(tool, fields.scopes)),
      fields.pickerUrl,
    ),
    ...(sharedSecret !== undefined && sealed(context, tool.id, sharedSecret, now)),
    updatedAt: now,
  }
  if (tool.state === 'enabled' || tool.state === 'suspended') requireComplete({ ...tool, ...change })
  // What was approved is approved as it was: an instructor's change of what matters waits like the registration did.
  const again = context.settings.courseTools === 'approval' && !isAdministrator(actor) && tool.state === 'enabled'
  if (again && APPROVED.some((field) => field in change)) change.state = 'waiting'
  await store(context, actor, tool, revision, change, 'change tool')
  return tool.id
}

/** What an administrator looks at before approving. */
const APPROVED = [
  'launchUrl', 'initiationUrl', 'redirectUris', 'keysetUrl', 'publicKeys', 'scopes', 'features', 'disclosure', 'consumerKey', 'secretSealed',
] as const // oxfmt-ignore

function withScopes(tool: RegistrationRecord, scopes: readonly string[]): RegistrationRecord['features'] {
  return [...featuresOf(scopes), ...tool.features.filter((feature) => feature === 'picker')]
}

const ACTION = { enabled: 'enable tool', suspended: 'suspend tool', retired: 'retire tool' } as const

/** Enables, suspends or retires a tool. Retiring is for good: its scores and entries stay. */
export async function setToolState(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof ToolStateChange>,
): Promise<string> {
  const { state, scoresWhileSuspended } = wanted
  const tool = await ownTool(context.records, actor, ref)
  const keeps = scoresWhileSuspended ?? tool.scoresWhileSuspended
  if (tool.state === state && keeps === tool.scoresWhileSuspended) return tool.id
  refuseEnded(tool)
  if (tool.state === 'waiting') throw new Refusal('tool.waiting', tool.slug)
  if (state === 'enabled') requireComplete(tool)
  const change = { state, scoresWhileSuspended: keeps, updatedAt: context.clock.now() }
  await store(context, actor, tool, tool.revision, change, ACTION[state])
  return tool.id
}

export function refuseEnded(tool: Pick<RegistrationRecord, 'state' | 'slug'>): void {
  const ends: Partial<Record<ToolState, 'tool.retired' | 'tool.deleted'>> = {
    retired: 'tool.retired',
    deleted: 'tool.deleted',
  }
  const code = ends[tool.state]
  if (code) throw new Refusal(code, tool.slug)
}

/** Keeps a change with its audit entry, and tells open pages. `also` is done with it or not at all. */
export async function store(
  context: Context,
  actor: Actor | null,
  tool: RegistrationRecord,
  revision: number,
  change: Partial<RegistrationRecord>,
  action: string,
  also: (records: Records) => Promise<void> = async () => undefined,
  note: Record<string, unknown> = {},
): Promise<void> {
  const before = Object.fromEntries(Object.keys(change).map((key) => [key, tool[key as keyof RegistrationRecord]]))
  await context.records.transaction(async (records) => {
    await records.tools.update(tool.id, revision, change)
    // Pasted keys are published here, and no more once they are replaced.
    if (change.publicKeys !== undefined && tool.publicKeys)
      await records.publishedKeys.note(tool.id, tool.publicKeys, context.clock.now())
    await also(records)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action,
      subject: `tool ${tool.slug}`,
      courseId: tool.courseId,
      before: auditable(before),
      after: { ...auditable(change), ...note },
    })
  })
  context.changes.publish({ kind: 'tool', courseId: tool.courseId })
}

/** Tells open pages of a tool and of the links into it. */
export function publishLinks({ changes }: Context, courseId: string | null): void {
  changes.publish({ kind: 'tool', courseId })
  changes.publish({ kind: 'assignment', courseId: null })
}
