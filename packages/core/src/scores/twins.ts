import { sameNumber } from './points.js'

/** A column as far as it tells whether another is for the same work. */
export interface TwinFacts {
  id: string
  title: string
  points: string
  registrationId: string
  resourceId: string | null
  /** The link that it belongs to. */
  linkId: string | null
  /** Identifiers of the people who have a score in it. */
  scored: readonly string[]
}

export const TWIN_REASONS = ['same_link', 'same_resource', 'same_title_and_points', 'same_people'] as const
export type TwinReason = (typeof TWIN_REASONS)[number]

/** Share of the people of the smaller column that have a score in the other one, too, from which on they are "the same people". */
const SAME_PEOPLE = 0.8
const ENOUGH_PEOPLE = 3

/**
 * Why a column that a tool made looks like one of ours for the same work; empty when it does not. The same people alone prove nothing: whole courses do whole terms of work.
 */
export function twinReasons(made: TwinFacts, ours: TwinFacts): TwinReason[] {
  if (made.registrationId !== ours.registrationId) return []
  const reasons: TwinReason[] = []
  if (made.linkId !== null && made.linkId === ours.linkId) reasons.push('same_link')
  if (made.resourceId !== null && made.resourceId === ours.resourceId) reasons.push('same_resource')
  if (plain(made.title) === plain(ours.title) && sameNumber(made.points, ours.points))
    reasons.push('same_title_and_points')
  if (reasons.length > 0 && samePeople(made.scored, ours.scored)) reasons.push('same_people')
  return reasons
}

function plain(title: string): string {
  return title
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
}

function samePeople(a: readonly string[], b: readonly string[]): boolean {
  const [fewer, more] = a.length <= b.length ? [a, new Set(b)] : [b, new Set(a)]
  if (fewer.length < ENOUGH_PEOPLE) return false
  return fewer.filter((one) => more.has(one)).length >= fewer.length * SAME_PEOPLE
}
