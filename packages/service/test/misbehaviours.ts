import { PICKER_FAULTS } from '@bathyscribe/practice-tools'
import { beforeAll, expect } from 'vitest'
import { publishDrill, startAcademy, type TestAcademy } from './harness.js'
import { decisive, runSounding } from './soundings.js'

/** Where a sounding fails and why, by misbehaviour; `passes` where it is no fault, or one that only a person's choosing brings out. */
export type Row = [fault: string, stage: string, cause: RegExp | null]
export const passes = (fault: string): Row => [fault, 'passes', null]

/** One tool-wide switch each, as every practice tool has them. */
export const WHOLE_TOOL: Row[] = [
  ['slow', 'reachability', /took too long/],
  ['error_500', 'reachability', /server answers 500/],
  ['refuses_frames', 'reachability', /refuses to be shown in a frame/],
  ['lost_cookies', 'reachability', /Browsers drop these cookies/],
  ['wrong_clock', 'reachability', /clock is (599|60\d) seconds off/],
  ['moved_away', 'launch_instructor', /redirects to http:\/\/localhost/],
]
export const HOSTILE: Row[] = [
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
export const LINK_11: Row[] = [
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
  ['score_secret_blank', 'score', /space/],
  ['score_other_hash', 'score', /body is not the one that was signed/],
  ['score_old_clock', 'score', /^The timestamp is 36\d\d seconds behind our clock/],
  ['score_other_result', 'score', /result/i],
  ['refuses_test_learner', 'launch_test_learner', /refuses the test learner/],
  ['broken_xml', 'score', /not well-formed XML/],
]
export const TOOL_13: Row[] = [
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
export const PICKERS_11: Row[] = Object.keys(PICKER_FAULTS).map((fault) =>
  fault === 'pick_closed' ? [fault, 'picker', /picker does not open/] : passes(fault),
)

const LEFT_OUT = ['title_alone', 'content_chosen', 'frame_allowed', 'tool_returns_scores']

/** What these tools share with Sextant is looked at once; that each of them really has it, by these. */
export const SHARED_13: Row[] = [
  ['refuses_frames', 'reachability', /refuse/],
  ['moved_away', 'launch_instructor', /redirects to http:\/\/localhost/],
  ['error_500', 'registration', /not with what was asked for/],
  ['forgets_logins', 'launch_instructor', /login that was lost/],
  ['holds_old_keyset', 'launch_instructor', /point to the signature/],
  ['refuses_test_learner', 'launch_test_learner', /refuses the test learner/],
  ['login_page', 'launch_instructor', /login page|sign in/],
]

/** Rows but those of slow tools, which have a file of their own: an honest tool may be slow on a busy machine, so only there is the limit short. */
export const quick = (rows: readonly Row[]) => rows.filter(([fault]) => fault !== 'slow')

/** An academy to misbehave in, its assignments and what is expected of them. */
export function misbehaving(settings: Record<string, unknown> = {}) {
  const at = {} as { academy: TestAcademy }
  let n = 0
  beforeAll(async () => {
    at.academy = await startAcademy(settings)
    await at.academy.person('tomas', { 'HYD-210': 'instructor' })
  })
  const drill = async (tool: string, change: Record<string, unknown> = {}) =>
    (await publishDrill(at.academy, tool, { title: `Drill ${++n}`, ...change })).id
  const expectRow = (assignment: string, row: Row) => expectRowOf(at.academy, assignment, row)
  return { at, drill, expectRow }
}

async function expectRowOf(academy: TestAcademy, assignment: string, [fault, stage, cause]: Row): Promise<void> {
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
