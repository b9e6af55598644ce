import type { Finding } from '../sounding.js'
import type { Verdict } from '../verdict.js'
import { COURSE } from './course.js'
import type { Definition, Facts, Said } from './definition.js'
import { LAUNCH } from './launch.js'
import { PAGE } from './page.js'
import { SCORE } from './score.js'
import { TOOL_END } from './tool-end.js'
import { VISITS } from './visits.js'

/** Every check but the rules of preflight, with what it can find. Adding one is adding it here: judging, keeping and telling follow. */
export const CHECKS = { ...COURSE, ...TOOL_END, ...LAUNCH, ...PAGE, ...SCORE, ...VISITS } as const

type Checks = typeof CHECKS
export type CheckName = keyof Checks
export type CodeOf<C extends CheckName> = keyof Checks[C] & string
export type FactsOf<C extends CheckName, K extends CodeOf<C>> = Checks[C][K] extends Definition<infer F> ? F : never

/** What a check found, before it is known in which stage and with what to show for it. */
export interface Found extends Pick<Finding, 'check' | 'code' | 'verdict' | 'facts'> {
  wireEntryId?: string | null
  pictureId?: string | null
}

/** A finding of one check, judged by its facts. */
export function found<C extends CheckName, K extends CodeOf<C>>(
  check: C,
  code: K,
  facts: FactsOf<C, K>,
  shown: Shown = {},
): Found {
  const known: Facts = facts
  return { check, code, facts: known, verdict: verdictOf(definitionOf(check, code)!, known), ...shown }
}

/** What shows a finding: the wire entry of the message, the picture of the page. */
type Shown = Pick<Found, 'wireEntryId' | 'pictureId'>

/** A finding without where and how it was found: as it is kept beside other things. */
export function saidOf({ check, code, facts }: Said): Said {
  return { check, code, facts }
}

/** What is known of the first finding of a kind; undefined where there is none. */
export function factsIn<C extends CheckName, K extends CodeOf<C>>(
  findings: readonly Said[],
  check: C,
  code: K,
): FactsOf<C, K> | undefined {
  return findings.find((one) => one.check === check && one.code === code)?.facts as FactsOf<C, K> | undefined
}

export function definitionOf(check: string, code: string): Definition | undefined {
  if (!Object.hasOwn(CHECKS, check)) return undefined
  const codes: Record<string, Definition<never>> = CHECKS[check as CheckName]
  return Object.hasOwn(codes, code) ? (codes[code] as unknown as Definition) : undefined
}

function verdictOf({ verdict }: Definition, facts: Facts): Verdict {
  return typeof verdict === 'function' ? verdict(facts) : verdict
}
