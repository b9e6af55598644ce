import { UNKNOWN_CELL, type Cell, type Gradebook, type GradeColumn } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import ColumnPanel from '../src/gradebook/ColumnPanel.vue'
import CourseGradebook from '../src/gradebook/CourseGradebook.vue'
import GradebookHistory from '../src/gradebook/GradebookHistory.vue'
import TrailPanel from '../src/gradebook/TrailPanel.vue'
import TwinNotes from '../src/gradebook/TwinNotes.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const AT = '2026-11-02T10:00:00.000Z'
const DRILLS = { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' } as const
const column = (id: string, more: Partial<GradeColumn> = {}): GradeColumn => ({
  ...{ id, slug: id, title: `Column ${id}`, points: '10', category: null, counted: true, counting: 'latest' as const },
  ...{ state: 'published' as const, released: true, reviewable: false, dueAt: null, tool: DRILLS, lastScoreAt: AT },
  ...{ scored: 2, waiting: 0, refused: 0, merged: [] },
  ...more,
})
const cell = (more: Partial<Cell>): Cell => ({ ...UNKNOWN_CELL, state: 'graded', attempts: 1, at: AT, ...more })
const points = (value: string, more: Partial<Cell> = {}) => cell({ points: value, shown: value, ...more })
const row = (name: string, cells: Record<string, Cell>, total: string | null, more: object = {}): Gradebook['rows'][number] => ({
  person: { id: name.toLowerCase(), username: name.toLowerCase(), fullName: `${name} Testmann` },
  ...{ state: 'active' as const, isTestLearner: false, cells, total, outOf: '20', shownTotal: total },
  ...more,
}) // oxfmt-ignore
const BOOK: Partial<Gradebook> = {
  course: { id: 'c1', code: 'HYD 210', title: 'Surveying' },
  columns: [column('bends'), column('hitches', { refused: 1 }), column('own', { state: 'column' })],
  learners: 4,
  rows: [
    row('Aino', { bends: points('9'), hitches: points('2.5', { late: true }) }, '11.5'),
    row(
      'Bela',
      { bends: cell({ state: 'waiting' }), hitches: points('7', { overridden: true, comment: 'Seen' }) },
      '7',
    ),
    row('Chidi', { bends: points('10', { attempts: 3 }) }, '10', { state: 'dropped' }),
    row('Dagny', {}, null),
  ],
}
const COURSE = sampled('showCourse', { id: 'c1', code: 'HYD 210', learners: 4 })
beforeEach(() => serve({ showGradebook: () => BOOK, listTwins: () => ({ items: [] }) }))

/** The rows that are drawn, by name. */
const names = () => [...document.querySelectorAll('.book-body .book-name')].map((one) => one.textContent.trim())
const cellOf = (person: string, title: string) =>
  [...document.querySelectorAll<HTMLElement>('.cell')].find((one) => one.getAttribute('aria-label')?.startsWith(`${person} Testmann, ${title}:`)) // oxfmt-ignore

describe('a gradebook', () => {
  it('says of each cell what it shows and what it means, to everybody', async () => {
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    expect(names()).toEqual(['Aino Testmann', 'Bela Testmann', 'Chidi Testmann · dropped', 'Dagny Testmann'])
    const said = (person: string, title: string) => cellOf(person, title)!.getAttribute('aria-label')
    expect(said('Aino', 'Column hitches')).toBe('Aino Testmann, Column hitches: 2.5 late')
    expect(said('Bela', 'Column bends')).toBe('Bela Testmann, Column bends:  waits to be graded')
    expect(said('Bela', 'Column hitches')).toBe('Bela Testmann, Column hitches: 7 set by the instructor')
    expect(said('Chidi', 'Column bends')).toBe('Chidi Testmann, Column bends: 10 3 scores')
    expect(said('Dagny', 'Column own')).toBe('Dagny Testmann, Column own:  never opened')
    expect(cellOf('Aino', 'Column hitches')!.title).toBe('2.5 exactly; late')
    expect(page.text()).toContain('11.5 of 20')
    expect(page.text()).toContain('1 refused')
    expect(page.text()).toContain('made by Drills')
    expect(page.faults).toEqual([])
  })

  it('has its own column’s title as no link: there is no such assignment', async () => {
    await open(CourseGradebook, { course: COURSE, canChange: true })
    const titles = [...document.querySelectorAll('.book-title')]
    expect(titles.map((one) => one.querySelector('a')?.getAttribute('href') ?? null)).toEqual([
      '/courses/c1/assignments/bends',
      '/courses/c1/assignments/hitches',
      null,
    ])
  })

  it('is sorted by what one presses, the most first, and by name again', async () => {
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    await page.press('Sort by Column bends')
    expect(names().map((one) => one.slice(0, 5))).toEqual(['Chidi', 'Aino ', 'Bela ', 'Dagny'])
    await page.press('Total')
    expect(names().map((one) => one.slice(0, 5))).toEqual(['Aino ', 'Chidi', 'Bela ', 'Dagny'])
    await page.press('Total ↓')
    expect(names()[0]).toBe('Aino Testmann')
    expect(names()[3]).toBe('Dagny Testmann')
  })

  it.each([
    ['scored', ['Aino', 'Bela', 'Chidi']],
    ['never_opened', ['Aino', 'Bela', 'Chidi', 'Dagny']],
    ['waiting', ['Bela']],
    ['late', ['Aino']],
    ['overridden', ['Bela']],
    ['exempt', []],
  ])('shows only those %s', async (filter, found) => {
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    await page.type('Show learners with', filter)
    expect(names().map((one) => one.split(' ')[0])).toEqual(found)
    expect(page.text()).toContain(`${found.length} of 4`)
    if (found.length > 0) return
    await page.press('Show all')
    expect(names()).toHaveLength(4)
  })

  it('finds by name whatever its case, and by user name', async () => {
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    await page.type('Find a learner', 'TESTMANN')
    expect(names()).toHaveLength(4)
    await page.type('Find a learner', ' dagny ')
    expect(names()).toEqual(['Dagny Testmann'])
  })

  it('asks for the test learner when one wants to see it', async () => {
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    await page.press(/with the test learner/)
    expect(callsOf('showGradebook').map((one) => one.query['testLearner'])).toEqual(['false', 'true'])
  })

  it('reads the first learners of a large course before all of them', async () => {
    const rows = Array.from({ length: 60 }, (_, n) => row(`P${String(n).padStart(2, '0')}`, {}, null))
    let whole: (() => void) | undefined
    serve({
      showGradebook: async ({ query }) => {
        if (query?.first === undefined) await new Promise<void>((resolve) => (whole = resolve))
        return { ...BOOK, learners: 60, rows: query?.first === undefined ? rows : rows.slice(0, Number(query?.first)) }
      },
    })
    const page = await open(CourseGradebook, { course: { ...COURSE, learners: 60 }, canChange: true })
    expect(page.text()).toContain('Reading all learners: 40 of 60')
    const csv = [...document.querySelectorAll('button')].find((one) => one.textContent.trim() === 'Export CSV')!
    expect(csv.disabled).toBe(true)
    whole!()
    await vi.waitFor(() => expect(page.text()).toContain('60 of 60'))
    await nextTick()
    expect(csv.disabled).toBe(false)
  })

  it('says so where there is nothing to grade', async () => {
    serve({ showGradebook: () => ({ ...BOOK, columns: [], rows: [] }) })
    expect((await open(CourseGradebook, { course: COURSE, canChange: true })).text()).toContain('no assignments yet')
  })

  it('opens the trail of the cell that one presses', async () => {
    serve({ showTrail: () => ({ person: { id: 'bela', username: 'bela', fullName: 'Bela Testmann' }, items: [] }) })
    const page = await open(CourseGradebook, { course: COURSE, canChange: true })
    cellOf('Bela', 'Column hitches')!.click()
    await page.settle()
    expect(callsOf('showTrail')[0]!.params).toEqual({ assignment: 'hitches', person: 'bela' })
  })
})

describe('a trail', () => {
  const entry = (more: object) => ({
    ...{ id: '1', at: AT, operation: 'replace', outcome: 'accepted', code: null, sent: '0.9', sentOutOf: '1', sentAt: null },
    ...{ activity: null, grading: null, points: '9', outOf: '10', pointsBefore: null, comment: null, wireEntryId: '77' },
    ...{ counts: false, by: null, evidence: null, mergedFrom: null, setAsideBy: null, handedIn: null },
    ...more,
  }) // oxfmt-ignore
  const trail = (items: object[], more: object = {}) => ({
    person: { id: 'aino', username: 'aino', fullName: 'Aino Testmann' },
    points: '10',
    ...{ items, changes: [], cell: points('9'), explained: 'The latest score counts.', next: null, reviewable: false },
    ...more,
  })
  const at = { assignment: 'bends', person: 'aino' }

  it('tells of each entry what came, from where, and whether it counts', async () => {
    serve({
      showTrail: () =>
        trail([
          entry({ id: '5', counts: true, comment: 'Well tied' }),
          entry({ id: '4', outcome: 'refused', code: 'score.above_one', sent: '1.7', points: null }),
          entry({ id: '3', setAsideBy: 's1' }),
          entry({ id: '2', mergedFrom: 'DRILL 1', evidence: 'export.csv' }),
          entry({ id: '1', operation: 'progress', activity: 'Started', grading: 'Pending', points: null, sent: null }),
        ]),
    })
    const page = await open(TrailPanel, at)
    const said = [...document.querySelectorAll('.trail > li')].map((one) => one.textContent.replace(/\s+/g, ' ').trim())
    expect(said[0]).toMatch(/^9 of 10 ● counts.*sent as 0\.9 of 1 · wire entry 77 Well tied$/)
    expect(said[1]).toMatch(/^1\.7.*refused/i)
    expect(said[2]).toContain('set aside by a sounding, not used')
    expect(said[3]).toContain('sent to “DRILL 1” · export.csv')
    expect(said[4]).toContain('started, the tool will grade it')
    expect(page.faults).toEqual([])
  })

  it('sends what is set by hand, without points where none are typed', async () => {
    serve({ showTrail: () => trail([]), gradeByHand: () => ({}) })
    const page = await open(TrailPanel, at)
    expect(page.text()).toContain('No score has been received.')
    await page.type('Points of 10; empty for none', ' 7.5 ')
    await page.type('Comment, which the learner reads', 'Seen in class')
    await page.press('Save')
    await page.press('Save')
    await page.press('Exempt')
    expect(callsOf('gradeByHand').map((one) => one.body)).toEqual([
      { act: 'override', points: '7.5', comment: 'Seen in class' },
      { act: 'override', points: null, comment: '' },
      { act: 'exempt' },
    ])
  })

  it('offers to lift what was set by hand, and to count again what is exempt', async () => {
    serve({
      showTrail: () => trail([], { cell: points('9', { overridden: true, exempt: true }) }),
      gradeByHand: () => ({}),
    })
    const page = await open(TrailPanel, at)
    await page.press('Lift: the tool’s score applies again')
    await page.press('Count again')
    expect(callsOf('gradeByHand').map((one) => one.body)).toEqual([{ act: 'lift' }, { act: 'count' }])
  })

  it('keeps what was typed where it is refused, and says why', async () => {
    serve({ showTrail: () => trail([]) })
    refuse('gradeByHand', 'access.denied')
    const page = await open(TrailPanel, at)
    await page.type('Points of 10; empty for none', '7')
    await page.press('Save')
    expect(page.field('Points of 10; empty for none').value).toBe('7')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })

  it.each([
    ['https://tools.example/essay', true],
    ['javascript:alert(1)', false],
    ['a text', false],
  ])('shows what was handed in, and links to nothing but pages: %s', async (value, linked) => {
    serve({ showTrail: () => trail([entry({ handedIn: { kind: 'url', value } })]) })
    const page = await open(TrailPanel, at)
    expect(page.text()).toContain(`Handed in: ${value}`)
    expect(document.querySelector(`a[href="${value}"]`) !== null).toBe(linked)
  })
})

describe('a column', () => {
  const book = { ...sampled('showGradebook'), ...BOOK } as Gradebook

  it('says where it comes from, and who has no score and why', async () => {
    const person = { id: 'dagny', username: 'dagny', fullName: 'Dagny Testmann' }
    serve({
      listUnscored: () => ({ items: [{ person, why: 'never_launched', statement: 'Never opened it.', at: null }] }),
    })
    const page = await open(ColumnPanel, { book, column: 'bends', canChange: true })
    expect(page.text()).toContain('An assignment with Drills · of 10 · no category · The latest score counts.')
    expect(page.text()).toContain('Dagny Testmann never launched')
  })

  it('takes a merge back, for who may', async () => {
    serve({ listUnscored: () => ({ items: [] }), unmergeColumn: () => ({}) })
    const merged = { ...book, columns: [column('bends', { merged: [{ id: 'm1', slug: 'm1', title: 'BENDS' }] })] }
    const page = await open(ColumnPanel, { book: merged, column: 'bends', canChange: true })
    expect(page.text()).toContain('Everybody has one.')
    await page.press('Take the merge back')
    expect(callsOf('unmergeColumn')[0]!.params).toEqual({ assignment: 'm1' })
    page.view.unmount()
    await open(ColumnPanel, { book: merged, column: 'bends', canChange: false })
    expect(document.querySelector('button')).toBeNull()
  })
})

describe('columns for the same work', () => {
  const twin = {
    ...{ made: { id: 'm1', slug: 'm1', title: 'BENDS', points: '10', scored: 3 }, ours: { id: 'o1', slug: 'o1', title: 'Bends', points: '10', scored: 2 } },
    ...{ tool: DRILLS, reasons: ['same_link', 'same_people'] },
  } // oxfmt-ignore
  const preview = { ...twin, kept: 5, changes: [], stays: 2 }

  it('are merged after one has seen what changes, and that is taken back', async () => {
    serve({
      listTwins: () => ({ items: [twin] }),
      previewMerge: () => preview,
      mergeColumn: () => preview,
      unmergeColumn: () => ({}),
    })
    const page = await open(TwinNotes, { course: 'c1', canChange: true })
    expect(page.text()).toContain(
      'for the same work: it belongs to the same link; the same people have scores in both.',
    )
    await page.press('Merge …')
    await vi.waitFor(() => expect(page.text()).toContain('All 5 scores of both are kept in one trail'))
    expect(callsOf('mergeColumn')).toEqual([])
    await page.press('Merge')
    await vi.waitFor(() => expect(callsOf('mergeColumn')).toHaveLength(1))
    expect(callsOf('mergeColumn')[0]).toMatchObject({ params: { assignment: 'm1' }, body: { into: 'o1' } })
    await vi.waitFor(() => expect(page.text()).toContain('“BENDS” is merged into “Bends”: 5 entries kept'))
    await page.press('Take it back')
    expect(callsOf('unmergeColumn')[0]!.params).toEqual({ assignment: 'm1' })
  })

  it('are told to who may only look, without a button', async () => {
    serve({ listTwins: () => ({ items: [twin] }) })
    const page = await open(TwinNotes, { course: 'c1', canChange: false })
    expect(page.text()).toContain('made a column “BENDS”')
    expect(page.text()).not.toContain('Merge …')
  })
})

describe('a gradebook’s history', () => {
  it('asks for what one looks for, from its first page on', async () => {
    serve({ listScores: () => ({ items: [], changes: [], next: 'more' }), listScoreBursts: () => ({ items: [] }) })
    const page = await open(GradebookHistory, { course: 'c1' })
    expect(page.text()).toContain('Nothing has happened here that fits.')
    await page.type('Find in the history', ' bends ')
    await page.type('Outcome', 'refused')
    await page.type('By', 'tool')
    expect(callsOf('listScores').at(-1)!.query).toEqual({
      limit: '40',
      search: 'bends',
      outcome: 'refused',
      by: 'tool',
    })
  })

  it('tells scores, refusals and changes of columns as one story, the newest first', async () => {
    const person = { id: 'aino', username: 'aino', fullName: 'Aino Testmann' }
    const [sample] = sampled('listScores', {}, 3).items
    const base = { ...sample, person, column: { id: 'b', slug: 'b', title: 'Bends' }, tool: DRILLS, by: null, evidence: null, wireEntryId: null, setAsideBy: null } // oxfmt-ignore
    serve({
      listScoreBursts: () => ({ items: [{ tool: DRILLS, from: AT, to: '2026-11-02T10:10:00.000Z', scores: 31, changed: 30, columns: [{ id: 'b', slug: 'b', title: 'Bends' }], firstId: '1', lastId: '31' }] }), // oxfmt-ignore
      listScores: () => ({
        items: [
          { ...base, id: '2', at: '2026-11-02T12:00:00.000Z', operation: 'replace', outcome: 'accepted', pointsBefore: '3', points: '9' },
          { ...base, id: '1', at: AT, operation: 'replace', outcome: 'refused', code: 'score.above_one' },
        ],
        changes: [{ id: '9', at: '2026-11-02T11:00:00.000Z', column: { id: 'b', slug: 'b', title: 'Bends' }, pointsBefore: '10', pointsAfter: '20', countingBefore: 'latest', countingAfter: 'latest', results: 14, by: 'Tomas' }],
        next: null,
      }), // oxfmt-ignore
    })
    const page = await open(GradebookHistory, { course: 'c1' })
    expect(page.text()).toContain('31 scores from Drills in 10 minutes, 30 changed')
    const lines = [...document.querySelectorAll('tbody tr')].map((one) => one.textContent.replace(/\s+/g, ' ').trim())
    expect(lines).toHaveLength(3)
    expect(lines[0]).toContain('3 → 9')
    expect(lines[1]).toMatch(/all 14 .*10.*20/)
    expect(lines[2]).toMatch(/refused/i)
  })
})
