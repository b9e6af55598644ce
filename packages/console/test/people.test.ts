import { auditChanges, type AuditEntry, type Person } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import Audit from '../src/pages/Audit.vue'
import People from '../src/pages/People.vue'
import PersonPage from '../src/pages/PersonPage.vue'
import SearchBox from '../src/parts/SearchBox.vue'
import { useKeyScrolling } from '../src/state/scrollable.js'
import { loadSession } from '../src/state/session.js'
import { defineComponent, h, ref } from 'vue'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'
import { open } from './page.js'

const AT = '2026-11-02T10:00:00.000Z'
const COURSE = { id: 'abcdefghijkm', code: 'HYD 210', title: 'Surveying' }
const person = (more: Partial<Person> = {}): Person => ({
  ...{ id: 'abcdefghijkn', username: 'niamh', fullName: 'Niamh', givenName: 'Niamh', familyName: '', email: 'n@skerrow.example' },
  ...{ sourcedId: null, siteRole: 'none', isTestLearner: false, closed: false, hasPassword: true, createdAt: AT },
  ...more,
}) // oxfmt-ignore
const entry = (more: Partial<AuditEntry> = {}): AuditEntry => ({
  ...{ id: '7', at: AT, via: 'session x', action: 'change tool', subject: 'tool drills', before: null, after: null },
  ...{ person: { id: 'abcdefghijkn', username: 'niamh', fullName: 'Niamh' }, course: COURSE },
  ...more,
}) // oxfmt-ignore
async function agree(settle: () => Promise<void>) {
  ;[...document.querySelectorAll('button')]
    .filter((one) => one.textContent.trim() === 'Close the account')
    .at(-1)!
    .click()
  await settle()
}

describe('all people', () => {
  beforeEach(() => serve({ listPeople: () => ({ items: [person(), person({ id: 'abcdefghijkp', fullName: 'Aino', hasPassword: false, email: null }), person({ id: 'abcdefghijkq', fullName: 'Gone', closed: true })], next: 'more' }) })) // oxfmt-ignore

  it('are listed with how they sign in, in part and page by page', async () => {
    const page = await open(People)
    expect([...document.querySelectorAll('tbody tr')].map((one) => one.lastElementChild!.textContent.trim())).toEqual(['● open', '▲ no password yet', '✕ closed']) // oxfmt-ignore
    await page.type('Which people', 'without_password')
    await page.press('Next')
    expect(callsOf('listPeople').at(-1)!.query).toEqual({ only: 'without_password', limit: '50', cursor: 'more' })
    // Another part begins at its first page.
    await page.type('Which people', 'closed')
    expect(callsOf('listPeople').at(-1)!.query).toEqual({ only: 'closed', limit: '50' })
  })

  it('get one more, who is shown at once; what is refused keeps what was typed', async () => {
    serve({ createPerson: () => person({ id: 'abcdefghijkr' }) })
    const page = await open(People)
    await page.press('New person')
    await page.type('Name', 'Maren Achterboom')
    await page.type('User name', 'maren')
    refuse('createPerson', 'person.username_taken', 'maren')
    await page.press('Make the person')
    expect(document.querySelector('[role=alert]')!.textContent).toContain('maren')
    expect(page.field('Name').value).toBe('Maren Achterboom')
    serve({ createPerson: () => person({ id: 'abcdefghijkr' }) })
    await page.press('Make the person')
    expect(callsOf('createPerson').at(-1)!.body).toEqual({ fullName: 'Maren Achterboom', givenName: '', familyName: '', username: 'maren', siteRole: 'none', email: null }) // oxfmt-ignore
    expect(page.router.currentRoute.value.fullPath).toBe('/people/abcdefghijkr')
  })

  it('are invited all at once: those who have no password', async () => {
    serve({ makeSignInLinks: () => ({ items: [], passedOver: [], more: true, expiresAt: AT }) })
    const page = await open(People)
    await page.press('Make the links')
    expect(callsOf('makeSignInLinks')[0]!.body).toEqual({ again: false, mail: false })
    expect(page.text()).toContain('There are more: make the next ones when these are handed out.')
  })
})

describe('a person', () => {
  const shown = async (more: Partial<Person> = {}) => {
    serve({
      showPerson: () => person(more),
      showPersonPlaces: () => ({
        courses: [{ course: COURSE, role: 'learner', state: 'dropped', since: AT, droppedAt: AT }],
        tools: [{ tool: { id: 'abcdefghijks', slug: 'drills', name: 'Drills', state: 'enabled' }, disclosure: 'name', assignments: 2, launches: 5, firstAt: AT, lastAt: AT }],
      }),
      listAudit: () => ({ items: [entry()], next: null }),
      changePerson: () => person(more),
    }) // oxfmt-ignore
    return open(PersonPage, { person: 'niamh' })
  }

  it('is shown with courses, tools that have met them and what those may see, and what they did', async () => {
    const page = await shown()
    for (const words of [
      'HYD 210',
      'dropped',
      'Drills',
      'Identifier and name',
      'change tool',
      '● signs in by password',
    ])
      expect(page.text()).toContain(words)
    expect(callsOf('listAudit')[0]!.query).toEqual({ person: 'abcdefghijkn', limit: '10' })
    expect(page.faults).toEqual([])
  })

  it('gets a link that is shown once, or mailed', async () => {
    const page = await shown()
    serve({ makeSignInLinks: () => ({ items: [{ person: { id: 'abcdefghijkn', username: 'niamh', fullName: 'Niamh' }, email: null, link: 'https://here.example/welcome#x' }], passedOver: [], more: false, expiresAt: AT }) }) // oxfmt-ignore
    await page.press('Make a link')
    expect(callsOf('makeSignInLinks')[0]!.body).toEqual({ people: ['abcdefghijkn'], again: true, mail: false })
    expect(page.text()).toContain('https://here.example/welcome#x')
    expect(page.text()).toContain('It is shown this once')
    page.view.unmount()
    const without = await shown({ email: null })
    expect(without.text()).not.toContain('Mail a link')
  })

  it('is changed, closed after a question, and opened again', async () => {
    const page = await shown()
    await page.press('Change')
    await page.type('Email', '')
    await page.press('Administrator of the whole site')
    await page.press('Save')
    expect(callsOf('changePerson')[0]!.body).toEqual({ fullName: 'Niamh', givenName: 'Niamh', familyName: '', siteRole: 'administrator', email: null }) // oxfmt-ignore
    await page.press('Close the account')
    expect(callsOf('changePerson')).toHaveLength(1)
    await agree(page.settle)
    expect(callsOf('changePerson').at(-1)!.body).toEqual({ closed: true })
    page.view.unmount()
    const closed = await shown({ closed: true })
    await closed.press('Open it again')
    expect(callsOf('changePerson').at(-1)!.body).toEqual({ closed: false })
  })

  it('who is a course’s test learner can be neither changed nor invited', async () => {
    const page = await shown({ isTestLearner: true })
    for (const words of ['Change', 'Close the account', 'Make a link'])
      expect([...document.querySelectorAll('button')].map((one) => one.textContent.trim())).not.toContain(words)
    expect(page.text()).toContain('test learner of a course')
  })
})

describe('the audit', () => {
  it('is looked through, its address keeps what for, and is saved as a table', async () => {
    serve({
      listAudit: () => ({ items: [entry({ before: { name: 'Old', note: 'same' }, after: { name: 'New', note: 'same', state: 'enabled' } })], next: null }),
      reportAudit: () => ({ name: 'audit.csv', mediaType: 'text/csv', text: 'at\r\n', rows: 10_000, more: true }),
    }) // oxfmt-ignore
    const page = await open(Audit, {}, '/audit?search=tool')
    expect(page.field('Act or subject').value).toBe('tool')
    await page.type('By whom: user name', 'niamh')
    await page.type('from', '2026-11-02')
    await page.type('to', '2026-11-02')
    await vi.waitFor(() =>
      expect(callsOf('listAudit').at(-1)!.query).toMatchObject({ search: 'tool', person: 'niamh' }),
    )
    const { since, until } = callsOf('listAudit').at(-1)!.query
    // The day that is named last is in it whole.
    expect(new Date(until!).getTime() - new Date(since!).getTime()).toBe(86_400_000)
    expect(page.router.currentRoute.value.query).toEqual({ search: 'tool', person: 'niamh', since: '2026-11-02', until: '2026-11-02' }) // oxfmt-ignore
    expect(page.text()).toContain('2 fields')
    URL.createObjectURL = () => 'blob:x'
    URL.revokeObjectURL = () => undefined
    await page.press('Save as CSV')
    expect(callsOf('reportAudit')[0]!.query).toMatchObject({ search: 'tool', person: 'niamh' })
    expect(page.text()).toContain('10000 entries saved, the newest; narrow it down for the older ones.')
    await page.press('Show everything')
    expect(page.router.currentRoute.value.query).toEqual({})
  })

  it.each([
    {
      before: { a: 1, b: { c: 2 } },
      after: { a: 1, b: { c: 3 } },
      found: [{ name: 'b', before: '{"c":2}', after: '{"c":3}' }],
    },
    { before: null, after: { a: 'x' }, found: [{ name: 'a', before: null, after: 'x' }] },
    { before: { a: 'x' }, after: null, found: [{ name: 'a', before: 'x', after: null }] },
    { before: null, after: null, found: [] },
    { before: { a: {} }, after: { a: { b: 1 } }, found: [{ name: 'a', before: null, after: '{"b":1}' }] },
    { before: { a: [] }, after: { a: null }, found: [] },
    { before: undefined, after: 'words', found: [{ name: 'value', before: null, after: 'words' }] },
    {
      before: { a: 'x'.repeat(400) },
      after: { a: 'y' },
      found: [{ name: 'a', before: `${'x'.repeat(300)}…`, after: 'y' }],
    },
  ])('tells what differs between $before and $after', ({ before, after, found }) => {
    expect(auditChanges({ before, after })).toEqual(found)
  })
})

describe('the search', () => {
  it.each([
    { siteRole: 'administrator' as const, asked: 1, label: 'Search everything' },
    { siteRole: 'none' as const, asked: 0, label: 'Search everything' },
  ])('finds people for those who may look them up ($siteRole)', async ({ siteRole, asked, label }) => {
    const whole = sampled('whoAmI')
    serve({ whoAmI: () => ({ ...whole, person: { ...whole.person, siteRole }, teaches: true }) })
    await loadSession()
    serve({ listPeople: () => ({ items: [person()], next: null }), listCourses: () => ({ items: [], next: null }), listTools: () => ({ items: [], next: null }) }) // oxfmt-ignore
    const page = await open(SearchBox)
    await page.type(label, 'nia')
    await vi.waitFor(() => expect(callsOf('listCourses')).toHaveLength(1))
    await page.settle()
    expect(callsOf('listPeople')).toHaveLength(asked)
    expect(page.text().includes('Person Niamh')).toBe(asked === 1)
  })
})

describe('what scrolls by itself', () => {
  it('is reached by keys as long as it does, and no stop on the way otherwise', async () => {
    const wide = { own: 900, place: 300 }
    const Page = defineComponent({
      setup() {
        const main = ref<HTMLElement | null>(null)
        useKeyScrolling(main)
        return () => h('main', { ref: main }, [h('div', { class: 'table-wrap', style: 'overflow-x: auto' }), h('pre', { tabindex: '0' }), h('div')]) // oxfmt-ignore
      },
    })
    Object.defineProperty(HTMLElement.prototype, 'scrollWidth', { configurable: true, get: () => wide.own })
    Object.defineProperty(HTMLElement.prototype, 'clientWidth', { configurable: true, get: () => wide.place })
    await open(Page)
    const stops = () => [...document.querySelectorAll('main > *')].map((one) => one.getAttribute('tabindex'))
    await vi.waitFor(() => expect(stops()).toEqual(['0', '0', null]))
    wide.place = 1200
    window.dispatchEvent(new Event('resize'))
    // What somebody else made a stop stays one.
    await vi.waitFor(() => expect(stops()).toEqual([null, '0', null]))
    for (const name of ['scrollWidth', 'clientWidth']) Reflect.deleteProperty(HTMLElement.prototype, name)
  })
})
