import type { WorkState } from '../scores/state.js'

/** Who has to act next. `tool`: its support. */
export const CASE_ACTORS = ['nobody', 'learner', 'instructor', 'technologist', 'tool'] as const
export type CaseActor = (typeof CASE_ACTORS)[number]

/** What explains where one person stands in one assignment. */
export const CASE_CODES = [
  'exempt',
  'held_back',
  'not_shown',
  'set_by_hand',
  'left_course',
  'score_refused',
  'stands',
  'waits_for_grading',
  'grading_failed',
  'cleared',
  'in_another_column',
  'sends_no_scores',
  'launch_failed',
  'cannot_open',
  'never_opened',
  'no_final_score',
  'work_goes_on',
  'unclaimed',
  'not_handed_in',
  'nothing_came',
] as const
export type CaseCode = (typeof CASE_CODES)[number]

/** `proven`: what is said was seen or computed here. `likely`: it fits what was seen. `unknown`: nothing that was seen explains it. */
export const CASE_CERTAINTIES = ['proven', 'likely', 'unknown'] as const
export type CaseCertainty = (typeof CASE_CERTAINTIES)[number]

/** What is known of one person in one assignment. */
export interface CaseFacts {
  /** Where the work stands, as everywhere else. */
  state: WorkState
  points: string | null
  overridden: boolean
  /** Whether learners see their results. */
  released: boolean
  /** Whether learners see the assignment at all: it is published, and its unit is. */
  isShown: boolean
  /** Whether the tool is registered with scores. */
  returnsScores: boolean
  /** Whether the person is an active member of the course. */
  isActive: boolean
  openedAt: Date | null
  /** When the tool last said anything of this person’s work. */
  heardAt: Date | null
  /** The newest opening that went wrong, when none has worked since. */
  failedLaunchAt: Date | null
  /** What would keep the person from opening it now, and who can change that. */
  obstacle: CaseActor | null
  /** Who can do something about the refused score, as far as its cause is known. */
  refusedBy: CaseActor
  /** A score for this person in a column that the tool made by itself; `tied`: for this very link. */
  elsewhere: { tied: boolean } | null
  /** Refused messages of the tool since the opening that do not say whose they are. */
  unclaimed: number
  /** Other people of this assignment for whom a score came since the opening. */
  othersScored: number
}

export interface CaseJudgement {
  code: CaseCode
  certainty: CaseCertainty
  actor: CaseActor
}

type Said = Omit<CaseJudgement, 'code'>
const proven = (actor: CaseActor): Said => ({ certainty: 'proven', actor })
const likely = (actor: CaseActor): Said => ({ certainty: 'likely', actor })

/** What may explain it, what comes first being nearer to the person’s own question; undefined where it does not fit. */
const RULES: Readonly<Record<CaseCode, (facts: CaseFacts) => Said | undefined>> = {
  exempt: ({ state }) => (state === 'exempt' ? proven('nobody') : undefined),
  held_back: ({ points, released }) => (points !== null && !released ? proven('instructor') : undefined),
  not_shown: ({ isShown }) => (isShown ? undefined : proven('instructor')),
  set_by_hand: ({ overridden }) => (overridden ? proven('nobody') : undefined),
  left_course: ({ isActive, points }) => (!isActive && points === null ? proven('instructor') : undefined),
  score_refused: ({ state, refusedBy }) => (state === 'refused' ? proven(refusedBy) : undefined),
  stands: ({ state }) => (state === 'graded' || state === 'commented' ? proven('nobody') : undefined),
  waits_for_grading: ({ state }) => (state === 'waiting' ? proven('instructor') : undefined),
  grading_failed: ({ state }) => (state === 'failed' ? proven('tool') : undefined),
  cleared: ({ state }) => (state === 'cleared' ? proven('tool') : undefined),
  in_another_column: ({ elsewhere }) =>
    elsewhere === null ? undefined : elsewhere.tied ? proven('instructor') : likely('instructor'),
  sends_no_scores: ({ returnsScores }) => (returnsScores ? undefined : proven('nobody')),
  launch_failed: ({ failedLaunchAt, heardAt }) =>
    failedLaunchAt !== null && (heardAt === null || failedLaunchAt > heardAt) ? proven('technologist') : undefined,
  cannot_open: ({ openedAt, heardAt, obstacle }) =>
    obstacle !== null && openedAt === null && heardAt === null ? proven(obstacle) : undefined,
  never_opened: ({ openedAt, heardAt }) => (openedAt === null && heardAt === null ? proven('learner') : undefined),
  no_final_score: ({ state }) => (state === 'submitted' ? proven('tool') : undefined),
  work_goes_on: ({ state }) => (state === 'started' ? proven('learner') : undefined),
  unclaimed: ({ unclaimed }) => (unclaimed > 0 ? likely('technologist') : undefined),
  not_handed_in: ({ othersScored }) => (othersScored > 0 ? likely('learner') : undefined),
  nothing_came: () => ({ certainty: 'unknown', actor: 'technologist' }),
}

/** What explains it, how certain that is, and who has to act. */
export function judgeCase(facts: CaseFacts): CaseJudgement {
  for (const code of CASE_CODES) {
    const said = RULES[code](facts)
    if (said) return { code, ...said }
  }
  throw new Error('The last rule always fits')
}
