import {
  ERRORS,
  WIRE_STORY_FORMAT,
  type CallAnswer,
  type ErrorCode,
  type WireEntry,
  type WireEntryDetail,
  type WireStory,
} from '@bathyscribe/contract'
import type { WireDifference } from '../../../desk/diagnosis/wire-difference.js'
import type { FoundStory } from '../../../desk/diagnosis/wire-story.js'
import type { WireDetailRow, WireRow } from '../../../records/wire.js'
import { inText } from './moments.js'

export function wireView({ courseId: _course, ...entry }: WireRow): WireEntry {
  return { ...entry, at: entry.at.toISOString() }
}

/** @param explained what explains it, already in the form of the API */
export function wireDetailView(
  { detail, request, response, ...entry }: WireDetailRow,
  explained: WireEntryDetail['explained'],
): WireEntryDetail {
  const kind = entry.code === null ? undefined : ERRORS[entry.code as ErrorCode]
  return {
    ...wireView(entry),
    request,
    response,
    diagnosis: kind ? { sentence: kind.sentence, hint: kind.hint, detail } : null,
    explained,
  }
}

/** How an entry differs from the last good one of its kind. */
export function wireDifferenceView({ good, differences, changes }: WireDifference): CallAnswer<'showWireDifference'> {
  return { good: good && wireView(good), differences, changes: inText(changes) }
}

/** The messages of a launch as a file that can be handed on. */
export function wireStoryView({ about, platform, madeAt, entries }: FoundStory): WireStory {
  return {
    format: WIRE_STORY_FORMAT,
    version: 1,
    platform,
    madeAt: madeAt.toISOString(),
    about,
    entries: entries.map(({ row, explained, certain }) => ({ ...wireDetailView(row, explained), certain })),
  }
}
