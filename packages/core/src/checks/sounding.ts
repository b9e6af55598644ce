/** The stages of a sounding, in their order. A later stage needs the ones before it. */
export const STAGES = [
  'settings',
  'reachability',
  'launch_instructor',
  'launch_test_learner',
  'score',
  'gradebook',
] as const
export type StageName = (typeof STAGES)[number]

export const VERDICTS = ['pass', 'warn', 'fail', 'skipped'] as const
export type Verdict = (typeof VERDICTS)[number]

/** One check of a sounding, with what was found and, unless it passed, why and what mends it. */
export interface Finding {
  stage: StageName
  check: string
  verdict: Verdict
  statement: string
  cause: string | null
  remedy: string | null
  /** The wire entry that shows it, if the check sent or received a message. */
  wireEntryId: string | null
  durationMs: number
}

/** The worst of several verdicts: fail, warn, pass; skipped when nothing was checked at all. */
export function worstVerdict(findings: readonly Pick<Finding, 'verdict'>[]): Verdict {
  for (const verdict of ['fail', 'warn', 'pass'] as const)
    if (findings.some((finding) => finding.verdict === verdict)) return verdict
  return 'skipped'
}

/** The verdict of each stage, in order; skipped where nothing was checked. */
export function stageVerdicts(findings: readonly Finding[]): { stage: StageName; verdict: Verdict }[] {
  return STAGES.map((stage) => ({
    stage,
    verdict: worstVerdict(findings.filter((finding) => finding.stage === stage)),
  }))
}
