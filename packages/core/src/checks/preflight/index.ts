import { addressOfTool } from './address-of-tool.js'
import { addressSecure } from './address-secure.js'
import { categorySet } from './category-set.js'
import { contentChosen } from './content-chosen.js'
import { contentOfTool } from './content-of-tool.js'
import { datesAsTool } from './dates-as-tool.js'
import { datesInCourse } from './dates-in-course.js'
import { datesInOrder } from './dates-in-order.js'
import { everyoneReached } from './everyone-reached.js'
import { firstEntryMade } from './first-entry-made.js'
import { frameAllowed } from './frame-allowed.js'
import { groupsFilled } from './groups-filled.js'
import { identityEnough } from './identity-enough.js'
import { keyUsed } from './key-used.js'
import { launchAddressUsable } from './launch-address-usable.js'
import { learnerCanOpen } from './learner-can-open.js'
import { menuBypass } from './menu-bypass.js'
import { oneColumn } from './one-column.js'
import { pointsAboveZero } from './points-above-zero.js'
import { pointsAsTool } from './points-as-tool.js'
import { publishedInUnit } from './published-in-unit.js'
import { registrationEnabled } from './registration-enabled.js'
import { sameContent } from './same-content.js'
import { secureInFrame } from './secure-in-frame.js'
import { sessionParameters } from './session-parameters.js'
import { titleAlone } from './title-alone.js'
import { titleAsToolWants } from './title-as-tool-wants.js'
import { toldApart } from './told-apart.js'
import { toolLookAlike } from './tool-look-alike.js'
import { toolReturnsScores } from './tool-returns-scores.js'
import { unitPublished } from './unit-published.js'
import { windowSaid } from './window-said.js'
import type { PreflightFacts, PreflightRemark, Rule } from './rule.js'

export type { PreflightFacts, PreflightField, PreflightRemark, Rule, ToolFacts } from './rule.js'

/** Every rule, in the order in which a person fills in an assignment. */
export const PREFLIGHT_RULES: readonly Rule[] = [
  pointsAboveZero,
  pointsAsTool,
  categorySet,
  datesInOrder,
  datesInCourse,
  datesAsTool,
  unitPublished,
  publishedInUnit,
  contentChosen,
  contentOfTool,
  addressOfTool,
  launchAddressUsable,
  addressSecure,
  secureInFrame,
  sessionParameters,
  frameAllowed,
  windowSaid,
  titleAsToolWants,
  titleAlone,
  toolLookAlike,
  sameContent,
  toldApart,
  oneColumn,
  menuBypass,
  toolReturnsScores,
  identityEnough,
  groupsFilled,
  everyoneReached,
  firstEntryMade,
  keyUsed,
  registrationEnabled,
  learnerCanOpen,
]

export { titleFault } from './title-as-tool-wants.js'

/** Every rule that finds something, failures first. */
export function preflight(facts: PreflightFacts): PreflightRemark[] {
  const remarks = PREFLIGHT_RULES.flatMap((rule): PreflightRemark[] => {
    const found = rule.judge(facts)
    return found ? [{ rule: rule.code, field: rule.field, verdict: rule.severity, facts: found }] : []
  })
  return remarks.sort((a, b) => Number(a.verdict === 'warn') - Number(b.verdict === 'warn'))
}

export function ruleOf(code: string): Rule | undefined {
  return PREFLIGHT_RULES.find((one) => one.code === code)
}

/** What a remark says, and what mends it. */
export function remarkWords({ rule, facts }: Pick<PreflightRemark, 'rule' | 'facts'>): {
  statement: string
  remedy: string
} {
  return ruleOf(rule)!.words(facts)
}
