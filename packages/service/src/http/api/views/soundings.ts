import {
  headlineInWords,
  inWords,
  type Finding as FindingView,
  type Sounding,
  type SoundingDetail,
  type ToolCheck,
} from '@bathyscribe/contract'
import { stageVerdicts, type Finding, type Found, type Verdict } from '@bathyscribe/core/checks'
import type { SoundingSummary } from '../../../records/soundings.js'
import { inText } from './moments.js'

export function soundingView({ waitMinutes: _, waiting, stages, headline, ...sounding }: SoundingSummary): Sounding {
  return {
    ...inText(sounding),
    waiting: waiting && { ...waiting, until: new Date(waiting.until).toISOString() },
    stages: stageVerdicts(stages, sounding.depth),
    cause: headlineInWords(headline),
  }
}

export function soundingDetailView(sounding: SoundingSummary, findings: readonly Finding[]): SoundingDetail {
  return { ...soundingView(sounding), findings: findings.map(findingView) }
}

export function findingView(finding: Finding): FindingView {
  return { ...finding, ...inWords(finding) }
}

export function toolCheckView({
  findings,
  ...check
}: {
  verdict: Verdict
  findings: readonly Found[]
  durationMs: number
}): ToolCheck {
  return {
    ...check,
    findings: findings.map(({ check: name, code, verdict, facts }) => {
      const { statement, remedy } = inWords({ check: name, code, facts })
      return { check: name, code, verdict, facts, statement, remedy }
    }),
  }
}
