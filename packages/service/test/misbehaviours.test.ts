import {
  CREDENTIALS,
  createChandlery,
  createLantern,
  createPlotting,
  createSextant,
  createSignal,
  createWatchlog,
  HOSTILE_FAULTS,
  MISBEHAVIOURS,
  PICKER_FAULTS,
  TOOL13_FAULTS,
  TOOL_FAULTS,
} from '@bathyscribe/practice-tools'
import type { FastifyInstance } from 'fastify'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '../../../scripts/lib/postgres.mjs'
import { LINE_ITEM, SCORE } from './harness-13.js'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { registerPractice, startPractice, type Practice } from './practice-13.js'
import { decisive, runSounding } from './soundings.js'

/** Where a sounding fails and why, by misbehaviour; `passes` where it is no fault, or one that only a person's choosing brings out. */
type Row = [fault: string, stage: string, cause: RegExp | null]
const passes = (fault: string): Row => [fault, 'passes', null]

/** One tool-wide switch each, as every practice tool has them. */
const WHOLE_TOOL: Row[] = [
  ['slow', 'reachability', /took too long/],
  ['error_500', 'reachability', /server answers 500/],
  ['refuses_frames', 'reachability', /refuses to be shown in a frame/],
  ['lost_cookies', 'reachability', /Browsers drop these cookies/],
  ['wrong_clock', 'reachability', /clock is (599|60\d) seconds off/],
  ['moved_away', 'launch_instructor', /redirects to http:\/\/localhost/],
]
const HOSTILE: Row[] = [
  ['empty_page', 'launch_instructor', /empty page/],
  ['login_page', 'launch_instructor', /asks people to sign in/],
  ['says_error', 'launch_instructor', /reads like an error: “Error”/],
  ['evil_words', 'launch_instructor', /<script>|not what the tool objects to/],
  ['redirects_forever', 'launch_instructor', /redirects too often/],
  ['redirects_private', 'launch_instructor', /may not call/],
  ['streams_forever', 'launch_instructor', /larger than is read here/],
  ['huge_answer', 'launch_instructor', /larger than is read here/],
  ['breaks_off', 'launch_instructor', /broke the connection off/],
  ['many_cookies', 'launch_instructor', /more cookies|too many or too large|head of the answer/],
  // What only a browser sees is in soundings-browser.test.ts.
  passes('blank_page'),
  passes('endless_script'),
  passes('opens_windows'),
  passes('script_fails'),
]
const LINK_11: Row[] = [
  ['wrong_secret', 'launch_instructor', /shared secret is wrong/],
  ['clock_ahead', 'launch_instructor', /point to the clocks: “.*too old/],
  ['refuses_frames', 'launch_instructor', /refuses frames/],
  ['slow', 'launch_instructor', /took too long/],
  ['error_500', 'launch_instructor', /server failed with 500/],
  ...HOSTILE,
  ['once_only', 'again', /first visit only/],
  ['new_account', 'again', /one person for two/],
  ['lost_on_reload', 'again', /loses its session/],
  ['score_above_maximum', 'score', /above 1/],
  passes('sends_twice'),
  passes('sends_late'),
  ['sends_nothing', 'score', /sent no score/],
  ['score_wrong_secret', 'score', /signature/i],
  ['score_secret_blank', 'score', /blank/],
  ['score_other_hash', 'score', /body is not the one that was signed/],
  ['score_old_clock', 'score', /off by 1 hour on the dot/],
  ['score_other_result', 'score', /result/i],
  ['refuses_test_learner', 'launch_test_learner', /refuses the test learner/],
  ['broken_xml', 'score', /not well-formed XML/],
]
const TOOL_13: Row[] = [
  ...WHOLE_TOOL.filter(([fault]) => fault !== 'slow' && fault !== 'error_500'),
  ['slow', 'registration', /took too long/],
  ['error_500', 'registration', /not with what was asked for/],
  ...HOSTILE,
  // The service asks without a frame, where cookies are all there is; in a browser the platform's storage helps.
  ['no_cookies', 'launch_instructor', /did not keep our cookie/],
  ['wrong_client', 'launch_instructor', /sends the client ID “somebody-else”/],
  ['wrong_redirect', 'launch_instructor', /asks for the answer at “.*\/launch\/”/],
  ['changes_hints', 'launch_instructor', /does not send our hints back unchanged/],
  ['no_state', 'launch_instructor', /login that was lost/],
  ['wrong_prompt', 'launch_instructor', /request is not as the standard has it: .*prompt/],
  ['sends_nowhere', 'launch_instructor', /does not send the browser back/],
  ['knows_other_deployment', 'launch_instructor', /point to the deployment/],
  ['knows_other_issuer', 'launch_instructor', /point to the (issuer|audience)/],
  ['expects_other_audience', 'launch_instructor', /point to the audience/],
  ['holds_old_keyset', 'launch_instructor', /point to the signature/],
  ['clock_ahead', 'launch_instructor', /point to the clocks/],
  ['forgets_logins', 'launch_instructor', /login that was lost/],
  ['refuses_test_learner', 'launch_test_learner', /refuses the test learner/],
  ['once_only', 'again', /first visit only/],
  ['new_account', 'again', /one person for two/],
  ['keyset_empty', 'registration', /no usable key|no key|without keys/i],
  ['keyset_page', 'registration', /keyset/i],
  ['keyset_huge', 'registration', /larger|many/],
  ['keyset_gone', 'registration', /404/],
  ['reports_error', 'launch_instructor', /closed for repairs/],
  ['sends_nothing', 'score', /sent no score/],
  passes('score_above_maximum'),
  ['score_old_timestamp', 'again', /taken already/],
  ['score_wrong_user', 'score', /nobody|person|user/i],
  ['score_expired_token', 'score', /token/i],
  ['score_other_scope', 'score', /scope|token/i],
  ['score_other_registration', 'score', /another registration, “Sextant of another course”/],
  // Whatever a score is called, it is read as strictly.
  passes('score_media_type'),
  ['score_other_column', 'score', /column|line item/i],
  passes('score_ten_at_once'),
  passes('score_twice'),
  ['duplicate_column', 'score', /column of its own/],
  ['algorithm_none', 'score', /sign|algorithm/i],
  ['stale_key', 'score', /key/i],
  passes('pick_unsigned'),
  passes('pick_other_deployment'),
  passes('pick_wrong_data'),
  passes('pick_no_url'),
  passes('pick_unknown_type'),
  passes('pick_many'),
  passes('pick_other_points'),
  passes('pick_error'),
  ['pick_closed', 'picker', /picker does not open/],
]
const PICKERS_11: Row[] = Object.keys(PICKER_FAULTS).map((fault) =>
  fault === 'pick_closed' ? [fault, 'picker', /picker does not open/] : passes(fault),
)

const LEFT_OUT = ['content_chosen', 'frame_allowed', 'tool_returns_scores']

let academy: TestAcademy
let n = 0
beforeAll(async () => {
  academy = await startAcademy({ outgoingTimeoutMs: 3000 })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
})

async function expectRow(assignment: string, [fault, stage, cause]: Row): Promise<void> {
  const one = await runSounding(academy, assignment)
  // That these tests choose no content, and what preflight remembers of the row before, is not what is looked for.
  const found = decisive({ findings: one.findings.filter(({ check }) => !LEFT_OUT.includes(check)) })
  const told = one.findings.map((each) => `${each.stage} ${each.verdict} ${each.check}: ${each.statement}`).join('\n')
  expect(one.state, told).toBe('done')
  if (cause === null) return expect(found, told).toBeUndefined()
  expect(found?.stage, `${fault}\n${told}`).toBe(stage)
  expect(found!.cause ?? found!.statement, told).toMatch(cause)
  // What is wrong is said with a way out, and nothing of it stays.
  expect(found!.remedy, told).toBeTruthy()
  expect(one.findings.at(-1)!.stage).toBe('cleanup')
}
const drill = async (tool: string, change: Record<string, unknown> = {}) =>
  (await publishDrill(academy, tool, { title: `Drill ${++n}`, ...change })).id

it('every misbehaviour has its row, more than forty in all', () => {
  const named = (rows: Row[]) => new Set(rows.map(([fault]) => fault))
  expect(named(LINK_11)).toEqual(new Set(Object.keys(MISBEHAVIOURS)))
  expect(named(TOOL_13)).toEqual(new Set(Object.keys(TOOL13_FAULTS)))
  expect(named(WHOLE_TOOL)).toEqual(new Set(Object.keys(TOOL_FAULTS)))
  expect(named(HOSTILE)).toEqual(new Set(Object.keys(HOSTILE_FAULTS)))
  const failing = [...LINK_11, ...TOOL_13, ...WHOLE_TOOL, ...PICKERS_11].filter(([, , cause]) => cause)
  expect(failing.length).toBeGreaterThan(40)
})

describe('Knotwork Drills, by LTI 1.1', () => {
  beforeAll(async () => {
    await registerKnotwork(academy, {
      features: ['picker', 'scores'],
      pickerUrl: `${academy.knotwork}/shelf`,
    })
  })
  const practise = (faults: string) =>
    fetch(`${academy.knotwork}/practice`, { method: 'POST', body: new URLSearchParams({ faults }) })

  it('honest passes', async () => expectRow(await drill('knotwork-drills'), passes('honest')))
  it.each(LINK_11)('a link that does “%s” ends at %s', async (...row) =>
    expectRow(await drill('knotwork-drills', { customParameters: { practice_fault: row[0] } }), row),
  )
  it.each([...WHOLE_TOOL, ...PICKERS_11])('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill('knotwork-drills')
    await practise(row[0])
    await expectRow(assignment, row)
    await practise('')
  })
})

describe('Sextant Bench, by LTI 1.3', () => {
  let sextant: Practice
  beforeAll(async () => {
    sextant = await startPractice(
      academy,
      'Sextant Bench',
      (options) => createSextant({ ...options, slowMs: 6000 }),
      [SCORE, LINE_ITEM],
      { target: '/bench' },
      { features: ['picker', 'scores'], pickerUrl: '/shelf' },
    )
    await registerPractice(academy, 'Sextant of another course', sextant.url, [SCORE], { target: '/bench' }, { secondReason: 'test' }) // prettier-ignore
  })

  it('honest passes', async () => expectRow(await drill(sextant.slug), passes('honest')))
  it.each(TOOL_13)('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill(sextant.slug)
    await sextant.faults(row[0])
    await expectRow(assignment, row)
    await sextant.faults()
  })
})

/** What these tools share with Sextant is looked at once; that each of them really has it, by these. */
const SHARED_13: Row[] = [
  ['refuses_frames', 'reachability', /refuse/],
  ['moved_away', 'launch_instructor', /redirects to http:\/\/localhost/],
  ['error_500', 'registration', /not with what was asked for/],
  ['forgets_logins', 'launch_instructor', /login that was lost/],
  ['holds_old_keyset', 'launch_instructor', /point to the signature/],
  ['refuses_test_learner', 'launch_test_learner', /refuses the test learner/],
  ['login_page', 'launch_instructor', /login page|sign in/],
]

describe.each<[string, (options: { publicUrl: string }) => Promise<FastifyInstance>, string]>([
  ['Watchlog Essays', createWatchlog, '/log'],
  ['Signal Mast', createSignal, '/mast'],
  ['Lantern Margins', createLantern, '/margins'],
])('%s, by LTI 1.3', (name, create, target) => {
  let tool: Practice
  beforeAll(async () => {
    tool = await startPractice(academy, name, create, [SCORE, LINE_ITEM], { target })
  })
  it('honest passes', async () => expectRow(await drill(tool.slug), passes('honest')))
  it.each(SHARED_13)('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drill(tool.slug)
    await tool.faults(row[0])
    await expectRow(assignment, row)
    await tool.faults()
  })
  it('its review is proven where it says that submissions can be looked at, and skipped otherwise', async () => {
    const one = await runSounding(academy, await drill(tool.slug))
    const verdict = name === 'Watchlog Essays' ? 'pass' : 'skipped'
    expect(one.findings.find((found) => found.stage === 'review')).toMatchObject({ verdict })
  })
})

describe.each([
  ['Chandlery Shelf', createChandlery, CREDENTIALS.chandlery, '/launch', []],
  ['Plotting Table', createPlotting, CREDENTIALS.plotting, '/plot/running-fix', ['scores']],
] as const)('%s, by LTI 1.1', (name, create, credentials, path, features) => {
  const slug = name.toLowerCase().replace(' ', '-')
  let url: string
  const practise = (faults: string) =>
    fetch(`${url}/practice`, { method: 'POST', body: new URLSearchParams({ faults }) })
  // A title that the shelf knows; the table takes any.
  const drillHere = () => drill(slug, { title: name })
  beforeAll(async () => {
    const port = await freePort()
    url = `http://127.0.0.1:${port}`
    const app = await create({ publicUrl: url, slowMs: 6000, ...credentials })
    await app.listen({ host: '127.0.0.1', port })
    afterAll(() => app.close())
    await academy.admin.client.call('registerTool', {
      body: {
        name,
        launchUrl: url + path,
        disclosure: 'opaque',
        features: [...features],
        soundingParameters: { practice_score: '0.645' },
        ...credentials,
      },
    })
  })

  it('honest passes', async () => expectRow(await drillHere(), passes('honest')))
  it.each(WHOLE_TOOL)('a tool that does “%s” ends at %s', async (...row) => {
    const assignment = await drillHere()
    await practise(row[0])
    await expectRow(assignment, row)
    await practise('')
  })
})
