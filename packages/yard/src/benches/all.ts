import type { Result, Setting } from './bench.js'
import { catalogueSearch } from './bench-13.js'
import { bulkAssignments, outline, preflightRules } from './content.js'
import { diagnosisRandom } from './diagnosis-random.js'
import { diagnosisOf } from './diagnosis.js'
import { diagnosisFlood } from './flood.js'
import { gradebookRead } from './gradebook.js'
import { compare, compareRs256 } from './in-turns.js'
import { besideSlowReads } from './large.js'
import { memory } from './memory.js'
import { burstOf, memberships, reconcileRows, rosterImport, scoreTargets } from './scores.js'
import { browserFollower, sweepOf } from './sweep.js'

/** All benchmarks by their names, in the order in which they are run. */
export const BENCHES: Readonly<Record<string, (setting: Setting) => Result | Promise<Result>>> = {
  outcomes: (setting) =>
    compare('outcomes', setting, {
      kind: 'outcomes',
      path: '/lti/outcomes',
      expect: '>success<',
      prepare: 2400,
      ...setting.signing,
    }),
  'launch-1.1': (setting) =>
    compare('launch-1.1', setting, {
      kind: 'launch',
      path: `/lti/launch/${setting.assignment}?target=frame`,
      cookies: setting.cookies,
      expect: 'oauth_signature',
      prepare: 0,
    }),
  'launch-1.3': (setting) => {
    const { clientId, redirectUri, link } = setting.of13
    const path = `/lti/launch/${link}?target=frame`
    const job = { kind: 'launch13', path, cookies: setting.cookies, clientId, redirectUri, prepare: 0 } as const
    return compareRs256('launch-1.3', setting, job, { perSubject: 2 })
  },
  'service-token': (setting) => {
    const { clientId, scope, kid, pem } = setting.of13
    const job = { kind: 'token13', path: '/lti/token', url: setting.url, clientId, scope, kid, pem } as const
    return compareRs256('service-token', setting, { ...job, expect: 'access_token', prepare: 1200 }, { verifies: true })
  },
  'catalogue-search': catalogueSearch,
  'bulk-assignments': bulkAssignments,
  outline,
  preflight: preflightRules,
  'ags-score': async (setting) => {
    const targets = await scoreTargets(setting)
    const result = await compare('ags-score', setting, { kind: 'ags', ...targets, prepare: 4000 })
    const burst = await burstOf(setting.url, targets)
    setting.say(`  ags-score: burst of ${burst.total}, 99th percentile ${burst.p99Ms} ms, median ${burst.p50Ms} ms`)
    // The worse of two: what it costs, and a burst whose slowest hundredth stays under twenty times its middle.
    return { ...result, ratio: burst.times < 20 ? result.ratio : 0, detail: { ...result.detail, burst } }
  },
  'gradebook-read': gradebookRead,
  memberships,
  'roster-import': rosterImport,
  reconcile: reconcileRows,
  diagnosis: diagnosisOf,
  'diagnosis-random': diagnosisRandom,
  'diagnosis-flood': diagnosisFlood,
  sweep: sweepOf,
  'beside-slow-reads': besideSlowReads,
  'browser-follower': browserFollower,
  memory,
}
