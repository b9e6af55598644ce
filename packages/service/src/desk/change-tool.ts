import { Refusal, type ToolChange } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { RegistrationRecord, RegistrationState } from '../records/entities/courses.js'
import { ownTool } from './access.js'
import { by, type Actor, type Context } from './context.js'
import { auditable, checkAddress, checkCredentials, sealed } from './register-tool.js'

/** Changes a registration as the caller read it. @throws Refusal `record.changed_meanwhile` when somebody was faster. */
export async function changeTool(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof ToolChange>,
): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (tool.state === 'retired') throw new Refusal('tool.retired', tool.slug)
  checkCredentials(wanted)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const { revision, sharedSecret, acceptBlanks: _, ...fields } = wanted
  const now = context.clock.now()
  const change: Partial<RegistrationRecord> = {
    ...(Object.fromEntries(
      Object.entries(fields).filter(([, value]) => value !== undefined),
    ) as Partial<RegistrationRecord>),
    ...(sharedSecret !== undefined && sealed(context, tool.id, sharedSecret, now)),
    updatedAt: now,
  }
  await store(context, actor, tool, revision, change, 'change tool')
  return tool.id
}

const ACTION = { enabled: 'enable tool', suspended: 'suspend tool', retired: 'retire tool' } as const

/** Enables, suspends or retires a tool. Retiring is for good: its scores and entries stay. */
export async function setToolState(
  context: Context,
  actor: Actor,
  ref: string,
  state: Exclude<RegistrationState, 'draft'>,
): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (tool.state === state) return tool.id
  if (tool.state === 'retired') throw new Refusal('tool.retired', tool.slug)
  if (state === 'enabled' && !tool.secretSealed) throw new Refusal('tool.secret_missing')
  await store(context, actor, tool, tool.revision, { state, updatedAt: context.clock.now() }, ACTION[state])
  return tool.id
}

async function store(
  context: Context,
  actor: Actor,
  tool: RegistrationRecord,
  revision: number,
  change: Partial<RegistrationRecord>,
  action: string,
): Promise<void> {
  const before = Object.fromEntries(Object.keys(change).map((key) => [key, tool[key as keyof RegistrationRecord]]))
  await context.records.transaction(async (records) => {
    await records.tools.update(tool.id, revision, change)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action,
      subject: `tool ${tool.slug}`,
      courseId: tool.courseId,
      before: auditable(before),
      after: auditable(change),
    })
  })
  context.changes.publish({ kind: 'tool', courseId: tool.courseId, assignmentId: null, personId: null })
}

/** Shows the shared secret. That it was shown, to whom and when stays in the audit log. */
export async function revealSecret(context: Context, actor: Actor, ref: string): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (!tool.secretSealed) throw new Refusal('tool.secret_missing')
  const secret = context.keys.unseal(tool.secretSealed, tool.id)
  await context.records.audit.add({
    at: context.clock.now(),
    ...by(actor),
    action: 'show shared secret',
    subject: `tool ${tool.slug}`,
    courseId: tool.courseId,
  })
  return secret
}
