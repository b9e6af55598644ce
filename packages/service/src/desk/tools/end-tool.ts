import { Refusal } from '@bathyscribe/contract'
import { ownTool } from '../identity/access.js'
import type { Actor, Context } from '../context.js'
import { store } from './change-tool.js'

const DAY_MS = 24 * 3600_000

/** Deletes a registration: its links stop at once, nothing is removed before the time for undoing is over. */
export async function deleteTool(context: Context, actor: Actor, ref: string): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (tool.state === 'deleted') return tool.id
  const now = context.clock.now()
  const change = { state: 'deleted' as const, stateBefore: tool.state, deletedAt: now, updatedAt: now }
  await store(context, actor, tool, tool.revision, change, 'delete tool')
  return tool.id
}

/** Brings a deleted registration back as it was. @throws Refusal */
export async function restoreTool(context: Context, actor: Actor, ref: string): Promise<string> {
  const tool = await ownTool(context.records, actor, ref)
  if (tool.state !== 'deleted') throw new Refusal('tool.not_deleted', tool.slug)
  const change = {
    state: tool.stateBefore ?? ('draft' as const),
    stateBefore: null,
    deletedAt: null,
    updatedAt: context.clock.now(),
  }
  await store(context, actor, tool, tool.revision, change, 'restore tool')
  return tool.id
}

/** Removes for good what was deleted longer ago than it can be undone. @returns how many registrations went */
export async function purgeDeleted(context: Pick<Context, 'records' | 'clock' | 'settings'>): Promise<number> {
  const now = context.clock.now()
  await context.records.secrets.removeEnded(now)
  return context.records.transaction((records) =>
    records.impact.purge(new Date(now.getTime() - context.settings.undoDays * DAY_MS)),
  )
}
