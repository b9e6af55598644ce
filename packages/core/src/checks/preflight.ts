import { checkLaunchAddress } from '../links/index.js'

/** What preflight looks at: one assignment as it would be published now. */
export interface PreflightFacts {
  title: string
  points: string
  hasCategory: boolean
  launchUrl: string | null
  registrationState: 'draft' | 'waiting' | 'enabled' | 'suspended' | 'retired' | 'deleted'
  /** Whether the registration's key is one that returns scores. */
  toolReturnsScores: boolean
  toolVersion: '1.1' | '1.3'
  /** The platform itself is reached by https: then a framed tool must be, too. */
  platformIsSecure: boolean
  documentTarget: 'frame' | 'window'
}

export interface PreflightRemark {
  rule: string
  verdict: 'warn' | 'fail'
  statement: string
  remedy: string
}

type Rule = (facts: PreflightFacts) => Omit<PreflightRemark, 'rule'> | undefined

/** The rules by name; `fail` stops publishing, `warn` does not. */
const RULES: Record<string, Rule> = {
  points_above_zero: ({ points }) =>
    Number(points) > 0
      ? undefined
      : {
          verdict: 'fail',
          statement: 'The assignment has no points, so every score would become 0.',
          remedy: 'Give it the points it is worth.',
        },
  category_set: ({ hasCategory }) =>
    hasCategory
      ? undefined
      : {
          verdict: 'warn',
          statement: 'No category is set, so its score counts towards no part of the total.',
          remedy: 'Choose one of the course’s categories.',
        },
  launch_address_usable: ({ launchUrl }) =>
    launchUrl !== null && checkLaunchAddress(launchUrl) === undefined
      ? undefined
      : {
          verdict: 'fail',
          statement: launchUrl === null ? 'There is no launch address.' : `“${launchUrl}” cannot be launched.`,
          remedy: 'Give the address of the content, or leave it empty to use the registration’s own.',
        },
  registration_enabled: ({ registrationState }) =>
    registrationState === 'enabled'
      ? undefined
      : {
          verdict: 'fail',
          statement: `Its tool’s registration is ${registrationState}, so learners would be refused.`,
          remedy: 'Enable the registration first, or choose another tool.',
        },
  tool_returns_scores: ({ toolReturnsScores }) =>
    toolReturnsScores
      ? undefined
      : {
          verdict: 'warn',
          statement: 'Its tool’s registration is for content that returns no scores, so the column will stay empty.',
          remedy: 'Choose a registration that returns scores, or put the content into the menu or a unit instead.',
        },
  scores_taken: ({ toolVersion, toolReturnsScores }) =>
    toolVersion === '1.1' || !toolReturnsScores
      ? undefined
      : {
          verdict: 'warn',
          statement: 'Scores of LTI 1.3 are not taken by this version yet, so the column will stay empty.',
          remedy: 'Use a registration of LTI 1.1 if the tool has one, or go on without scores.',
        },
  secure_in_frame: ({ platformIsSecure, documentTarget, launchUrl }) =>
    platformIsSecure && documentTarget === 'frame' && launchUrl?.startsWith('http:')
      ? {
          verdict: 'fail',
          statement: 'The tool’s address begins with http, which browsers do not show inside a secure page.',
          remedy: 'Use its https address, or open it in a window.',
        }
      : undefined,
}

/** Every rule that finds something, failures first. */
export function preflight(facts: PreflightFacts): PreflightRemark[] {
  const remarks = Object.entries(RULES).flatMap(([rule, judge]) => {
    const found = judge(facts)
    return found ? [{ rule, ...found }] : []
  })
  return remarks.sort((a, b) => Number(a.verdict === 'warn') - Number(b.verdict === 'warn'))
}
