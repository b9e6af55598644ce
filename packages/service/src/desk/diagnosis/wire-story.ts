import type { Diagnosis } from '@bathyscribe/contract'
import type { WireDetailRow } from '../../records/wire.js'
import type { Actor, Context } from '../context.js'
import { explainedEntries } from './explained-entry.js'
import { visibleEntry } from './visible-entry.js'

const MOST_ENTRIES = 100

/** The messages of the launch that the entry `about` belongs to. */
export interface FoundStory {
  about: string
  platform: string
  madeAt: Date
  /** `certain`: belongs to the same launch beyond doubt */
  entries: { row: WireDetailRow; explained: Diagnosis | null; certain: boolean }[]
}

/** The messages of the launch that an entry belongs to, in their order. @throws Refusal `wire.not_found` */
export async function readWireStory(context: Context, actor: Actor, entryId: string): Promise<FoundStory> {
  const { records, clock, settings } = context
  const { courses } = await visibleEntry(context, actor, entryId)
  const found = await records.wireStories.of(entryId, courses, MOST_ENTRIES)
  const certain = new Map(found.map((one) => [one.id, one.certain]))
  const rows = await records.wire.showMany(found.map((one) => one.id))
  const explained = await explainedEntries(context, rows)
  return {
    about: entryId,
    platform: settings.platformName,
    madeAt: clock.now(),
    entries: rows.map((row) => ({
      row,
      explained: explained.get(row.id) ?? null,
      certain: certain.get(row.id) ?? false,
    })),
  }
}
