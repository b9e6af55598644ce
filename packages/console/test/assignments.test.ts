import { beforeEach, describe, expect, it, vi } from 'vitest'
import { bodyOf, useDraft, type Typed } from '../src/assignment/draft.js'
import AudienceField from '../src/assignment/AudienceField.vue'
import PastedAddress from '../src/assignment/PastedAddress.vue'
import AssignmentForm from '../src/pages/AssignmentForm.vue'
import ManyAssignments from '../src/pages/ManyAssignments.vue'
import { defineComponent, h, ref } from 'vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const ZONE = 'Europe/Oslo'
const TOOL = { slug: 'drills', name: 'Drills', state: 'enabled', features: ['scores'], documentTarget: 'window', learnerText: 'Plot on paper.', firstEntry: 'none' } as const // oxfmt-ignore
const KEY = 'bathyscribe-draft-HYD-210'

beforeEach(() => {
  serve({
    showCourse: () => ({ code: 'HYD 210', timeZone: ZONE, categories: [{ id: 'c1', name: 'Drills' }] }),
    listTools: () => ({ items: [{ ...sampled('showTool', TOOL) }], next: null }),
    showOutline: () => ({ units: [], loose: [] }),
    listGroups: () => ({ items: [] }),
    preflightAssignment: () => ({ remarks: [], differences: [], effectiveLaunchUrl: 'https://tools.example/launch' }),
  })
})

/** A draft in a component of its own. */
async function draftOf(start: Partial<Typed> = {}, existing?: string) {
  let draft!: ReturnType<typeof useDraft>
  const Holder = defineComponent({
    setup() {
      draft = useDraft('HYD-210', existing, start, () => ZONE)
      return () => h('div')
    },
  })
  const page = await open(Holder)
  return { draft, page }
}

describe('a draft of an assignment', () => {
  it('is there again when the browser was closed, until one starts over', async () => {
    const first = await draftOf()
    first.draft.wanted.title = 'Soundings'
    await first.page.settle()
    first.page.view.unmount()
    const second = await draftOf()
    expect(second.draft.recovered.value).toBe(true)
    expect(second.draft.wanted.title).toBe('Soundings')
    second.draft.startOver()
    expect(second.draft.wanted.title).toBe('')
    expect(second.draft.recovered.value).toBe(false)
  })

  it('forgets what was picked in one tool when it goes on with another', async () => {
    const content = { picking: 'abcdefghijkm', item: 0 }
    localStorage.setItem(KEY, JSON.stringify({ title: 'Kept', tool: 'drills', content }))
    const same = await draftOf({ tool: 'drills' })
    expect(same.draft.wanted).toMatchObject({ title: 'Kept', content })
    const other = await draftOf({ tool: 'bench' })
    expect(other.draft.wanted).toMatchObject({ title: 'Kept', tool: 'bench', content: null })
  })

  it('is not kept of an assignment that is there already', async () => {
    const { draft, page } = await draftOf({}, 'a1')
    draft.wanted.title = 'Changed'
    await page.settle()
    expect(localStorage.getItem(KEY)).toBeNull()
  })

  it('is loaded once: what was typed meanwhile is not overwritten by what comes again', async () => {
    const { draft } = await draftOf({}, 'a1')
    const existing = sampled('showAssignment', { title: 'Soundings', revision: 3, dueAt: '2026-12-01T22:59:00.000Z' })
    draft.load(existing)
    expect(draft.wanted).toMatchObject({ title: 'Soundings', dueAt: '2026-12-01T23:59' })
    draft.wanted.title = 'Typed'
    draft.load({ ...existing, title: 'From somebody else', revision: 4 })
    expect([draft.wanted.title, draft.revision.value]).toEqual(['Typed', 3])
  })

  it('asks preflight as it would be published, with points that can be read, and takes over what the tool says', async () => {
    serve({
      preflightAssignment: () => ({
        remarks: [],
        differences: [
          { field: 'dueAt', typed: null, offered: '2026-12-01T22:59:00.000Z', fills: true },
          { field: 'points', typed: '10', offered: '10', fills: false },
        ],
        effectiveLaunchUrl: null,
      }),
    })
    const { draft } = await draftOf({ title: 'Soundings', points: '1o' })
    await vi.waitFor(() => expect(draft.differences.value).toHaveLength(2))
    expect(callsOf('preflightAssignment')[0]!.body).toMatchObject({ publish: true, points: '0', title: 'Soundings' })
    draft.wanted.points = '10'
    expect(draft.differences.value.map((one) => one.field)).toEqual(['dueAt'])
    draft.takeOver(draft.differences.value[0]!)
    expect(draft.wanted.dueAt).toBe('2026-12-01T23:59')
  })

  it('keeps what preflight said before when it cannot be asked', async () => {
    const { draft } = await draftOf({ title: 'Soundings' })
    await vi.waitFor(() => expect(draft.leadsTo.value).toBe('https://tools.example/launch'))
    refuse('preflightAssignment', 'service.fault')
    draft.wanted.title = 'Other'
    await vi.waitFor(() => expect(callsOf('preflightAssignment').length).toBeGreaterThan(1))
    expect(draft.leadsTo.value).toBe('https://tools.example/launch')
  })

  it.each([
    { attempts: '3', sent: 3 },
    { attempts: '', sent: null },
    { attempts: '0', sent: null },
    { attempts: 'three', sent: null },
  ])('sends attempts “$attempts” as $sent', async ({ attempts, sent }) => {
    const { draft } = await draftOf({ attempts })
    expect(draft.body().attempts).toBe(sent)
  })

  it('sends dates in the course’s own zone, and no points where nothing counts', async () => {
    const { draft } = await draftOf({ dueAt: '2026-07-01T23:59', counted: false, points: '' })
    expect(bodyOf(draft.wanted, ZONE)).toMatchObject({ dueAt: '2026-07-01T21:59:00.000Z', points: '0', opensAt: null })
  })
})

describe('the form of an assignment', () => {
  it('makes and publishes, and forgets the draft', async () => {
    serve({ createAssignment: () => ({ id: 'a1' }) })
    const page = await open(AssignmentForm, { course: 'HYD-210' })
    await page.type('Title', 'Soundings')
    await page.type('Points', '10')
    await page.type('Tool', 'drills')
    await page.press('Make and publish')
    expect(callsOf('createAssignment')[0]!.body).toMatchObject({ title: 'Soundings', points: '10', tool: 'drills', publish: true, documentTarget: 'window', instructions: '<p>Plot on paper.</p>' }) // oxfmt-ignore
    expect(localStorage.getItem(KEY)).toBeNull()
    expect(page.router.currentRoute.value.fullPath).toBe('/courses/HYD-210/assignments/a1')
  })

  it('opens the link at once where the tool asks for a first entry', async () => {
    serve({
      createAssignment: () => ({ id: 'a1' }),
      listTools: () => ({ items: [{ ...sampled('showTool', { ...TOOL, firstEntry: 'link' }) }], next: null }),
    })
    const page = await open(AssignmentForm, { course: 'HYD-210' })
    await page.type('Title', 'Soundings')
    await page.type('Points', '10')
    await page.type('Tool', 'drills')
    await page.press('Make and publish')
    expect(page.router.currentRoute.value.fullPath).toBe('/courses/HYD-210/assignments/a1/work?first=1')
  })

  it('says what is wrong, and keeps what was typed', async () => {
    refuse('createAssignment', 'assignment.row_taken', 'Soundings')
    const page = await open(AssignmentForm, { course: 'HYD-210' })
    await page.type('Title', 'Soundings')
    await page.press('Make and publish')
    expect(document.querySelector('[role=alert], .error-note, .note-bad')).not.toBeNull()
    expect(page.field('Title').value).toBe('Soundings')
    expect(JSON.parse(localStorage.getItem(KEY)!)).toMatchObject({ title: 'Soundings' })
  })
})

describe('many assignments at once', () => {
  const done = { makes: 2, changes: 0, keeps: 0, refuses: 0, rows: [], unknownColumns: [], done: false }

  it('are looked at as one types, and made by one button', async () => {
    serve({ checkTable: () => done, makeTable: () => ({ ...done, done: true }) })
    const page = await open(ManyAssignments, { course: 'HYD-210' })
    await page.press('Begin with an example')
    await vi.waitFor(() => expect(page.text()).toContain('2 new'))
    await page.press('Make 2 in one go')
    expect(page.text()).toContain('Done: 2 assignments made')
    expect((callsOf('makeTable')[0]!.body as { table: string }).table).toContain('Bends')
  })

  it('are not overwritten by a look that comes late', async () => {
    const looks: (() => void)[] = []
    serve({
      checkTable: () => new Promise((resolve) => looks.push(() => resolve({ ...done, makes: 9 }))),
      makeTable: () => ({ ...done, done: true }),
    })
    const page = await open(ManyAssignments, { course: 'HYD-210' })
    await page.press('Begin with an example')
    await vi.waitFor(() => expect(looks).toHaveLength(1))
    looks[0]!()
    await page.settle()
    await page.type('Tool, for rows that name none', 'drills')
    await vi.waitFor(() => expect(looks).toHaveLength(2))
    await page.press(/^Make 9/)
    looks[1]!()
    await page.settle()
    expect(page.text()).toContain('Done: 2 assignments made')
  })

  it('leaves what was found where making them was refused, so that one can try again', async () => {
    serve({ checkTable: () => done })
    refuse('makeTable', 'service.fault')
    const page = await open(ManyAssignments, { course: 'HYD-210' })
    await page.press('Begin with an example')
    await vi.waitFor(() => expect(page.text()).toContain('2 new'))
    await page.press('Make 2 in one go')
    expect(page.text()).toContain('2 new')
    expect(page.text()).toContain('Make 2 in one go')
  })
})

describe('an address out of a browser', () => {
  async function openAddress(tool = '') {
    const address = ref('')
    const tools: string[] = []
    const Holder = defineComponent({
      render: () =>
        h(PastedAddress, {
          course: 'HYD-210',
          tool,
          modelValue: address.value,
          'onUpdate:modelValue': (value: string) => (address.value = value),
          onTool: (slug: string) => tools.push(slug),
        }),
    })
    return { page: await open(Holder), address, tools }
  }
  const read = (parts: object) => ({ original: 'https://t.example/x?sid=1', cleaned: 'https://t.example/x', remarks: [], parameters: [], tools: [], ...parts }) // oxfmt-ignore

  it('is cleaned of its session, and its tool is chosen', async () => {
    serve({ readAddress: () => read({ tools: [{ id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' }] }) })
    const { page, address, tools } = await openAddress()
    await page.type('Launch address', 'https://t.example/x?sid=1')
    await vi.waitFor(() => expect(address.value).toBe('https://t.example/x'))
    expect(tools).toEqual(['drills'])
  })

  it('is asked again with what is to be kept, or taken out', async () => {
    const parameters = [{ name: 'sid', value: '1', verdict: 'session', reason: 'a session', kept: false }]
    serve({ readAddress: () => read({ parameters }) })
    const { page } = await openAddress('drills')
    await page.type('Launch address', 'https://t.example/x?sid=1')
    await vi.waitFor(() => expect(page.text()).toContain('a session'))
    await page.press('Keep it')
    await vi.waitFor(() => expect(callsOf('readAddress').at(-1)!.body).toMatchObject({ keep: ['sid'], drop: [] }))
  })

  it('is taken as it was typed where it cannot be read', async () => {
    refuse('readAddress', 'address.malformed', 'no address')
    const { page, address } = await openAddress()
    await page.type('Launch address', 'not an address')
    await vi.waitFor(() => expect(address.value).toBe('not an address'))
  })

  it('is nothing any more when the field is emptied', async () => {
    serve({ readAddress: () => read({}) })
    const { page, address } = await openAddress()
    await page.type('Launch address', 'https://t.example/x?sid=1')
    await vi.waitFor(() => expect(address.value).toBe('https://t.example/x'))
    await page.type('Launch address', '')
    await vi.waitFor(() => expect(address.value).toBe(''))
  })
})

describe('whom an assignment is for', () => {
  it('is everyone, or chosen groups and learners who are in the course', async () => {
    const member = (id: string, role: string, state: string) => ({ person: { ...sampled('showPerson'), id, fullName: `P ${id}` }, role, state, since: '2026-08-17T06:00:00.000Z', droppedAt: null }) // oxfmt-ignore
    serve({
      listGroups: () => ({ items: [{ id: 's1', name: 'Boats', groups: [{ id: 'g1', name: 'Boat 1', members: [] }], without: 0 }] }),
      listMembers: () => ({ items: [member('1', 'learner', 'active'), member('2', 'learner', 'dropped'), member('3', 'instructor', 'active')], next: null }),
    }) // oxfmt-ignore
    const audience = ref<{ groups: string[]; people: string[] } | null>(null)
    const Holder = defineComponent({
      render: () =>
        h(AudienceField, {
          course: 'HYD-210',
          modelValue: audience.value,
          'onUpdate:modelValue': (value) => (audience.value = value),
        }),
    })
    const page = await open(Holder)
    await page.press('Chosen groups or people')
    await page.press(/^Boat 1/)
    await page.press('P 1')
    expect(audience.value).toEqual({ groups: ['g1'], people: ['1'] })
    expect(page.text()).not.toContain('P 2')
    expect(page.text()).not.toContain('P 3')
    await page.press('P 1')
    expect(audience.value).toEqual({ groups: ['g1'], people: [] })
    await page.press('Everyone')
    expect(audience.value).toBeNull()
  })
})
