import type { DocumentTarget } from '../lti1/launch.js'

/** Where links of a tool may stand. */
export const PLACES = ['course_menu', 'unit_item', 'running_text', 'assignment'] as const
export type Place = (typeof PLACES)[number]

export const AUDIENCES = ['everyone', 'instructors'] as const
export type Audience = (typeof AUDIENCES)[number]

/** How a registration wants to be shown at one place. A place that is not listed is not offered. */
export interface Placement {
  place: Place
  /** Null: the tool's own name. */
  label: string | null
  /** Null: the registration's own launch address. */
  launchUrl: string | null
  audience: Audience
  target: DocumentTarget
}

/** Only assignments have a column in the gradebook: links anywhere else are never scored. */
export function returnsScores(place: Place): boolean {
  return place === 'assignment'
}

/** What "where does it show" is answered from: the registration, and what the course made of it. */
export interface ShowingFacts {
  state: string
  offered: boolean
  placements: readonly Placement[]
  /** The course's menu entries of this tool. */
  menu: readonly { label: string; audience: Audience; shown: boolean; target: DocumentTarget }[]
  /** Assignments of the course on this tool. */
  assignments: { published: number; drafts: number }
}

/** One place in one course, for one role, with the reason in words. */
export interface Showing {
  place: Place
  shows: boolean
  label: string | null
  target: DocumentTarget | null
  reason: string
}

/** Answers, for each place, whether a tool shows there in a course to instructors or learners, and why. */
export function whereShown(facts: ShowingFacts, role: 'instructor' | 'learner'): Showing[] {
  return PLACES.map((place) => {
    const placement = facts.placements.find((one) => one.place === place)
    const no = (reason: string): Showing => ({
      place,
      shows: false,
      label: placement?.label ?? null,
      target: null,
      reason,
    })
    if (facts.state !== 'enabled') return no(`The registration is ${facts.state}.`)
    if (!facts.offered) return no('The tool is not offered to this course.')
    if (place === 'course_menu') return inMenu(facts, role, placement)
    if (!placement) return no('The registration does not offer this place.')
    if (place === 'assignment') return inAssignments(facts, role, placement)
    if (role === 'learner' && placement.audience === 'instructors')
      return no('The registration shows it to instructors only.')
    return {
      place,
      shows: role === 'instructor',
      label: placement.label,
      target: placement.target,
      reason:
        role === 'instructor'
          ? 'Offered to instructors when they place content here.'
          : 'Learners see what an instructor has placed, nothing before that.',
    }
  })
}

function inMenu(facts: ShowingFacts, role: 'instructor' | 'learner', placement: Placement | undefined): Showing {
  const mine = facts.menu.filter((one) => one.shown && (role === 'instructor' || one.audience === 'everyone'))
  const first = mine[0]
  if (first)
    return {
      place: 'course_menu',
      shows: true,
      label: first.label,
      target: first.target,
      reason: `The course’s menu has it${mine.length > 1 ? `, ${mine.length} times` : ''}, for ${first.audience === 'everyone' ? 'everyone' : 'instructors only'}.`,
    }
  const reason =
    facts.menu.length > 0
      ? facts.menu.some((one) => one.shown)
        ? 'The course’s menu shows it to instructors only.'
        : 'The course’s menu has it, but hidden.'
      : placement
        ? 'No instructor has put it into the course’s menu yet.'
        : 'The registration does not offer this place, and the course’s menu does not have it.'
  return { place: 'course_menu', shows: false, label: placement?.label ?? null, target: null, reason }
}

function inAssignments(facts: ShowingFacts, role: 'instructor' | 'learner', placement: Placement): Showing {
  const { published, drafts } = facts.assignments
  const shows = role === 'instructor' || published > 0
  const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`
  return {
    place: 'assignment',
    shows,
    label: placement.label,
    target: placement.target,
    reason:
      role === 'instructor'
        ? `Offered when an assignment is made; ${count(published + drafts, 'assignment')} so far.`
        : published > 0
          ? `${count(published, 'published assignment')} in the course.`
          : 'No published assignment uses it yet.',
  }
}
