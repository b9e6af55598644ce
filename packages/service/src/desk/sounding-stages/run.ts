import type { Finding } from '@bathyscribe/core/checks'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'

/** What one sounding has found so far, and what its stages hand on to later ones. */
export interface Run {
  context: Context
  soundingId: string
  assignment: AssignmentRecord
  tool: RegistrationRecord
  signal: AbortSignal
  findings: Finding[]
  /** The test learner's link and the trail's end before the launch, once it was launched. */
  testLearner?: { link: Link; lastScoreId: string | null }
}

/** A finding as a stage makes it; stage, time and what is absent are filled in where it is stored. */
export type Found = Pick<Finding, 'check' | 'verdict' | 'statement'> & Partial<Finding>

export function skipped(statement: string, remedy: string | null = null): Found {
  return { check: 'not tried', verdict: 'skipped', statement, remedy }
}
