import { Refusal, WIRE_STORY_FORMAT, type WireStory } from '@bathyscribe/contract'
import { isTaught, requireTeaching } from './access.js'
import type { Actor, Context } from './context.js'
import { explainedEntries } from './diagnosis/explained-entry.js'
import { wireDetailView } from './views.js'

const MOST_ENTRIES = 100

/** The messages of the launch that an entry belongs to, in their order. @throws Refusal `wire.not_found` */
export async function readWireStory(context: Context, actor: Actor, entryId: string): Promise<WireStory> {
  const { records, clock, settings } = context
  const courses = await requireTeaching(records, actor)
  const about = await records.wire.show(entryId)
  if (!isTaught(courses, about.courseId)) throw new Refusal('wire.not_found', entryId)
  const found = await records.wireStories.of(entryId, courses, MOST_ENTRIES)
  const certain = new Map(found.map((one) => [one.id, one.certain]))
  const rows = await records.wire.showMany(found.map((one) => one.id))
  const explained = await explainedEntries(context, rows)
  return {
    format: WIRE_STORY_FORMAT,
    version: 1,
    platform: settings.platformName,
    madeAt: clock.now().toISOString(),
    about: entryId,
    entries: rows.map((row) => ({
      ...wireDetailView(row, explained.get(row.id) ?? null),
      certain: certain.get(row.id) ?? false,
    })),
  }
}
