import { Refusal } from '@bathyscribe/contract'
import type { ContentItem } from '@bathyscribe/core/content'
import type { PickedContent } from '../../records/entities/content.js'
import { reviewFields } from '../assignments/review-fields.js'
import type { Actor, Context } from '../context.js'

/** One item of a picking of the caller's own. @throws Refusal */
export async function pickedItem(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: { picking: string; item: number },
): Promise<PickedContent & { registrationId: string }> {
  const picking = await context.records.pickings.show(courseId, wanted.picking, actor.id)
  if (picking.state !== 'answered') throw new Refusal('picker.not_answered', picking.state)
  const item = picking.items[wanted.item]
  if (!item) throw new Refusal('picker.item_not_found', `item ${wanted.item} of ${picking.items.length}`)
  return { ...item, registrationId: picking.registrationId }
}

/** The same, of a tool that is launched. @param toolId the assignment's; null for any */
export async function pickedToolLink(
  context: Context,
  actor: Actor,
  courseId: string,
  toolId: string | null,
  wanted: { picking: string; item: number },
): Promise<PickedContent & { registrationId: string }> {
  const item = await pickedItem(context, actor, courseId, wanted)
  if (item.kind !== 'tool_link') throw new Refusal('picker.item_not_a_tool_link', item.kind)
  if (toolId !== null && item.registrationId !== toolId) throw new Refusal('picker.other_tool')
  return item
}

/** What a record keeps of a picked item: the item, and whether the tool shows single submissions of it. */
export function contentOf(item: ContentItem | null) {
  return { content: item, ...reviewFields(item?.column?.review) }
}
