/** Where one person stands in one piece of work, as people say it. */
export const WORK_STATES = [
  'never_opened',
  'opened',
  'started',
  'submitted',
  'waiting',
  'graded',
  'commented',
  'failed',
  'cleared',
  'refused',
  'exempt',
] as const
export type WorkState = (typeof WORK_STATES)[number]

/** What is known of one person in one column. */
export interface WorkFacts {
  openedAt: Date | null
  /** Whether an accepted score stands, or one that was taken back. */
  hasResult: boolean
  points: string | null
  overridden: boolean
  exempt: boolean
  /** The last words of the tool (AGS 2.0 section 3.4.4 and 3.4.5), and when they came. */
  activity: string | null
  grading: string | null
  heardAt: Date | null
  resultAt: Date | null
  comment: string | null
  refusedAt: Date | null
}

/**
 * The state and since when. A refusal newer than everything else is what needs to be looked at; the instructor's own word comes before any tool's;
 * after that the tool's last word, then the result, then whether it was opened.
 */
export function stateOf(facts: WorkFacts): { state: WorkState; at: Date | null } {
  const { openedAt, heardAt, resultAt, refusedAt } = facts
  if (facts.exempt) return { state: 'exempt', at: resultAt ?? heardAt }
  const last = latest(heardAt, resultAt)
  if (refusedAt && !facts.overridden && (last === null || refusedAt > last)) return { state: 'refused', at: refusedAt }
  if (facts.overridden) return { state: facts.comment ? 'commented' : 'graded', at: resultAt }
  // What the tool said after the result stands for the work that goes on: a second attempt waits although the first was graded.
  const words = heardAt && (!resultAt || heardAt > resultAt) ? wordOf(facts) : undefined
  if (words && (words !== 'started' || !facts.hasResult)) return { state: words, at: heardAt }
  if (facts.points !== null) return { state: facts.comment ? 'commented' : 'graded', at: resultAt }
  if (facts.hasResult) return { state: 'cleared', at: resultAt }
  return openedAt ? { state: 'opened', at: openedAt } : { state: 'never_opened', at: null }
}

function wordOf({ activity, grading }: WorkFacts): WorkState | undefined {
  if (grading === 'Failed') return 'failed'
  if (grading === 'PendingManual') return 'waiting'
  if (activity === 'Submitted' || activity === 'Completed') return 'submitted'
  return activity === null ? undefined : activity === 'Initialized' ? 'opened' : 'started'
}

function latest(a: Date | null, b: Date | null): Date | null {
  return a && b ? (a > b ? a : b) : (a ?? b)
}
