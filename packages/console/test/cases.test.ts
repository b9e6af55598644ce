import type { Case } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it } from 'vitest'
import MissingScore from '../src/cases/MissingScore.vue'
import MyNotes from '../src/cases/MyNotes.vue'
import ReminderList from '../src/cases/ReminderList.vue'
import WorkInView from '../src/cases/WorkInView.vue'
import CasePage from '../src/pages/CasePage.vue'
import Cases from '../src/pages/Cases.vue'
import WaitingWork from '../src/pages/WaitingWork.vue'
import { loadSession } from '../src/state/session.js'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const AT = '2026-11-02T10:00:00.000Z'
const PERSON = { id: 'p1', fullName: 'Niamh Testmann', username: 'niamh' }
const ASSIGNMENT = { id: 'a1', slug: 'bends', title: 'Bends' }
const COURSE = { id: 'c1', code: 'HYD 210', title: 'Surveying' }
const letter = (text: string) => ({
  en: { subject: 'Bends', text },
  de: { subject: 'Knoten', text: `${text} auf Deutsch` },
})
const caseOf = (parts: Partial<Case> = {}): Partial<Case> => ({
  person: PERSON,
  assignment: ASSIGNMENT,
  course: { ...COURSE, timeZone: 'Europe/Oslo' },
  state: 'open',
  since: AT,
  judged: { code: 'nothing_came', certainty: 'unknown', actor: 'technologist', sentence: 'Nothing came.', act: 'Sound it.' },
  diagnosis: null,
  events: [],
  more: false,
  letters: { learner: letter('To the learner'), support: letter('To support') },
  mail: { on: true, learner: 'niamh@skerrow.example' },
  ...parts,
}) // oxfmt-ignore
const as = async (siteRole: 'administrator' | 'none') => {
  const { person, platform } = sampled('whoAmI')
  serve({ whoAmI: () => ({ person: { ...person, siteRole }, platform }) })
  await loadSession()
}
const show = async (parts: Partial<Case> = {}) => {
  serve({ showCase: () => caseOf(parts) })
  return open(CasePage, { course: 'c1', assignment: 'a1', person: 'p1' })
}
const field = (page: Awaited<ReturnType<typeof show>>, label: string) => page.field(label).value

describe('the page of a case', () => {
  beforeEach(() => as('administrator'))

  it('says what it is, how certain that is, and who has to act', async () => {
    const page = await show()
    expect(page.text()).toContain('What it is ○ not known Nothing came.')
    expect(page.text()).toContain('To act: the learning technologist. Sound it.')
    expect(page.text()).toContain('Nothing has happened yet')
    page.view.unmount()
    const judged = { ...caseOf().judged!, certainty: 'likely' as const }
    const event = { at: AT, kind: 'message' as const, tone: 'bad' as const, sentence: 'Refused.', by: null, text: null, wireEntryId: '7' } // oxfmt-ignore
    const other = await show({ judged, events: [{ ...event, isCertain: false }], more: true })
    expect(other.text()).toContain('What it is ▲ likely')
    expect(other.text()).toContain('✕went wrong ▲ likely: Refused.')
    expect(document.querySelector('a[href="/wire/7"]')).not.toBeNull()
    expect(other.text()).toContain('Older ones stand in the wire')
  })

  it('is closed with a note, and opened again', async () => {
    const page = await show()
    await page.type('Note, for those who look at it later', 'Sent again.')
    await page.press('Close the case')
    expect(callsOf('setCaseState')).toEqual([{ params: { assignment: 'a1', person: 'p1' }, query: {}, body: { state: 'closed', note: 'Sent again.' } }]) // oxfmt-ignore
    expect(field(page, 'Note, for those who look at it later')).toBe('')
    page.view.unmount()
    const none = await show({ state: 'none', since: null })
    await none.press('Take it up')
    expect(callsOf('setCaseState').at(-1)!.body).toMatchObject({ state: 'open' })
  })

  it('has both letters in two languages, keeps what was typed, and sends what stands there', async () => {
    const page = await show()
    expect(field(page, 'Text')).toBe('To the learner')
    await page.press('Deutsch')
    expect([field(page, 'Subject'), field(page, 'Text')]).toEqual(['Knoten', 'To the learner auf Deutsch'])
    await page.type('Text', 'Mein eigener Text')
    await page.press('Show it on their pages')
    expect(callsOf('writeInCase')[0]!.body).toEqual({ to: 'learner', by: 'page', subject: 'Knoten', text: 'Mein eigener Text' }) // oxfmt-ignore
    expect(field(page, 'Text')).toBe('Mein eigener Text')
    // Something has happened meanwhile, and another text is proposed: what was typed stays.
    serve({ showCase: () => caseOf({ letters: { learner: letter('It is here'), support: null } }) })
    await page.press('Close the case')
    expect(page.text()).not.toContain('To the tool’s support')
    expect(field(page, 'Text')).toBe('Mein eigener Text')
    await page.press('Mail it to niamh@skerrow.example')
    expect(callsOf('writeInCase')[1]!.body).toMatchObject({ by: 'mail' })
  })

  it('writes to support by address, by administrators only', async () => {
    const page = await show()
    await page.press('To the tool’s support')
    expect(field(page, 'Text')).toBe('To support')
    await page.type('Address', ' help@knotwork.example ')
    await page.press('Mail it')
    expect(callsOf('writeInCase')[0]!.body).toMatchObject({ to: 'support', by: 'mail', address: 'help@knotwork.example', text: 'To support' }) // oxfmt-ignore
    page.view.unmount()
    await as('none')
    const other = await show()
    await other.press('To the tool’s support')
    expect(other.text()).not.toContain('Mail it')
    expect(other.text()).toContain('Copy the text')
  })

  it('offers no mail where there is none, and says why', async () => {
    const page = await show({ mail: { on: true, learner: null } })
    expect(page.text()).toContain('The learner has no e-mail address.')
    page.view.unmount()
    expect((await show({ mail: { on: false, learner: null } })).text()).not.toMatch(/Mail it|no e-mail/)
  })

  it('keeps what was written where it was refused', async () => {
    const page = await show()
    refuse('writeInCase', 'mail.off')
    await page.type('Text', 'Mine')
    await page.press('Show it on their pages')
    expect(page.text()).toContain('This service sends no mail.')
    expect(field(page, 'Text')).toBe('Mine')
  })
})

describe('the list of cases', () => {
  it('says how one comes about where there is none, and shows closed ones when asked', async () => {
    const row = { person: PERSON, assignment: ASSIGNMENT, course: COURSE, state: 'closed' as const, since: AT, said: 'Still nothing.' } // oxfmt-ignore
    const tool = sampled('listTools').items[0] ?? { id: 't1', slug: 't', name: 'T', state: 'enabled' }
    serve({ listCases: ({ query }) => ({ items: query?.state === 'closed' ? [{ ...row, tool }] : [], next: null }) })
    const page = await open(Cases)
    expect(page.text()).toContain('No case is open.')
    await page.type('State', 'closed')
    expect(page.text()).toContain('Still nothing.')
    expect(document.querySelector('a[href="/courses/c1/assignments/a1/cases/p1"]')).not.toBeNull()
  })
})

describe('a learner', () => {
  it('says that a score is missing, and reads at once what is known', async () => {
    serve({ reportMissingScore: () => ({ sentence: 'It waits to be graded.', since: AT }) })
    const page = await open(MissingScore, { assignment: 'a1' })
    await page.press('My score is missing')
    await page.type('What did you do, and when? What does the tool show you?', 'On Monday.')
    await page.press('Tell my instructors')
    expect(callsOf('reportMissingScore')[0]).toMatchObject({
      params: { assignment: 'a1' },
      body: { said: 'On Monday.' },
    })
    expect(page.text()).toContain('It waits to be graded.')
    expect(page.text()).not.toContain('My score is missing')
  })

  it('keeps what was typed where it cannot be said', async () => {
    refuse('reportMissingScore', 'request.too_many')
    const page = await open(MissingScore, { assignment: 'a1' })
    await page.press('My score is missing')
    await page.type('What did you do, and when? What does the tool show you?', 'On Monday.')
    await page.press('Tell my instructors')
    expect(field(page, 'What did you do, and when? What does the tool show you?')).toBe('On Monday.')
    await page.press('Cancel')
    expect(page.text()).toContain('My score is missing')
  })

  it('puts away what they were told, one by one', async () => {
    const note = { at: AT, text: 'Open it.', by: 'Tomas', assignment: ASSIGNMENT, course: COURSE }
    serve({ listNotes: () => ({ items: ['1', '2'].map((id) => ({ ...note, id, subject: `Note ${id}` })) }) })
    const page = await open(MyNotes)
    await page.press('Put away: Note 2')
    expect(callsOf('putNoteAway').map((one) => one.params)).toEqual([{ id: '2' }])
    page.view.unmount()
    serve({ listNotes: () => ({ items: [] }) })
    expect((await open(MyNotes)).text()).toBe('')
  })
})

describe('reminders', () => {
  const there = (n: number) => ({
    items: Array.from({ length: n }, (_, i) => ({ person: { ...PERSON, id: `p${i}`, fullName: `Learner ${i}` }, hasAddress: true, remindedAt: i === 0 ? AT : null })),
    mail: true,
    texts: { en: 'Open it.', de: 'Bitte öffnen.' },
  }) // oxfmt-ignore

  it('go to all in one act, or to one, with the text that stands there', async () => {
    serve({
      showReminders: () => there(10),
      remindLearners: () => ({ reminded: [PERSON], withoutAddress: [PERSON], passedOver: [PERSON, PERSON] }),
    })
    const page = await open(ReminderList, { assignment: 'a1', course: 'c1' })
    expect(page.text()).not.toContain('Learner 9')
    await page.press('Show all 10')
    expect(page.text()).toContain('Learner 9')
    await page.type('What they are told', 'Please open it.')
    await page.press('Remind all by mail')
    await page.press('Remind Learner 3')
    expect(callsOf('remindLearners').map((one) => one.body)).toEqual([
      { by: 'mail', text: 'Please open it.' },
      { by: 'page', text: 'Please open it.', people: ['p3'], again: true },
    ])
    expect(page.text()).toContain('1 learner reminded. 1 without an e-mail address. 2 not again')
  })

  it('are nothing to see where everybody has opened it', async () => {
    serve({ showReminders: () => there(0) })
    expect((await open(ReminderList, { assignment: 'a1', course: 'c1' })).text()).toBe('')
  })
})

describe('work in view', () => {
  const learner = (n: number, state: 'never_opened' | 'waiting' | 'graded' | 'commented', points: string | null = null) => ({
    ...{ person: { ...PERSON, id: `p${n}`, fullName: `Learner ${n}` }, state, since: AT, activity: 'Submitted', points, late: n === 1 },
  }) // oxfmt-ignore
  const items = [
    learner(0, 'never_opened'),
    learner(1, 'waiting'),
    learner(2, 'graded', '8'),
    learner(3, 'commented', '9'),
  ]
  const standing = { assignment: ASSIGNMENT, outOf: '10', reviewable: true, items, more: false }
  const show = () => {
    serve({ showStanding: () => standing, showReminders: () => ({ items: [], mail: true, texts: { en: 'Open it.', de: '' } }) }) // oxfmt-ignore
    return open(WorkInView, { assignment: 'a1', course: 'c1' })
  }

  it('counts by group, and leaves out the empty ones', async () => {
    const page = await show()
    expect(page.text()).toBe('Learners 1 never opened1 waiting to be graded2 graded')
  })

  it('lists a group with how far each is and the way to the submission, and closes it again', async () => {
    const page = await show()
    await page.press('1 waiting to be graded')
    expect(page.text()).toMatch(/Learner 1.*the tool says Submitted.*late.*Open the submission/)
    expect(document.querySelector('a[href="/lti/review/a1/p1"]')).not.toBeNull()
    await page.press('2 graded')
    expect(page.text()).toMatch(/Learner 2\s*8 of 10.*Learner 3\s*9 of 10/)
    expect(page.text()).not.toContain('Learner 1')
    await page.press('2 graded')
    expect(page.text()).not.toContain('Learner 2')
  })

  it('writes to those of the group, and to nobody else', async () => {
    serve({ writeToLearners: () => ({ written: [PERSON, PERSON], withoutAddress: [] }) })
    const page = await show()
    await page.press('2 graded')
    await page.type('Write to these 2, on their pages', 'Well done.')
    await page.press('Write to them')
    expect(callsOf('writeToLearners')).toEqual([{ params: { assignment: 'a1' }, query: {}, body: { people: ['p2', 'p3'], by: 'page', subject: 'Bends', text: 'Well done.' } }]) // oxfmt-ignore
    expect(page.text()).toContain('Written to 2 learners.')
  })

  it('says over all courses what waits, of one tool when one is chosen', async () => {
    const tool = { id: 't1', slug: 'essays', name: 'Essays', state: 'enabled' as const }
    const row = { person: PERSON, assignment: ASSIGNMENT, course: COURSE, tool, since: AT, dueAt: null, reviewable: false } // oxfmt-ignore
    serve({
      listTools: () => ({ items: [{ ...sampled('showTool'), ...tool }], next: null }),
      listWaitingWork: ({ query }) => ({ items: query?.tool === 'essays' ? [row, { ...row, assignment: { ...ASSIGNMENT, id: 'a2' }, reviewable: true }] : [], next: null }),
    }) // oxfmt-ignore
    const page = await open(WaitingWork)
    expect(page.text()).toContain('Nothing waits to be graded.')
    await page.type('Tool', 'essays')
    expect(callsOf('listWaitingWork').at(-1)!.query).toEqual({ limit: '50', tool: 'essays' })
    const ways = [...document.querySelectorAll('tbody a:last-child')].map((one) => one.getAttribute('href'))
    expect(ways).toEqual(expect.arrayContaining(['/courses/c1/assignments/a1/work', '/lti/review/a2/p1']))
  })
})
