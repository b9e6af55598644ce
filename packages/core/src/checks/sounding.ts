import type { Said } from './findings/definition.js'
import type { Verdict } from './verdict.js'

/** The stages of a sounding, in their order. A later stage needs the ones before it. */
export const STAGES = [
  'settings',
  'registration',
  'reachability',
  'launch_instructor',
  'launch_test_learner',
  'score',
  'gradebook',
  'again',
  'roster',
  'picker',
  'review',
  'cleanup',
] as const
export type StageName = (typeof STAGES)[number]

/** How far a sounding goes: the plain way, or also what a second visit, the roster, the picker and the review show. */
export const DEPTHS = ['plain', 'deep'] as const
export type Depth = (typeof DEPTHS)[number]

const DEEP_ONLY: readonly StageName[] = ['again', 'roster', 'picker', 'review']

/** The stages that a sounding of some depth goes through. */
export function stagesOf(depth: Depth): StageName[] {
  return STAGES.filter((stage) => depth === 'deep' || !DEEP_ONLY.includes(stage))
}

/** How a launch is followed: by the service itself, or by a real browser. */
export const FOLLOWERS = ['http', 'browser'] as const
export type Follower = (typeof FOLLOWERS)[number]

/** What one check of a sounding found. Its words come last, from the facts (`findings/words.ts`). */
export interface Finding extends Said {
  stage: StageName
  verdict: Verdict
  /** The wire entry that shows it, if the check sent or received a message. */
  wireEntryId: string | null
  /** A picture of what a person would have seen, if a browser looked. */
  pictureId: string | null
  durationMs: number
}

/** The worst of several verdicts: fail, warn, pass; skipped when nothing was checked at all. */
export function worstVerdict(findings: readonly Pick<Finding, 'verdict'>[]): Verdict {
  for (const verdict of ['fail', 'warn', 'pass'] as const)
    if (findings.some((finding) => finding.verdict === verdict)) return verdict
  return 'skipped'
}

/** The verdict of each stage of a depth, in order; skipped where nothing was checked. */
export function stageVerdicts(
  findings: readonly Pick<Finding, 'stage' | 'verdict'>[],
  depth: Depth,
): { stage: StageName; verdict: Verdict }[] {
  return stagesOf(depth).map((stage) => ({
    stage,
    verdict: worstVerdict(findings.filter((finding) => finding.stage === stage)),
  }))
}
