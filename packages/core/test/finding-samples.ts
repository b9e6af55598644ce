import { CHECKS, type CheckName } from '../src/checks/findings/catalogue.js'
import type { Facts, Said } from '../src/checks/index.js'

const refusal = { code: 'keyset.unreachable', detail: 'tool.example' }
export const page: Said = { check: 'login page', code: 'shown', facts: { words: 'Sign in' } }
export const refused = { who: 'the test learner', said: 'The tool answered 401: “No.”' }
const objection = {
  about: 'deployment',
  quoted: 'unknown deployment',
  as: 'learner',
  isTestLearner: false,
  sentAt: '2026-11-23T09:05:00.000Z',
  clockAheadSeconds: null,
  value: 'd-7',
}
const addresses = { some: ['http://a.example/x.js'], more: 2 }
export const lost = { cookies: [{ name: 'seat', reason: 'SameSiteLax' }], more: 0 }
const call = { entry: 'The signature does not match.', code: 'oauth.signature', proven: null }
export const sent = { sent: '0.9', outOf: '1' }
const opening = { who: 'Niamh Ailbe' }

export type Sample = [facts: Facts, statement: RegExp, cause?: RegExp | null, remedy?: RegExp | null]
const PLAIN = {}
/** Every code of every check, with facts as they are kept and what has to be told of them. */
export const SAMPLES: { [C in CheckName]: { [K in keyof (typeof CHECKS)[C]]: Sample } } = {
  preflight: { clean: [PLAIN, /nothing to remark/] },
  published: { draft: [PLAIN, /is a draft/, null, /Publish it/] },
  'not tried': {
    no_scores_returned: [PLAIN, /none is expected/, null, /returns scores/],
    score_not_waited_for: [{ assignment: 'a1', tool: 'knotwork' }, /No score was waited for/, null, /run a1 --wait 10.*change knotwork/], // oxfmt-ignore
    no_score_to_compare: [PLAIN, /nothing to compare/],
    no_second_score: [PLAIN, /No second score/],
    nobody_scored: [PLAIN, /nothing to take back/],
    no_roster_granted: [PLAIN, /no roster/],
    no_picker: [PLAIN, /no picker/],
    no_instructor: [PLAIN, /no instructor/],
    picker_closed: [PLAIN, /closed in the meantime/],
    no_review: [PLAIN, /single submissions/],
    stage_before: [{ stage: 'launch instructor' }, /because “launch instructor” did not pass/],
  },
  sounding: {
    service_stopped: [PLAIN, /stopped in the middle; run it again/],
    run_again: [PLAIN, /stopped in the middle; it is run again/],
    not_finished: [PLAIN, /could not be finished; run it again/],
  },
  return: { complained: [{ words: 'Class closed' }, /^Class closed$/] },
  link: { person_gone: [PLAIN, /is gone/], refused: [{ refusal }, /keyset\.unreachable \(tool\.example\)/] },
  address: addressSamples(),
  'initiation address': addressSamples(),
  registration: {
    incomplete: [{ refusal }, /\(tool\.example\)/, null, /Mend/],
    not_enabled: [{ state: 'suspended' }, /is suspended/, null, /Enable/],
    complete: [{ secretSetOn: '2026-09-01' }, /set on 2026-09-01/],
  },
  links: {
    elsewhere: [{ count: 2, origin: 'https://old.example', home: 'https://new.example', tool: 'knotwork' }, /^2 links have addresses at https:\/\/old\.example/, null, /move-addresses knotwork --from https:\/\/old\.example --to https:\/\/new\.example/], // oxfmt-ignore
  },
  answer: {
    none: [
      { failure: 'Nothing answers.', code: 'outgoing.timeout' },
      /Nothing answers/,
      null,
      /Mend outgoing\.timeout/,
    ],
    server_error: [{ status: 503, ms: 12 }, /answers 503 in 12 ms/, null, /support/],
    answers: [{ ms: 12 }, /in 12 ms/],
  },
  redirects: { other_host: [{ host: 'b.example', origin: 'https://b.example' }, /another host, b\.example/, null, /https:\/\/b\.example/] }, // oxfmt-ignore
  framing: {
    allowed: [PLAIN, /may be shown/],
    refused: [{ header: 'X-Frame-Options: DENY' }, /frame: X-Frame-Options: DENY/, null, /window/],
    launch_refused: [{ header: 'X-Frame-Options: DENY' }, /page refuses.*DENY/, /refuses frames/, /window/],
    not_shown: [{ reason: 'frame-ancestors' }, /does not show the page.*frame-ancestors/, /refuses frames/, /window/],
    led_away: [{ origin: 'https://e.example' }, /leads on to https:\/\/e\.example/, /does not show/, /register it/],
  },
  cookies: {
    survive: [PLAIN, /survive/],
    lost: [{ names: ['seat', 'row'], secure: true }, /frame: seat, row\.$/, null, /SameSite=None/],
    not_kept: [{ ...lost, target: 'frame' }, /did not keep “seat” \(SameSiteLax\)\.$/, /signed out/, /in a window/],
    not_needed: [{ ...lost, more: 2 }, /“seat” \(SameSiteLax\) and 2 more; the tool keeps its state/],
    too_many: [{ count: 51 }, /51 cookies/, /more cookies/, /support/],
  },
  clock: {
    agrees: [PLAIN, /agrees/],
    off: [{ seconds: 40, toleranceSeconds: 300 }, /40 seconds off/, null, /time server/],
  },
  keyset: {
    pasted: [{ keys: 2 }, /2 keys are pasted/],
    usable: [{ keys: 1 }, /holds a usable key/],
    unusable: [{ refusal }, /\(tool\.example\)/, /\(tool\.example\)/, /Mend/],
  },
  secret: {
    missing: [{ refusal }, /\(tool\.example\)/, /Refused by keyset\.unreachable\.$/, /Mend/],
    sealed_otherwise: [PLAIN, /cannot be opened/, /key file/, /key file/],
    opens: [PLAIN, /can be opened/],
  },
  'previous secret': { ends: [{ days: 1 }, /for 1 more day;/, /about to end/, /holds the new one/] },
  'key and secret': {
    no_answer: [PLAIN, /were not tried/],
    agree: [{ key: 'knots' }, /our key “knots”.*agree/],
    hidden_characters: [PLAIN, /invisible characters/, null, /again without/],
    other_secret: [PLAIN, /another secret/, null, /Keys over time/],
    swapped: [PLAIN, /are swapped/, null, /Exchange/],
    secret_wrong: [{ key: 'knots' }, /key “knots”.*made-up secret/, null, /Copy/],
    not_told: [{ key: 'knots' }, /key “knots”.*does not tell/, null, /exactly the same/],
    hindered: [{ what: 'firewall', status: 403 }, /could not be tried.*403.*firewall/, null, /let through/],
    not_clear: [PLAIN, /change from one time/, null, /sounding/],
  },
  initiation: {
    no_answer: [{ failure: 'Nothing answers.', code: 'outgoing.tls' }, /Nothing answers/, null, /Mend outgoing\.tls/],
    refused: [{ status: 404 }, /answers 404/, null, /exchange sheet/],
    not_sent_back: [PLAIN, /does not send the browser back/, null, /login initiation address/],
    sent_elsewhere: [{ url: 'https://e.example/a' }, /to https:\/\/e\.example\/a, not/, null, /exchange sheet/],
    other_client: [{ sent: 'c2', ours: 'c1' }, /“c2”/, null, /Enter c1/],
    redirect_not_registered: [{ sent: 'https://t.example/x' }, /“https:\/\/t\.example\/x”/, null, /Add it/],
    hints_changed: [PLAIN, /hints/, null, /unchanged/],
    no_state: [PLAIN, /no state/, null, /support/],
    not_as_standard: [{ detail: 'prompt is not none' }, /standard has it: prompt is not none/, null, /support/],
    sent_back: [PLAIN, /right parameters/],
  },
  launch: { refused_here: [{ refusal }, /\(tool\.example\)/, /keyset\.unreachable\.$/, /Mend/] },
  sent: {
    as_standard: [{ count: 14, parts: 'claims' }, /^All 14 claims/],
    not_as_standard: [{ name: 'roles', problem: '“roles” is missing.' }, /“roles” is missing/, /not as it should be/, /custom/], // oxfmt-ignore
  },
  taken: {
    taken: [{ who: 'the test learner', status: 200, ms: 80, steps: [{ path: '/a', ms: 30 }, { path: '/b', ms: 50 }] }, /answered 200 after 1 more step in 80 ms \(\/a 30, \/b 50\)\.$/], // oxfmt-ignore
    refused: [{ ...refused, wrong: null, code: null }, /^Launched as the test learner\. The tool answered 401/, /answered 401/, /own words/], // oxfmt-ignore
    moved: [
      { ...refused, to: 'https://b.example' },
      /answered 401/,
      /redirects to https:\/\/b/,
      /begin with https:\/\/b/,
    ],
    earlier_address: [{ ...refused, named: 'https://a.example', now: 'https://b.example' }, /401/, /names https:\/\/a.*https:\/\/b\.example now/, /publicUrl/], // oxfmt-ignore
    objected: [{ ...refused, objection }, /401/, /point to the deployment: “unknown deployment”\. We sent “d-7”/, /deployment identifier/], // oxfmt-ignore
    server_error: [{ ...refused, status: 500 }, /401/, /failed with 500/, /support/],
    refuses_test_learner: [refused, /401/, /refuses the test learner/, /pilot/],
    secret_has_hidden_characters: [refused, /401/, /invisible characters/, /again without/],
    next_secret_is_held: [refused, /401/, /next secret already/, /End the old secret/],
    previous_secret_is_held: [refused, /401/, /still has the previous secret/, /new secret at the tool/],
    key_and_secret_swapped: [refused, /401/, /are swapped/, /Exchange/],
    not_verified: [refused, /401/, /does not verify/, /support/],
    address_wrong: [{ ...refused, status: 405, url: 'https://t.example/x' }, /401/, /405 at https:\/\/t.*takes no launches/, /launch address/], // oxfmt-ignore
    key_or_secret_wrong: [{ ...refused, key: 'knots' }, /401/, /proves nothing.*key “knots”/, /compare the key/],
    secret_wrong: [
      { ...refused, key: 'knots' },
      /401/,
      /as far as the tool’s answers tell.*know the key “knots”/,
      /Copy/,
    ],
    not_the_credentials: [refused, /401/, /most likely not what.*answers differently/, /own words/],
    hindered: [{ ...refused, what: 'too_many', status: 429 }, /401/, /429, too many requests/, /Wait some minutes/],
    unsteady: [refused, /401/, /at one time and refuses the same at another/, /support/],
    not_told: [refused, /401/, /change from one time to the next/, /own words/],
  },
  redirect: { moved: [{ to: 'https://b.example' }, /redirects to https:\/\/b/, /redirects to https:\/\/b/, /vendor/] },
  'expected time': {
    within: [{ expectedMs: 900 }, /expected 900 ms/],
    slower: [{ ms: 1200, expectedMs: 900 }, /after 1200 ms; 900 were/, /more slowly than the 900 ms/, /too little/],
  },
  'expected words': {
    shown: [{ words: 'Bends' }, /shows “Bends”/],
    missing: [{ words: 'Bends' }, /does not show “Bends”/, /what is expected/, /other content/],
  },
  'login page': { shown: [{ words: 'Sign in' }, /login page.*“Sign in”/, /asks people to sign in/, /accounts/] },
  'error page': { shown: [{ status: 200, heading: 'Error', words: 'Error. Sorry' }, /answered 200.*“Error”: “Error\. Sorry”/, /reads like an error: “Error”/, /test learner/] }, // oxfmt-ignore
  script: {
    never_ends: [PLAIN, /kept the browser busy/, /never ends/, /support/],
    fails: [{ error: 'x is not a function', more: 1 }, /“x is not a function” and 1 more\.$/, /script/, /picture/],
  },
  'frame permissions': { shut: [{ permissions: ['camera', 'microphone'], tool: 'drills' }, /asked for the camera and the microphone/, /needs the camera and the microphone/, /tool change drills --frame-permission camera/] }, // oxfmt-ignore
  'mixed content': {
    kept_out: [{ addresses }, /keep out: http:\/\/a\.example\/x\.js and 2 more\.$/, /without TLS/, /https/],
  },
  windows: { opened: [{ addresses }, /by itself: http:\/\/a\.example\/x\.js and 2 more\.$/, /block/, /on a click/] },
  visible: {
    seen: [{ ms: 120, words: 'Bends' }, /after 120 ms: “Bends”/],
    blank: [PLAIN, /stayed empty/, /stays empty/, /window/],
  },
  'score back': {
    none_returned: [PLAIN, /is counted, but/, /returns none/, /totals/],
    not_proven: [{ assignment: 'a1', tool: 'knotwork' }, /No score was waited for/, /not proven/, /run a1 --wait 10/],
  },
  received: {
    score: [{ ...sent, who: 'the test learner' }, /^The tool sent 0\.9 of 1 for the test learner\.$/],
    refused: [{ sent: '1.7', refusal }, /refused: “1\.7”/, /keyset\.unreachable/, /Mend/],
    none: [{ who: 'the test learner', waited: { minutes: 10 } }, /within 10 minutes/, /sent no score/, /late/],
    other_registration: [{ name: 'Knots', entry: 'No.' }, /registration, “Knots”, and was refused: No\./, /^The tool sends this.*“Knots”/, /client ID/], // oxfmt-ignore
    call_refused: [call, /refused: The signature does not match/, /^The signature/, /Mend oauth\.signature/],
  },
  'line item': { own_column: [{ ...sent, title: 'Bends (tool)' }, /0\.9 of 1 to a column.*“Bends \(tool\)”/, /column of its own/, /merge/] }, // oxfmt-ignore
  'read back': {
    as_it_stands: [{ told: '0.9' }, /tool 0\.9 of 1/],
    other: [{ told: null, stands: '0.9' }, /tool nothing, but the gradebook has 0\.9/, /read back/, /trail/],
  },
  comment: { kept: [PLAIN, /is kept/], lost: [PLAIN, /is not shown/, /was lost/, null] },
  'expected score': {
    within: [{ from: '0.5', to: '1' }, /between 0\.5 and 1/],
    outside: [{ fraction: null, from: '0.5', to: '1' }, /is cleared of 1; from 0\.5 to 1/, /expected of it/, /content/],
  },
  value: {
    cleared: [PLAIN, /cleared the score/, null, null],
    agrees: [{ ...sent, points: '10', value: '9' }, /^0\.9 of 1 × 10 points = 9, as/],
    other: [{ value: null, expected: '9' }, /has nothing where 9/, /times points/, /trail/],
  },
  'second score': {
    as_it_counts: [{ counting: 'best' }, /follows “best”/],
    not_as_it_counts: [{ standsBy: '7', expected: null, counting: 'best' }, /entry 7, but “best” gives none/, /second score/, /trail/], // oxfmt-ignore
    refused: [{ code: 'score.older' }, /refused: score\.older\.$/, /first score was taken, the second refused: score\.older\.$/, /time of its own/], // oxfmt-ignore
    other_registration: [
      { name: 'Knots', entry: 'No.' },
      /“Knots”/,
      /second refused: The tool sends.*“Knots”/,
      /client ID/,
    ],
    call_refused: [{ ...call, proven: { sentence: 'It was signed by another key.', remedy: 'Change it.' } }, /The signature/, /second refused: It was signed by another key/, /Change it/], // oxfmt-ignore
  },
  'set aside': {
    nothing: [PLAIN, /left nothing/],
    entries: [
      { count: 2, who: 'the test learner' },
      /^2 entries of the test learner were set aside: the trail keeps them/,
    ],
  },
  'second visit': {
    refused: [
      refused,
      /the test learner in once, but not a second time\. The tool answered 401/,
      /first visit/,
      /support/,
    ],
    same_account: [PLAIN, /same account/],
    another_account: [
      { was: 'Niamh 1', is: 'Niamh 2' },
      /first “Niamh 1”, then “Niamh 2”/,
      /another account/,
      /user_id/,
    ],
  },
  reload: {
    still_there: [{ status: 200 }, /still there after a reload: 200/],
    lost: [{ status: 410, page: null }, /tool answers 410/, /loses its session/, /support/],
  },
  roster: {
    refused: [{ entry: 'No token.' }, /refused: No token/, /No token/, /scope/],
    readable: [{ members: 1, lastReadAt: '2026-11-23T09:05:00.000Z' }, /read 1 person; the tool last read it at 2026-11-23T09:05Z/], // oxfmt-ignore
  },
  'expected members': {
    not_granted: [PLAIN, /grants none/, /may not read/, /Grant/],
    enough: [{ from: 3 }, /At least 3/],
    too_few: [{ members: 2, from: 3 }, /shows 2 members; at least 3/, /shorter/, /import/],
  },
  picker: openedSamples('The tool’s picker'),
  review: openedSamples('The review of Niamh Ailbe'),
}

function addressSamples(): Record<'none' | 'refused' | 'open' | 'secure' | 'on_this_machine', Sample> {
  const what = 'The address'
  return {
    none: [PLAIN, /no launch address/],
    refused: [{ refusal }, /\(tool\.example\)/, null, /Mend/],
    open: [{ what }, /The address begins with http:/, null, /https/],
    secure: [{ what }, /The address is secure/],
    on_this_machine: [{ what }, /The address is on this machine/],
  }
}

function openedSamples(what: string): Record<'opens' | 'refused' | 'other_page' | 'doubtful', Sample> {
  const closed = new RegExp(`^${what} does not open`)
  return {
    opens: [{ ...opening, status: 200, ms: 40 }, new RegExp(`^${what} opens: 200 in 40 ms`)],
    refused: [{ ...opening, said: 'The tool answered 401.' }, closed, closed, /own words/],
    other_page: [
      { ...opening, page },
      /does not open\. The tool shows a login page/,
      /asks people to sign in/,
      /accounts/,
    ],
    doubtful: [{ ...opening, page }, closed, /asks people to sign in/, /accounts/],
  }
}
