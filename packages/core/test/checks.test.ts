import { describe, expect, it } from 'vitest'
import {
  launchRefusal,
  MARKS,
  proofLine,
  changeInWords,
  proofOf,
  type Change,
  readReturn,
  worstVerdict,
  type Evidence,
  type ProofFacts,
  type ToolAnswer,
} from '@bathyscribe/core/checks'
import { stripHidden, visibleText } from '@bathyscribe/core/text'
import { checkLaunchAddress, framingRefusal } from '@bathyscribe/core/links'

const at = (minute: number): Evidence => ({
  kind: 'wire',
  id: String(minute),
  at: new Date(2026, 8, 1, 8, minute),
  person: 'Niamh',
})
const told = (minute: number, statement: string) => ({ ...at(minute), statement })
const facts: ProofFacts = {
  now: at(30).at,
  registration: { state: 'enabled', hasSecret: true, evidence: at(0) },
  link: { chosen: true, launchUrl: 'https://tool.example/launch', evidence: at(0), change: null, pointsChange: null },
  published: { ...at(1), hidden: false, opensAt: null, closesAt: null },
  visit: null,
  launchProof: null,
  launchFailure: null,
  launchComplaint: null,
  score: null,
  scoreRefusal: null,
  recorded: null,
}
const changed = (what: Change['what'], minute: number): Change => ({ what, at: at(minute).at, by: 'Ingrid' })
const published = (more: object) => ({ published: { ...facts.published!, ...more } })
const WHOLE = {
  visit: at(2),
  launchProof: at(3),
  score: told(3, '0.5'),
  recorded: { ...at(3), agrees: true, statement: '' },
}
const line = (change: Partial<ProofFacts>) => proofLine(proofOf({ ...facts, ...change }))

describe('the proof', () => {
  it.each<[string, Partial<ProofFacts>, string]>([
    ['published, never opened', {}, '●●●○○○'],
    ['a draft', { published: null }, '●●○○○○'],
    ['no launch address', { link: { ...facts.link, launchUrl: null } }, '●○●○○○'],
    ['content still to be chosen at the first launch', { link: { ...facts.link, chosen: false } }, '●○●○○○'],
    ['a draft registration', { registration: { ...facts.registration, state: 'draft' } }, '▲●●○○○'],
    ['a suspended tool', { registration: { ...facts.registration, state: 'suspended' } }, '✕●●○○○'],
    ['no secret', { registration: { ...facts.registration, hasSecret: false } }, '✕●●○○○'],
    ['opened by a person', { visit: at(2) }, '●●●●○○'],
    ['a launch that a sounding saw refused', { visit: at(2), launchFailure: told(3, 'Secret wrong') }, '●●●✕○○'],
    ['refused once, proven since', { launchFailure: told(3, 'x'), launchProof: at(4) }, '●●●●○○'],
    [
      'refused, then fixed but not tried since',
      { launchFailure: told(3, 'x'), link: { ...facts.link, change: changed('tool_credentials', 4) } },
      '●●●◐○○',
    ],
    ['a person came back with an error', { visit: at(2), launchComplaint: told(3, 'no class') }, '●●●▲○○'],
    ['an error, then opened again', { visit: at(4), launchComplaint: told(3, 'no class') }, '●●●●○○'],
    [
      'a score that stands',
      { visit: at(2), launchProof: at(3), score: told(3, '0.5'), recorded: { ...at(3), agrees: true, statement: '' } },
      '●●●●●●',
    ],
    [
      'a score refused since',
      {
        visit: at(2),
        score: told(3, '0.5'),
        scoreRefusal: told(4, '1.2'),
        recorded: { ...at(3), agrees: true, statement: '' },
      },
      '●●●●▲●',
    ],
    [
      'a gradebook that disagrees',
      { visit: at(2), score: told(3, '0.5'), recorded: { ...at(3), agrees: false, statement: '' } },
      '●●●●●✕',
    ],
    ['a unit that is hidden', published({ hidden: true }), '●●▲○○○'],
    ['a day that has not come', published({ opensAt: at(31).at }), '●●○○○○'],
    ['a day that came', published({ opensAt: at(29).at }), '●●●○○○'],
    ['a day that is over', published({ closesAt: at(29).at }), '●●▲○○○'],
    ['another tool since', { ...WHOLE, link: { ...facts.link, change: changed('tool', 4) } }, '●●●◐◐◐'],
    ['another tool before', { ...WHOLE, link: { ...facts.link, change: changed('tool', 1) } }, '●●●●●●'],
    ['a change in the very moment', { ...WHOLE, link: { ...facts.link, change: changed('address', 3) } }, '●●●◐◐◐'],
    [
      'opened again since',
      { ...WHOLE, visit: at(5), link: { ...facts.link, change: changed('content', 4) } },
      '●●●●◐◐',
    ],
    ['other points since', { ...WHOLE, link: { ...facts.link, pointsChange: changed('points', 4) } }, '●●●●●◐'],
    [
      'other points, and a score since',
      {
        ...WHOLE,
        recorded: { ...at(5), agrees: true, statement: '' },
        link: { ...facts.link, pointsChange: changed('points', 4) },
      },
      '●●●●●●',
    ],
    // Of two in the same moment nothing says which was first: what is wrong stands until it is plainly over.
    ['refused in the moment of a proof', { launchFailure: told(3, 'x'), launchProof: at(3) }, '●●●✕○○'],
    ['an error in the moment of a visit', { visit: at(3), launchComplaint: told(3, 'x') }, '●●●▲○○'],
    ['an error in the moment of a proof', { launchProof: at(3), launchComplaint: told(3, 'x') }, '●●●▲○○'],
    ['an error, proven since', { launchProof: at(4), launchComplaint: told(3, 'x') }, '●●●●○○'],
    ['a score refused in the moment of another', { score: told(3, '0.5'), scoreRefusal: told(3, '2') }, '●●●○▲○'],
    ['a score since a refusal', { score: told(4, '0.5'), scoreRefusal: told(3, '2') }, '●●●○●○'],
    ['a day that comes now', published({ opensAt: at(30).at }), '●●●○○○'],
    ['a day that ends now', published({ closesAt: at(30).at }), '●●▲○○○'],
    [
      'refused, and changed in that moment',
      { launchFailure: told(3, 'x'), link: { ...facts.link, change: changed('tool', 3) } },
      '●●●✕○○',
    ],
  ])('of %s', (_, change, expected) => {
    expect(line(change)).toBe(expected)
  })

  it('rests on the newest that speaks for it', () => {
    const launched = (change: Partial<ProofFacts>) => proofOf({ ...facts, ...change })[3]!
    expect(launched({ visit: at(2), launchProof: at(3) }).evidence!.id).toBe('3')
    expect(launched({ visit: at(3), launchProof: at(3) }).statement).toBe('The tool took the launch and answered.')
    expect(launched({ visit: at(4), launchProof: at(3) }).statement).toBe('Opened; the tool returned no error.')
    const both = { change: changed('tool', 4), pointsChange: changed('points', 5) }
    const recorded = (change: object) => proofOf({ ...facts, ...WHOLE, link: { ...facts.link, ...change } })[5]!
    expect(recorded(both).change!.what).toBe('points')
    expect(recorded({ ...both, change: changed('tool', 6) }).change!.what).toBe('tool')
  })

  it('says what was changed since, when and by whom, and keeps the evidence of before', () => {
    const marks = proofOf({ ...facts, ...WHOLE, link: { ...facts.link, change: changed('tool_credentials', 4) } })
    for (const mark of marks.slice(3)) {
      expect(mark.change).toEqual({ what: 'tool_credentials', at: at(4).at, by: 'Ingrid' })
      expect(mark.statement).toMatch(/Since then the tool’s key or secret changed\.$/)
      expect(mark.evidence).not.toBeNull()
    }
    expect(marks.slice(0, 3).map((mark) => mark.change)).toEqual([null, null, null])
    expect(changeInWords(changed('tool_credentials', 4))).toBe(
      'The tool’s key or secret was changed by Ingrid since it was proven.',
    )
    expect(changeInWords({ what: 'points', by: null })).toBe('The points were changed since it was proven.')
  })

  it('lights no mark without evidence that can be opened', () => {
    const full = {
      visit: at(2),
      launchProof: at(3),
      score: told(3, ''),
      recorded: { ...at(3), agrees: true, statement: '' },
    }
    const marks = proofOf({ ...facts, ...full })
    expect(marks.map((mark) => mark.name)).toEqual(MARKS)
    for (const mark of marks) expect(mark.evidence).toMatchObject({ id: expect.any(String) as string })
  })
})

const answer = (change: Partial<ToolAnswer>): ToolAnswer => ({
  status: 200,
  url: 'https://tool.example/',
  body: '<p>Drill</p>',
  returned: null,
  failure: null,
  ...change,
})

describe('what a tool answered', () => {
  it.each<[string, Partial<ToolAnswer>, RegExp | undefined]>([
    ['a page', {}, undefined],
    ['a page of scripts only', { body: '<script src="x"></script>' }, undefined],
    ['an empty page', { body: '<html><head><title>x</title></head></html>' }, /empty page/],
    ['401 with words', { status: 401, body: '<h1>No entry</h1>' }, /401: “No entry”/],
    ['500 without', { status: 500, body: '' }, /500 with an empty page/],
    ['a redirect to nowhere', { status: 302, body: '' }, /nowhere to go/],
    ['no answer at all', { status: 0, failure: 'Nothing answers.' }, /Nothing answers/],
    [
      'the way back with an error',
      { status: 302, returned: readReturn('https://p.example/r?lti_errormsg=Class+closed') },
      /Class closed/,
    ],
    [
      'the way back with a message',
      { status: 302, returned: readReturn('https://p.example/r?lti_msg=Done') },
      undefined,
    ],
  ])('%s', (_, change, expected) => {
    const refusal = launchRefusal(answer(change))
    if (expected) expect(refusal).toMatch(expected)
    else expect(refusal).toBeUndefined()
  })

  it('is read without markup, scripts and styles', () => {
    expect(visibleText('<style>p{}</style><p>a &amp;lt; b</p><script>x</script>\n<b>c</b>')).toBe('a &lt; b c')
  })
})

describe('a secret as it was entered', () => {
  it('loses blanks, line ends, quotes and invisible characters around it, not inside it', () => {
    expect(stripHidden('\ufeff "a b\u00a0c"\r\n\u200b')).toBe('a b\u00a0c')
  })
})

describe('addresses and frames', () => {
  it.each([
    ['https://tool.example/launch?x=1', undefined],
    ['http://127.0.0.1:9101/launch', undefined],
    ['ftp://tool.example/', 'address.scheme'],
    ['//tool.example/', 'address.malformed'],
    ['https:/tool.example', 'address.malformed'],
    ['https://a:b@tool.example/', 'address.credentials'],
    ['https://tool.example/#part', 'address.fragment'],
    ['https://tool.example/a b', 'address.malformed'],
    [`https://tool.example/${'x'.repeat(2000)}`, 'address.too_long'],
  ])('%s: %s', (address, code) => {
    expect(checkLaunchAddress(address)?.code).toBe(code)
  })

  it.each([
    [{}, true],
    [{ 'x-frame-options': 'DENY' }, false],
    [{ 'x-frame-options': 'sameorigin' }, false],
    [{ 'content-security-policy': "default-src 'self'; frame-ancestors 'none'" }, false],
    [{ 'content-security-policy': 'frame-ancestors https://p.example', 'x-frame-options': 'DENY' }, true],
    [{ 'content-security-policy': 'frame-ancestors https://*.example' }, true],
    [{ 'content-security-policy': 'frame-ancestors https://other.example:*' }, false],
    [{ 'content-security-policy': 'frame-ancestors https:' }, true],
    [{ 'content-security-policy': 'frame-ancestors' }, false],
  ])('headers %j may be framed: %s', (headers: Record<string, string>, allowed) => {
    expect(framingRefusal(headers, 'https://tool.example/', 'https://p.example') === undefined).toBe(allowed)
  })

  it('the worst verdict of a stage is its verdict', () => {
    expect(worstVerdict([{ verdict: 'pass' }, { verdict: 'warn' }])).toBe('warn')
    expect(worstVerdict([{ verdict: 'skipped' }])).toBe('skipped')
  })
})
