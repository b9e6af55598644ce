import { describe, expect, it } from 'vitest'
import HandOn from '../src/gradebook/HandOn.vue'
import ReconcilePage from '../src/gradebook/ReconcilePage.vue'
import { open } from './page.js'
import { callsOf, refuse, serve } from '../../../test/served.js'

const DRILLS = { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' } as const

describe('what is handed on to the records office', () => {
  const columns = [
    { id: 'a', slug: 'a', title: 'Bends', mode: 'manual', results: 9, accepted: 4, waiting: 0, refused: 1, unsent: 3 },
    {
      id: 'b',
      slug: 'b',
      title: 'Kept here',
      mode: 'never',
      results: 5,
      accepted: 0,
      waiting: 0,
      refused: 0,
      unsent: 5,
    },
  ]
  const trouble = { person: { id: 'aino', username: 'aino', fullName: 'Aino' }, column: { id: 'a', slug: 'a', title: 'Bends' }, points: '3', state: 'refused', tries: 2, answer: 'No such class.', nextAt: null } // oxfmt-ignore

  it('is handed on by a button that says how much, without what never goes', async () => {
    serve({ showHandOn: () => ({ office: true, paused: false, columns, trouble: [trouble] }), handOn: () => ({ queued: 3, unchanged: 4 }) }) // oxfmt-ignore
    const page = await open(HandOn, { course: 'c1', canChange: true })
    expect(page.text()).toContain('No such class.')
    await page.press('Hand on 3 new or changed results')
    expect(page.text()).toContain('3 to hand on, now under way; 4 unchanged.')
    await page.press('Hand on refused ones again, too')
    expect(callsOf('handOn').map((one) => one.body)).toEqual([{ again: false }, { again: true }])
  })

  it('is chosen for each column', async () => {
    serve({ showHandOn: () => ({ office: true, paused: false, columns, trouble: [] }), setHandOn: () => ({}) })
    const page = await open(HandOn, { course: 'c1', canChange: true })
    await page.type('When Bends is handed on', 'at_once')
    expect(callsOf('setHandOn')[0]).toMatchObject({ params: { assignment: 'a' }, body: { mode: 'at_once' } })
  })

  it.each([
    [{ office: false, paused: false }, 'There is no records office yet'],
    [{ office: true, paused: true }, 'The records office is paused'],
  ])('says why nothing goes on: %j', async (state, said) => {
    serve({ showHandOn: () => ({ ...state, columns, trouble: [] }) })
    expect((await open(HandOn, { course: 'c1', canChange: true })).text()).toContain(said)
  })

  it('cannot be handed on or chosen by who may only look', async () => {
    serve({ showHandOn: () => ({ office: true, paused: false, columns, trouble: [trouble] }) })
    const page = await open(HandOn, { course: 'c1', canChange: false })
    expect(page.text()).toContain('by hand')
    expect([...document.querySelectorAll('button')].map((one) => one.textContent.trim())).toEqual(['OneRoster archive'])
    expect(document.querySelector('select')).toBeNull()
  })
})

describe('a tool’s own export', () => {
  const person = { id: 'aino', username: 'aino', fullName: 'Aino Testmann' }
  const line = (n: number, more: object) => ({
    ...{ line: n, person, called: 'Aino T.', matchedBy: 'email', doubtful: false, class: 'different', ours: '3' },
    ...{ theirs: '9', theirPoints: '9', reason: null, statement: '', certainty: null, at: null },
    ...more,
  })
  const found = {
    column: { id: 'bends', slug: 'bends', title: 'Column bends', points: '10' },
    ...{ tool: DRILLS, fileName: 'pasted cells', sha256: 'abcdef0123456789', heads: ['Mail', 'Mark', 'Of'] },
    ...{ reading: { email: 'Mail', score: 'Mark' }, confirmed: false, maximum: null, taken: 0 },
    counts: { same: 1, rounding: 0, scale: 0, different: 1, missing_here: 0, missing_there: 1, unknown_person: 1, unreadable: 0 }, // oxfmt-ignore
    rows: [
      line(1, { class: 'same', ours: '9' }),
      line(2, { doubtful: true, matchedBy: 'name', statement: 'It was refused here.' }),
      line(3, { class: 'unknown_person', person: null, called: 'N. N.' }),
      line(4, { line: null, class: 'missing_there', theirs: null, theirPoints: null }),
    ],
  }
  const compared = async () => {
    serve({ reconcileScores: () => found, takeReconciled: () => ({ ...found, taken: 1 }) })
    const page = await open(ReconcilePage, { course: 'c1', assignment: 'bends' })
    await page.type('Cells of the export', 'Mail,Mark\na,9')
    await page.press('Compare')
    return page
  }

  it('is compared, with what agrees left out until one asks for it', async () => {
    const page = await compared()
    expect(callsOf('reconcileScores')[0]!.body).toMatchObject({ fileName: 'pasted cells', table: 'Mail,Mark\na,9' })
    expect(document.querySelectorAll('tbody tr')).toHaveLength(3)
    expect(page.text()).toContain('▲ by name only')
    await page.press('1 same')
    expect(document.querySelectorAll('tbody tr')).toHaveLength(4)
  })

  it('is taken over by lines that one chooses, and only where there is a value for somebody', async () => {
    const page = await compared()
    expect([...document.querySelectorAll('tbody input')].map((one) => one.getAttribute('aria-label'))).toEqual([
      'Use line 2',
    ])
    await page.press('Use line 2')
    await page.press('Use 1 value as my own points')
    expect(callsOf('takeReconciled')[0]!.body).toMatchObject({ lines: [2], reading: { email: 'Mail', score: 'Mark' } })
    expect(page.text()).toContain('1 value is now your own points')
    // What was chosen is done: the button has nothing to take any more.
    await page.press('Use 0 values as my own points')
    expect(callsOf('takeReconciled')).toHaveLength(1)
  })

  it('is read again as one says, and that is remembered when it is right', async () => {
    const page = await compared()
    await page.type('Out of', 'Of')
    await page.type('Maximum, if the file has none', ' 50 ')
    await page.press('Read again')
    await page.press('Correct: remember for Drills')
    const [, again, confirmed] = callsOf('reconcileScores').map((one) => one.body)
    expect(again).toMatchObject({ reading: { email: 'Mail', score: 'Mark', maximum: 'Of' }, maximum: '50' })
    expect(confirmed).toMatchObject({ confirm: true })
  })

  it('says what is wrong with it, and keeps what was pasted', async () => {
    refuse('reconcileScores', 'request.invalid', 'No line has a score.')
    const page = await open(ReconcilePage, { course: 'c1', assignment: 'bends' })
    await page.type('Cells of the export', 'nothing')
    await page.press('Compare')
    expect(page.text()).toContain('No line has a score.')
    expect(page.field('Cells of the export').value).toBe('nothing')
  })
})
