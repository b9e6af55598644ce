import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  accountDifference,
  compareFindings,
  hidden,
  judgeSeen,
  remarksOfPage,
  stagesOf,
  stageVerdicts,
  VERDICTS,
  wordsOf,
  type Finding,
  type Said,
  type Seen,
} from '../src/checks/index.js'
import { earlierAddress, objectionIn, objectionWords, type SentFacts } from '../src/diagnosis/index.js'
import { checkSentClaims, checkSentParameters } from '../src/sent/index.js'
import { isWithin } from '../src/scores/index.js'

const finding = (check: string, verdict: Finding['verdict'] = 'pass', facts: Finding['facts'] = {}): Finding => ({
  stage: 'score',
  check,
  code: 'as_it_was',
  verdict,
  facts,
  wireEntryId: null,
  pictureId: null,
  durationMs: 1,
})

describe('the stages of a sounding', () => {
  it('are all of them when it goes deep, and the plain way otherwise; cleaning up is always last', () => {
    expect(stagesOf('deep')).toHaveLength(12)
    expect(stagesOf('plain')).toEqual(['settings', 'registration', 'reachability', 'launch_instructor', 'launch_test_learner', 'score', 'gradebook', 'cleanup']) // oxfmt-ignore
    for (const depth of ['plain', 'deep'] as const) expect(stagesOf(depth).at(-1)).toBe('cleanup')
  })

  it('carry the worst of what was found in each', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...VERDICTS), { minLength: 1, maxLength: 8 }), (verdicts) => {
        const found = stageVerdicts(
          verdicts.map((verdict, i) => finding(`c${i}`, verdict)),
          'deep',
        )
        const worst = ['fail', 'warn', 'pass', 'skipped'].find((one) => verdicts.includes(one as Finding['verdict']))
        expect(found.find((one) => one.stage === 'score')!.verdict).toBe(worst)
        expect(found.filter((one) => one.stage !== 'score').every((one) => one.verdict === 'skipped')).toBe(true)
      }),
    )
  })
})

const plainly = (found: Said) => wordsOf(found, () => ({ statement: '', sentence: '', hint: null })).statement

describe('two soundings side by side', () => {
  it('from before and after facts were kept are compared by their words', () => {
    const old = (statement: string): Finding => ({ ...finding('keyset', 'pass', { statement }), code: 'said' })
    const now: Finding = { ...finding('keyset', 'pass', { keys: 3 }), code: 'usable' }
    const change = (statement: string) => compareFindings([old(statement)], [now], plainly)[0]!.change
    expect(change('The keyset answers and holds 2 usable keys.')).toBe('same')
    expect(change('2 keys are pasted here; nothing is fetched.')).toBe('other words')
  })

  it.each([
    ['pass', 'fail', 'worse'],
    ['fail', 'pass', 'better'],
    ['pass', 'warn', 'worse'],
    ['skipped', 'pass', 'better'],
  ] as const)('%s then %s is %s', (before, now, change) => {
    expect(compareFindings([finding('value', before)], [finding('value', now)], plainly)[0]!.change).toBe(change)
  })

  it('figures alone are no change, other words are, and so is something else found', () => {
    const change = (then: Finding['facts'], now: Finding['facts']) =>
      compareFindings([finding('taken', 'pass', then)], [finding('taken', 'pass', now)], plainly)[0]!.change
    expect(change({ ms: 12, steps: [{ path: '/a', ms: 3 }] }, { ms: 9.5, steps: [{ path: '/a', ms: 4 }] })).toBe('same')
    expect(change({ said: 'reference 7731' }, { said: 'reference 12.5' })).toBe('same')
    expect(change({ said: 'answered' }, { said: 'answered with a page' })).toBe('other words')
    const other = { ...finding('taken'), code: 'other' }
    expect(compareFindings([finding('taken')], [other], plainly)[0]!.change).toBe('other words')
  })

  it('names what came and what went; every finding of both stands in it once', () => {
    const names = fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 8 })
    fc.assert(
      fc.property(names, names, (then, now) => {
        const rows = compareFindings(
          then.map((one) => finding(one)),
          now.map((one) => finding(one)),
          plainly,
        )
        expect(rows.filter((row) => row.earlier)).toHaveLength(then.length)
        expect(rows.filter((row) => row.later)).toHaveLength(now.length)
        for (const row of rows) {
          expect(row.change === 'new').toBe(row.earlier === null)
          expect(row.change === 'gone').toBe(row.later === null)
        }
      }),
    )
  })
})

describe('a page that took the launch', () => {
  it.each([
    ['<form><input name="n"><INPUT class="x" type = "password"></form>', 'login page', 'fail'],
    ['<title>Error</title><h1>Something went wrong</h1>', 'error page', 'warn'],
    ['<h2>Access <em>denied</em></h2>', 'error page', 'warn'],
  ])('%s is a %s', (body, check, verdict) => {
    expect(remarksOfPage({ status: 200, body })[0]).toMatchObject({ check, verdict })
  })

  it.each([
    '<h1>Errors of observation</h1><p>Index error is taken off first.</p>'.replace('Errors', 'Corrections'),
    '<h1>Bowline</h1><p>This knot never failed.</p>',
    '<p>Password-protected boxes at sea</p>',
  ])('%s is content', (body) => expect(remarksOfPage({ status: 200, body })).toEqual([]))

  it('is not judged when it was refused by its status, and never throws whatever it holds', () => {
    expect(remarksOfPage({ status: 403, body: '<h1>Error</h1>' })).toEqual([])
    fc.assert(fc.property(fc.string({ maxLength: 300 }), (body) => void remarksOfPage({ status: 200, body })))
  })

  it('tells two accounts apart by how they greet one person, and nothing else on the page', () => {
    const page = (greeting: string, rest = '') => `<header>${greeting}</header><main>${rest}</main>`
    expect(accountDifference(page('Niamh, account 1'), page('Niamh, account 2'), 'Niamh')).toMatchObject({ is: expect.stringContaining('account 2') as string }) // oxfmt-ignore
    expect(accountDifference(page('Ahoy Niamh. You have handed in nothing so far, so begin.'), page('Ahoy Niamh. You have handed in nothing so far, so begin.', 'A new question'), 'Niamh')).toBeUndefined() // oxfmt-ignore
    expect(accountDifference(page('Welcome'), page('Hello'), 'Niamh')).toBeUndefined()
  })
})

describe('what a browser saw', () => {
  const seen: Seen = {
    visibleMs: 120,
    frameRefused: null,
    ledAway: null,
    blockedCookies: [],
    keptByPlatform: false,
    scriptErrors: [],
    mixedContent: [],
    popups: [],
    shutPermissions: [],
    stuck: false,
    words: 'Bends\n\nfor the\tlead line',
    html: '<h1>Bends</h1>',
  }
  it('is proven by what could be read, in one line', () => {
    expect(judgeSeen(seen, 'frame', 'drills')).toEqual([
      { check: 'visible', code: 'seen', verdict: 'pass', facts: { ms: 120, words: 'Bends for the lead line' } },
    ])
  })

  it.each<[string, Partial<Seen>, string, string]>([
    ['refused frames', { frameRefused: 'frame-ancestors none' }, 'framing', 'fail'],
    ['another origin in our frame', { ledAway: 'https://elsewhere.example' }, 'framing', 'fail'],
    ['lost cookies', { blockedCookies: [{ name: 'seat', reason: 'SameSiteLax' }] }, 'cookies', 'warn'],
    [
      'lost cookies that are not needed',
      { blockedCookies: [{ name: 'seat', reason: 'SameSiteLax' }], keptByPlatform: true },
      'cookies',
      'pass',
    ],
    ['a script that fails', { scriptErrors: ['x is not a function', 'y'] }, 'script', 'warn'],
    ['a script that never ends', { stuck: true }, 'script', 'fail'],
    ['parts without TLS', { mixedContent: ['http://a.example/x.js'] }, 'mixed content', 'warn'],
    ['windows that open themselves', { popups: ['about:blank'] }, 'windows', 'warn'],
    ['a camera that is shut', { shutPermissions: ['camera'] }, 'frame permissions', 'warn'],
    ['a blank page', { visibleMs: null, words: '', html: '' }, 'visible', 'fail'],
  ])('%s: said with its cause and what mends it', (_, change, check, verdict) => {
    const found = judgeSeen({ ...seen, ...change }, 'frame', 'drills').find((one) => one.check === check)!
    expect(found.verdict).toBe(verdict)
    if (verdict === 'pass') return
    const { cause, remedy } = wordsOf(found, () => ({ statement: '', sentence: '', hint: null }))
    expect([cause, remedy]).toEqual([expect.any(String), expect.any(String)])
  })

  it('names the command that lets it use what it asked for', () => {
    const [one] = judgeSeen({ ...seen, shutPermissions: ['camera', 'microphone', 'screen_sharing'] }, 'frame', 'drills')
    const { statement, remedy } = wordsOf(one!, () => ({ statement: '', sentence: '', hint: null }))
    expect(statement).toBe(
      'The page asked for the camera, the microphone and screen sharing, which its frame does not let it use.',
    )
    expect(remedy).toContain(
      '`bathyscribe tool change drills --frame-permission camera --frame-permission microphone --frame-permission screen_sharing`',
    )
  })

  it('says nothing of a page that could not be seen', () => {
    for (const change of [{ stuck: true }, { frameRefused: 'x' }, { ledAway: 'https://e.example' }]) {
      expect(hidden({ ...seen, ...change })).toBe(true)
      expect(judgeSeen({ ...seen, ...change }, 'frame', 'drills').map((one) => one.check)).not.toContain('visible')
    }
  })
})

describe('what a launch of ours says', () => {
  const facts = { disclosure: 'opaque' as const, as: 'learner' as const, secrets: ['halyard-3-bowline'] }
  const good: [string, string][] = [
    ['lti_message_type', 'basic-lti-launch-request'],
    ['lti_version', 'LTI-1p0'],
    ['resource_link_id', 'l-1'],
    ['user_id', 'u-1'],
    ['roles', 'Learner'],
    ['context_id', 'c-1'],
    ['oauth_consumer_key', 'k'],
    ['oauth_signature_method', 'HMAC-SHA1'],
    ['oauth_timestamp', '1790000000'],
    ['oauth_nonce', 'n'],
    ['oauth_version', '1.0'],
    ['oauth_signature', 'abc='],
  ]
  const problems = (fields: [string, string][], change = {}) =>
    checkSentParameters(fields, { ...facts, ...change }).map((one) => one.name)

  it('is held against the table of parameters and the limits of the registration', () => {
    expect(problems(good)).toEqual([])
    for (const [name] of good) expect(problems(good.filter(([one]) => one !== name))).toContain(name)
    expect(problems([...good, ['user_id', 'u-2']])).toContain('user_id')
    expect(problems([...good, ['shoe_size', '44']])).toContain('shoe_size')
    expect(problems([...good, ['custom_drill', 'bends']])).toEqual([])
    expect(problems([...good, ['lis_person_name_full', 'Niamh']])).toContain('lis_person_name_full')
    expect(problems([...good, ['lis_person_name_full', 'Niamh']], { disclosure: 'name' })).toEqual([])
    expect(problems([...good, ['lis_person_contact_email_primary', 'n@skerrow.example']], { disclosure: 'name' })).toContain('lis_person_contact_email_primary') // oxfmt-ignore
    expect(problems(good, { as: 'instructor' })).toContain('roles')
    expect(problems([...good, ['custom_key', 'x halyard-3-bowline y']])).toContain('custom_key')
  })

  const C = 'https://purl.imsglobal.org/spec/lti/claim/'
  const claims = {
    iss: 'https://lti.skerrow.example',
    aud: 'client',
    sub: 'u-1',
    iat: 1000,
    exp: 1300,
    nonce: 'n',
    [`${C}message_type`]: 'LtiResourceLinkRequest',
    [`${C}version`]: '1.3.0',
    [`${C}deployment_id`]: 'd',
    [`${C}target_link_uri`]: 'https://t.example/',
    [`${C}resource_link`]: { id: 'l-1' },
    [`${C}roles`]: ['http://purl.imsglobal.org/vocab/lis/v2/membership#Learner'],
  }
  const wrong = (change: object, more = {}) =>
    checkSentClaims({ ...claims, ...change }, { ...facts, ...more }).map((one) => one.name)

  it('the same of claims', () => {
    expect(wrong({})).toEqual([])
    for (const name of Object.keys(claims)) expect(wrong({ [name]: undefined })).toContain(name)
    expect(wrong({ exp: 9000 })).toContain('exp')
    expect(wrong({ exp: 900 })).toContain('exp')
    expect(wrong({ sub: 'x'.repeat(256) })).toContain('sub')
    expect(wrong({ name: 'Niamh' })).toContain('name')
    expect(wrong({ name: 'Niamh', email: 'n@x.example' }, { disclosure: 'name_and_email' })).toEqual([])
    expect(wrong({ shoe_size: 44 })).toContain('shoe_size')
    expect(wrong({ 'https://skerrow.example/claim/berth': 3 })).toEqual([])
    expect(wrong({ [`${C}custom`]: { key: 'halyard-3-bowline' } })).toContain(`${C}custom`)
    expect(wrong({}, { as: 'instructor' })).toContain(`${C}roles`)
  })
})

describe('a tool’s own words, set against what was sent', () => {
  const sent: SentFacts = {
    version: '1.3',
    as: 'learner',
    isTestLearner: true,
    sentAt: new Date('2026-11-20T08:00:00Z'),
    values: { deployment: 'd-7', issuer: 'https://lti.skerrow.example', audience: 'client-9' },
  }
  it.each([
    ['The tool does not know this deployment.', /deployment.*We sent “d-7”/],
    ['unexpected "aud" claim value', /audience.*We sent “client-9”/],
    ['We did not begin this login', /login that was lost/],
    ['No applicable key found in the JSON Web Key Set', /signature/],
  ])('%s', (words, statement) => {
    expect(objectionWords(objectionIn(words, sent)!).statement).toMatch(statement)
  })

  it('reads the clocks from the tool’s own answer', () => {
    const said = (clockAheadSeconds?: number) =>
      objectionWords(objectionIn('"exp" claim timestamp check failed', { ...sent, clockAheadSeconds })!).statement
    expect(said(-600)).toMatch(/600 seconds ahead of ours/)
    expect(said(600)).toMatch(/600 seconds behind ours/)
    expect(said(1)).toMatch(/agrees with ours/)
  })

  it('guesses nothing from words that say nothing', () => {
    expect(objectionIn('The bench is closed for repairs.', sent)).toBeUndefined()
  })

  it('that names an address of ours from before is known for what it is', () => {
    const now = 'https://now.skerrow.example'
    const own = { now, earlier: ['https://old.skerrow.example', 'http://now.skerrow.example:8080'] }
    for (const words of [
      'Expected iss https://old.skerrow.example',
      'No platform old.skerrow.example here, issuer wrong',
    ])
      expect(earlierAddress(words, own)).toEqual({ named: 'https://old.skerrow.example', now })
    const unknown = 'Issuer https://now.skerrow.example is unknown'
    expect(earlierAddress(unknown, own)).toBeUndefined()
    const objection = objectionIn(unknown, { ...sent, values: { issuer: now } })!
    expect(objection).toMatchObject({ about: 'issuer', value: now })
    expect(objectionWords(objection).statement).toMatch(/point to the issuer/)
  })
})

it('a number between two others counts both, exactly', () => {
  expect(isWithin('0.1', '0.1', '0.3')).toBe(true)
  expect(isWithin('0.30000000000000000001', '0.1', '0.3')).toBe(false)
})
