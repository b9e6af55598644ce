import { beforeEach, describe, expect, it, vi } from 'vitest'
import Sounding from '../src/pages/Sounding.vue'
import SweepPage from '../src/pages/SweepPage.vue'
import ExpectationPanel from '../src/soundings/ExpectationPanel.vue'
import RunSounding from '../src/soundings/RunSounding.vue'
import { saveFile } from '../src/state/save-file.js'
import SweepList from '../src/sweeps/SweepList.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

vi.mock('../src/state/save-file.js', () => ({ saveFile: vi.fn() }))

const AT = '2026-11-02T10:00:00.000Z'
const TOOL = { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' } as const
const COURSE = { id: 'c1', code: 'HYD 210', title: 'Surveying' }
const person = (name: string) => ({
  id: name.toLowerCase(),
  username: name.toLowerCase(),
  fullName: `${name} Testmann`,
})
const member = (name: string, role: string, state: string) => ({
  ...sampled('listMembers').items[0]!,
  ...{ person: { ...person(name), email: '' }, role, state },
})
const changes = { newly_broken: 0, still_broken: 0, fixed: 0, slower: 0, same: 0, first: 0 }
const SWEEP = {
  ...{ id: 's2', title: 'HYD 210', state: 'done', startedAt: AT, endedAt: AT, by: person('Tomas'), scheduled: false },
  ...{ depth: 'deep', follower: 'browser', before: 's1', links: 9, done: 9, causes: [] },
  verdicts: { pass: 6, warn: 1, fail: 2, skipped: 0 },
  changes: { ...changes, newly_broken: 1, still_broken: 1, fixed: 2, slower: 1, same: 4 },
} // oxfmt-ignore
const link = (n: number, more: object = {}) => ({
  assignment: { id: `a${n}`, slug: `a-${n}`, title: `Drill ${n}` },
  ...{ course: COURSE, tool: TOOL, state: 'done', soundingId: `x${n}`, verdict: 'fail', cause: 'It refused.', change: 'newly_broken' },
  ...{ tookMs: 1234, tookBeforeMs: null, changed: null },
  ...more,
}) // oxfmt-ignore

beforeEach(() => vi.mocked(saveFile).mockClear())

describe('a sweep', () => {
  beforeEach(() => serve({ showSweep: () => SWEEP, listSweepLinks: () => ({ items: [link(1)], next: null }) }))
  const figures = () =>
    [...document.querySelectorAll('.sweep-number')].map((one) => one.textContent.replace(/\s+/g, ' ').trim())

  it('says its figures from across the room, those against the sweep before only where there was one', async () => {
    const page = await open(SweepPage, { id: 's2' })
    expect(figures()).toEqual(['2 broken', '1 newly broken', '2 fixed', '1 slower', '1 to look at', '6 proven'])
    expect(page.text()).toContain('1.2 s')
    page.view.unmount()
    serve({ showSweep: () => ({ ...SWEEP, before: null }) })
    await open(SweepPage, { id: 's2' })
    expect(figures()).toEqual(['2 broken', '1 to look at', '6 proven'])
  })

  it('shows the links behind a figure that one presses, and all again', async () => {
    const page = await open(SweepPage, { id: 's2' })
    for (const name of [/^2\s*broken$/, /^2\s*fixed$/]) await page.press(name)
    await page.press('Show all')
    expect(callsOf('listSweepLinks').map((one) => one.query)).toEqual([
      { limit: '50' },
      { limit: '50', verdict: 'fail' },
      { limit: '50', change: 'fixed' },
      { limit: '50' },
    ])
  })

  it('sounds all that is broken again, page by page, the way that it was sounded', async () => {
    const all = Array.from({ length: 350 }, (_, n) => link(n))
    serve({
      listSweepLinks: ({ query }) => {
        const from = Number(query?.cursor ?? 0)
        const until = from + Number(query?.limit)
        return { items: all.slice(from, until), next: until < all.length ? String(until) : null }
      },
      startSweep: () => ({ ...SWEEP, id: 's3' }),
    })
    const page = await open(SweepPage, { id: 's2' })
    await page.press('Sound the broken ones again')
    await vi.waitFor(() => expect(callsOf('startSweep')).toHaveLength(1))
    const body = callsOf('startSweep')[0]!.body as { assignments: string[] }
    expect(new Set(body.assignments).size).toBe(350)
    expect(body).toMatchObject({ depth: 'deep', follower: 'browser', drafts: true })
    await vi.waitFor(() => expect(page.router.currentRoute.value.fullPath).toBe('/sweeps/s3'))
  })

  it('says why the broken ones cannot be sounded again', async () => {
    refuse('startSweep', 'sounding.no_browser')
    const page = await open(SweepPage, { id: 's2' })
    await page.press('Sound the broken ones again')
    await vi.waitFor(() => expect(document.querySelector('[role=alert]')).not.toBeNull())
    expect(page.router.currentRoute.value.fullPath).toBe('/')
  })

  it.each([
    ['running', ['Pause', 'Stop'], { Pause: 'paused', Stop: 'stopped' }],
    ['paused', ['Go on', 'Stop'], { 'Go on': 'running', Stop: 'stopped' }],
  ] as const)('that is %s can be moved on', async (state, buttons, moves) => {
    serve({ showSweep: () => ({ ...SWEEP, state, done: 4 }), changeSweep: () => ({ ...SWEEP, state }) })
    const page = await open(SweepPage, { id: 's2' })
    expect(page.text()).toContain('4 of 9. You can leave this page; it runs on.')
    const shown = [...document.querySelectorAll('button')].map((one) => one.textContent.trim())
    expect(shown.slice(0, 2)).toEqual(buttons)
    for (const one of Object.keys(moves)) await page.press(one)
    expect(callsOf('changeSweep').map((one) => one.body)).toEqual(Object.values(moves).map((to) => ({ state: to })))
  })

  it('is saved as CSV and as JUnit XML, under the name that the service gives', async () => {
    serve({ showSweepReport: ({ query }) => ({ name: `sweep.${query?.form}`, mediaType: 'text/plain', text: query?.form }) }) // oxfmt-ignore
    const page = await open(SweepPage, { id: 's2' })
    await page.press('CSV')
    await page.press('JUnit XML')
    expect(vi.mocked(saveFile).mock.calls).toEqual([
      ['sweep.csv', 'text/plain', 'csv'],
      ['sweep.junit', 'text/plain', 'junit'],
    ])
  })

  it('says plainly that nothing is broken, and not before it is over', async () => {
    const sound = { ...SWEEP, verdicts: { pass: 9, warn: 0, fail: 0, skipped: 0 } }
    serve({ showSweep: () => sound })
    expect((await open(SweepPage, { id: 's2' })).text()).toContain('Nothing is broken.')
    document.body.innerHTML = ''
    serve({ showSweep: () => ({ ...sound, state: 'running' }) })
    expect((await open(SweepPage, { id: 's2' })).text()).not.toContain('Nothing is broken.')
  })

  it('tells by cause, with what was changed since the sweep before', async () => {
    const cause = { cause: 'The shared secret is wrong.', tool: TOOL, links: 7, newly: 3, soundingId: 'x1', assignment: link(1).assignment, course: COURSE } // oxfmt-ignore
    serve({ showSweep: () => ({ ...SWEEP, causes: [{ ...cause, changed: { what: 'tool_credentials', at: AT, by: 'Ingrid' } }] }) }) // oxfmt-ignore
    const page = await open(SweepPage, { id: 's2' })
    expect(page.text()).toMatch(/7 3 new Drills The shared secret is wrong\. ◐ .*Ingrid since the sweep before\. Drill 1 HYD 210/) // oxfmt-ignore
  })
})

describe('a new sweep', () => {
  beforeEach(() =>
    serve({
      listSweeps: () => ({ items: [], next: null }),
      listCourses: () => ({ items: ['2026-1', '2026-2', ''].map((term, n) => ({ ...sampled('showCourse'), id: `c${n}`, code: `HYD ${n}`, term })), next: null }), // oxfmt-ignore
      listTools: () => ({ items: [{ ...sampled('showTool'), slug: 'drills', name: 'Drills' }], next: null }),
      startSweep: () => ({ ...SWEEP, id: 's9' }),
    }),
  )

  it('goes over everything unless one chooses, the plain way', async () => {
    const page = await open(SweepList)
    expect(page.text()).toContain('None yet. A sweep sounds every link')
    await page.press('Sweep now')
    expect(callsOf('startSweep')[0]!.body).toEqual({ drafts: false, depth: 'plain', follower: 'http' })
    expect(page.router.currentRoute.value.fullPath).toBe('/sweeps/s9')
  })

  it.each([
    ['deep', { depth: 'deep', follower: 'http' }],
    ['browser', { depth: 'deep', follower: 'browser' }],
  ])('goes over what one chooses, %s', async (manner, how) => {
    const page = await open(SweepList)
    await page.type('Course of the sweep', 'c1')
    await page.type('Tool of the sweep', 'drills')
    await page.type('Term of the sweep', '2026-2')
    await page.type('How each link is sounded', manner)
    await page.press('Sweep now')
    expect(callsOf('startSweep')[0]!.body).toEqual({
      course: 'c1',
      tool: 'drills',
      term: '2026-2',
      drafts: false,
      ...how,
    })
  })

  it('offers no mail to who has none, and schedules what is chosen above', async () => {
    serve({ showMailDigest: () => ({ on: false, to: null }), listSweepSchedules: () => ({ items: [] }), createSweepSchedule: () => ({}) }) // oxfmt-ignore
    const page = await open(SweepList)
    await page.type('Tool of the sweep', 'drills')
    await page.press('On schedule')
    expect(page.text()).not.toContain('mail me what is newly broken')
    await page.type('How often', 'week')
    await page.type('Hour, UTC', '5')
    await page.press('Schedule it')
    expect(callsOf('createSweepSchedule')[0]!.body).toEqual({ tool: 'drills', depth: 'plain', follower: 'http', every: 'week', hour: 5, mail: false }) // oxfmt-ignore
  })

  it('says of each that there was what is most worth knowing', async () => {
    const over = (more: object) => ({ ...SWEEP, ...more })
    serve({
      listSweeps: () => ({
        items: [
          over({ id: '1', title: 'A' }),
          over({ id: '2', title: 'B', changes }),
          over({ id: '3', title: 'C', changes, verdicts: { pass: 9, warn: 0, fail: 0, skipped: 0 } }),
          over({ id: '4', title: 'D', changes, state: 'running', done: 3, verdicts: { pass: 3, warn: 0, fail: 0, skipped: 0 } }),
        ],
        next: null,
      }), // oxfmt-ignore
    })
    await open(SweepList)
    const found = [...document.querySelectorAll('tbody tr')].map((one) => one.lastElementChild!.textContent.replace(/\s+/g, ' ').trim()) // oxfmt-ignore
    expect(found).toEqual([
      '✕ 1 newly broken ● 2 fixed ▲ 1 to look at',
      '✕ 2 broken ▲ 1 to look at',
      '● 9 links proven',
      '',
    ])
  })
})

describe('a sounding is begun', () => {
  beforeEach(() =>
    serve({
      runSounding: () => ({ id: 'x1' }),
      listMembers: () => ({
        items: [
          member('Aino', 'learner', 'active'),
          member('Gone', 'learner', 'dropped'),
          member('Tomas', 'instructor', 'active'),
        ],
        next: null,
      }),
    }),
  )

  it('all the way as the test learner, unless one says otherwise', async () => {
    const begun: string[] = []
    const page = await open(RunSounding, { assignment: 'a1', course: 'c1', onBegun: (id: string) => begun.push(id) })
    await page.press('Begin')
    expect(callsOf('runSounding')[0]!.body).toEqual({ depth: 'deep', follower: 'http', waitMinutes: 15 })
    expect(begun).toEqual(['x1'])
    expect(callsOf('listMembers')).toEqual([])
  })

  it('as a learner only when one is chosen and has agreed', async () => {
    const page = await open(RunSounding, { assignment: 'a1', course: 'c1' }, '/?sound=pilot')
    const begin = () => [...document.querySelectorAll('button')].find((one) => one.textContent.trim() === 'Begin')!
    await vi.waitFor(() => expect(callsOf('listMembers')).toHaveLength(1))
    expect([...page.field('Pilot').querySelectorAll('option')].map((one) => one.textContent.trim())).toEqual([
      'choose a learner',
      'Aino Testmann',
    ])
    expect(begin().disabled).toBe(true)
    await page.type('Pilot', 'aino')
    expect(begin().disabled).toBe(true)
    await page.press(/The learner knows of it/)
    expect(begin().disabled).toBe(false)
    await page.type('Waits for a person', '15')
    await page.press('Begin')
    expect(callsOf('runSounding')[0]!.body).toEqual({ depth: 'deep', follower: 'http', waitMinutes: 15, pilot: 'aino', consented: true }) // oxfmt-ignore
  })

  it('once, however often one presses', async () => {
    let answer: (() => void) | undefined
    serve({ runSounding: () => new Promise((resolve) => (answer = () => resolve({ id: 'x1' }))) })
    const begun: string[] = []
    const page = await open(RunSounding, { assignment: 'a1', course: 'c1', onBegun: (id: string) => begun.push(id) })
    for (let n = 0; n < 3; n++) await page.press('Begin')
    answer!()
    await vi.waitFor(() => expect(begun).toEqual(['x1']))
    expect(callsOf('runSounding')).toHaveLength(1)
  })
})

describe('a sounding', () => {
  const one = (more: object = {}) => ({ ...sampled('showSounding'), id: 'x1', state: 'done', verdict: 'pass', cause: null, waiting: null, pilot: null, assignment: { id: 'a1', slug: 'a1', title: 'Drill' }, stages: [], findings: [], depth: 'deep', follower: 'browser', ...more }) // oxfmt-ignore

  it('is run again as it went, once', async () => {
    serve({ showSounding: () => one(), runSounding: () => ({ id: 'x2' }) })
    const page = await open(Sounding, { id: 'x1' })
    expect(page.text()).toContain('Proven all the way')
    await page.press('Run it again')
    expect(callsOf('runSounding')).toEqual([
      { params: { assignment: 'a1' }, query: {}, body: { depth: 'deep', follower: 'browser' } },
    ])
    expect(page.router.currentRoute.value.fullPath).toBe('/soundings/x2')
  })

  it('says where it waits for a person, and where the work is opened', async () => {
    serve({ showSounding: () => one({ state: 'running', verdict: null, waiting: { for: 'Open “Drill” and hand it in.', until: AT } }) }) // oxfmt-ignore
    const page = await open(Sounding, { id: 'x1' })
    expect(page.text()).toContain('It waits for a person. Open “Drill” and hand it in.')
    expect(page.text()).toContain('Open it as the test learner')
    expect(page.text()).not.toContain('Run it again')
  })

  it('says at once what is wrong, and why it cannot be run again', async () => {
    serve({ showSounding: () => one({ verdict: 'fail', cause: 'The shared secret is wrong.' }) })
    refuse('runSounding', 'sounding.already_running')
    const page = await open(Sounding, { id: 'x1' })
    expect(document.querySelector('.note-bad')?.textContent).toContain('The shared secret is wrong.')
    await page.press('Run it again')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })
})

describe('what is expected of a link', () => {
  const expectation = { answersWithinMs: 900, contains: 'Ready', scoreFrom: '0.5', scoreTo: null, membersFrom: null, setAt: AT, by: person('Ingrid'), learnedFrom: 'x1' } // oxfmt-ignore

  it('is told, changed and taken back', async () => {
    serve({ showExpectation: () => ({ expectation }), setExpectation: () => expectation, removeExpectation: () => ({}) }) // oxfmt-ignore
    const page = await open(ExpectationPanel, { assignment: 'a1' })
    expect(page.text()).toMatch(/Answers within 900 ms Shows “Ready” Score 0\.5 to any of 1 Set .* by Ingrid Testmann, learned from a sounding that passed/) // oxfmt-ignore
    await page.press('Change')
    await page.type('Its page shows the words', '')
    await page.type('to', '0.75')
    await page.press('Save')
    expect(callsOf('setExpectation')[0]!.body).toEqual({ answersWithinMs: 900, scoreFrom: '0.5', scoreTo: '0.75' })
    await page.press('Expect nothing')
    expect(callsOf('removeExpectation')).toHaveLength(1)
  })

  it('is learned, or refused with the reason', async () => {
    serve({ showExpectation: () => ({ expectation: null }) })
    refuse('learnExpectation', 'expectation.not_proven')
    const page = await open(ExpectationPanel, { assignment: 'a1' })
    expect(page.text()).toContain('Nothing beyond what every tool should do.')
    await page.press('Learn from the last passed')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })

  it('stays in the form where it is refused', async () => {
    serve({ showExpectation: () => ({ expectation: null }) })
    refuse('setExpectation', 'expectation.range')
    const page = await open(ExpectationPanel, { assignment: 'a1' })
    await page.press('Say what is expected')
    await page.type('Score from, part of 1', '0.9')
    await page.type('to', '0.1')
    await page.press('Save')
    expect(page.field('Score from, part of 1').value).toBe('0.9')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })
})
