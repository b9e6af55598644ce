import type { Finding } from '@bathyscribe/core/checks'
import type { AssignmentSummary } from '../../../records/assignment-summary.js'
import type { RegistrationRecord } from '../../../records/entities/tools.js'
import type { SentScore, StandingRow } from '../../../records/scores.js'
import type { SoundingOnItsWay } from '../../../records/soundings.js'
import type { Link } from '../../../records/statements/links.js'
import type { Context } from '../../context.js'
import type { TriedLaunch } from '../../launches/try-launch.js'

/** What one sounding has found so far, and what its stages hand on to later ones. */
export interface Run {
  context: Context
  sounding: SoundingOnItsWay
  assignment: AssignmentSummary
  tool: RegistrationRecord
  signal: AbortSignal
  findings: Finding[]
  startedAt: Date
  /** The learner that it goes as, the trail's end before the launch, and the launch itself once it was made. */
  learner?: { link: Link; lastScoreId: string | null; tried?: TriedLaunch }
  /** The score that came back, and what stands since then. */
  scored?: SentScore
  standing?: StandingRow | undefined
  /** Says that it waits for a person from here on, so that it holds nothing up. */
  onWait: () => void
}

/** Whom it goes as, in a sentence. */
export function learnerName({ sounding }: Run, link: Link): string {
  return sounding.pilot ? link.person.fullName : 'the test learner'
}
