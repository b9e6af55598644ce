import Big from 'big.js'
import type { ContentItem } from './item.js'

/** What both ends say of an assignment. Moments are ISO 8601; empty text or null where nothing was said. */
export interface Said {
  title: string
  points: string
  opensAt: string | null
  dueAt: string | null
  closesAt: string | null
  documentTarget: string | null
}
export type SaidField = keyof Said

/** One thing that the tool says, beside what was typed. */
export interface Difference {
  field: SaidField
  typed: string | null
  offered: string
  /** Nothing was typed yet: taking it over loses nothing. */
  fills: boolean
}

export const SAID_FIELDS: readonly SaidField[] = ['title', 'points', 'opensAt', 'dueAt', 'closesAt', 'documentTarget']

/** What an item says of an assignment; null where it says nothing. */
export function saidBy(item: ContentItem): Record<SaidField, string | null> {
  return {
    title: item.title || item.column?.label || null,
    points: item.column?.points ?? null,
    opensAt: item.opensAt,
    dueAt: item.dueAt,
    closesAt: item.closesAt,
    documentTarget: item.target,
  }
}

/** Every field on which the tool says something else than what was typed. */
export function differences(typed: Said, item: ContentItem): Difference[] {
  const offered = saidBy(item)
  return SAID_FIELDS.flatMap((field) => {
    const [ours, theirs] = [typed[field], offered[field]]
    if (theirs === null || isSame(field, ours, theirs)) return []
    return [{ field, typed: ours || null, offered: theirs, fills: !ours }]
  })
}

function isSame(field: SaidField, ours: string | null, theirs: string): boolean {
  if (!ours) return false
  if (field === 'points') return isNumber(ours) && new Big(ours).eq(theirs)
  if (field.endsWith('At')) return new Date(ours).getTime() === new Date(theirs).getTime()
  return ours === theirs
}

function isNumber(text: string): boolean {
  return /^\d{1,9}(\.\d{1,9})?$/.test(text.trim())
}
