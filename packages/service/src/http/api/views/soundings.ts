import type { Sounding, SoundingDetail } from '@bathyscribe/contract'
import { stageVerdicts, type Finding } from '@bathyscribe/core/checks'
import type { SoundingSummary } from '../../../records/soundings.js'
import { inText } from './moments.js'

export function soundingView({ waitMinutes: _, waiting, stages, ...sounding }: SoundingSummary): Sounding {
  return {
    ...inText(sounding),
    waiting: waiting && { ...waiting, until: new Date(waiting.until).toISOString() },
    stages: stageVerdicts(stages, sounding.depth),
  }
}

export function soundingDetailView(sounding: SoundingSummary, findings: Finding[]): SoundingDetail {
  return { ...soundingView(sounding), findings }
}
