import type { AssignmentDetail, CallAnswer } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import NewCategory from '../src/assignment/NewCategory.vue'
import { useDraft, type Typed } from '../src/assignment/draft.js'
import Assignment from '../src/pages/Assignment.vue'
import AssignmentForm from '../src/pages/AssignmentForm.vue'
import Register from '../src/pages/Register.vue'
import SoundingNow from '../src/soundings/SoundingNow.vue'
import { loadSession } from '../src/state/session.js'
import { defineComponent, h } from 'vue'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'
import { open } from './page.js'

const AT = '2026-10-01T08:00:00.000Z'
const MARKS = ['registered', 'linked', 'published', 'launched', 'scored', 'recorded'] as const
const proofOf = (state: 'proven' | 'not_yet') =>
  MARKS.map((name) => ({ name, state, statement: `${name}.`, evidence: null, change: null }))
const assignmentOf = (parts: Partial<AssignmentDetail> = {}): AssignmentDetail =>
  sampled('showAssignment', {
    id: 'a1',
    title: 'Soundings',
    state: 'published',
    tool: { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' },
    documentTarget: 'frame',
    proof: proofOf('not_yet'),
    unit: null,
    audience: null,
    preflight: [],
    ...parts,
  })
type Sounding = CallAnswer<'showSounding'>
const soundingOf = (parts: Partial<Sounding> = {}): Partial<Sounding> => ({
  id: 'x1',
  state: 'running',
  verdict: null,
  waiting: null,
  pilot: null,
  cause: null,
  stages: (['settings', 'launch_test_learner', 'score'] as const).map((stage) => ({ stage, verdict: 'skipped' })),
  findings: [],
  ...parts,
})
const session = (soundOnPublish: boolean) => {
  const { person, platform } = sampled('whoAmI')
  serve({
    whoAmI: () => ({ person: { ...person, siteRole: 'administrator' }, platform: { ...platform, soundOnPublish } }),
  })
  return loadSession()
}

describe('a sounding under way', () => {
  const shown = (sounding: Partial<Sounding>, parts: Partial<AssignmentDetail> = {}) => {
    serve({ showSounding: () => soundingOf(sounding) })
    return open(SoundingNow, { sounding: 'x1', assignment: assignmentOf(parts) })
  }

  it('says which stage it is at', async () => {
    const page = await shown({ findings: [finding('settings')] })
    expect(page.text()).toContain('Launch as learner …')
    expect(document.querySelector('progress')).toMatchObject({ value: 1, max: 3 })
    expect(page.faults).toEqual([])
  })

  it('has the work before whoever is to do it, as the test learner, and lets them go on without it', async () => {
    const page = await shown({ waiting: { for: 'Do it.', until: AT } })
    expect(page.text()).toContain('Drills scores nothing by itself, so a person has to do the work once.')
    expect(document.querySelector('iframe')!.getAttribute('src')).toBe('/lti/stage/a1?as=test_learner')
    await page.press('Go on without it')
    expect(callsOf('endWait')[0]!.params).toEqual({ id: 'x1' })
  })

  it('opens nothing as the test learner where a pilot is to do the work', async () => {
    const page = await shown({
      waiting: { for: 'Have Niamh do it.', until: AT },
      pilot,
    })
    expect(page.text()).toContain('Have Niamh do it.')
    expect(document.querySelector('iframe')).toBeNull()
  })

  it.each([
    { verdict: 'pass', cause: null, proof: 'proven', says: ['Proven all the way'], not: ['not every mark'] },
    {
      verdict: 'warn',
      cause: 'No category.',
      proof: 'proven',
      says: ['Proven all the way', 'No category.', '→ Choose one.'],
      not: [],
    },
    {
      verdict: 'fail',
      cause: 'The secret is wrong.',
      proof: 'proven',
      says: ['The secret is wrong.', '→ Choose one.'],
      not: ['Proven all the way'],
    },
    { verdict: 'pass', cause: null, proof: 'not_yet', says: ['not every mark is lit'], not: ['Proven all the way'] },
  ] as const)('says what it came to: $verdict, $proof, “$cause”', async ({ verdict, cause, proof, says, not }) => {
    const findings = cause ? [{ ...finding('settings'), verdict, remedy: 'Choose one.' }] : []
    const page = await shown({ state: 'done', verdict, cause, findings }, { proof: proofOf(proof) })
    for (const one of says) expect(page.text()).toContain(one)
    for (const one of not) expect(page.text()).not.toContain(one)
  })
})

const pilot = { id: 'p1', username: 'niamh', fullName: 'Niamh' }
const finding = (stage: 'settings'): Sounding['findings'][number] => ({
  stage, check: 'preflight', code: 'clean', verdict: 'pass', facts: {}, statement: 'Clean.', cause: null, remedy: null, wireEntryId: null, pictureId: null, durationMs: 1,
}) // oxfmt-ignore

describe('an assignment’s page', () => {
  const shown = async (parts: Partial<AssignmentDetail> = {}, at = '/') => {
    serve({
      showAssignment: () => assignmentOf(parts),
      listSoundings: () => ({ items: [], next: null }),
      runSounding: () => soundingOf(),
      showSounding: () => soundingOf(),
      publishAssignment: () => assignmentOf({ ...parts, state: 'published' }),
    })
    return open(Assignment, { course: 'c1', assignment: 'a1' }, at)
  }
  const USUAL = { depth: 'deep', follower: 'http', waitMinutes: 15 }
  beforeEach(() => session(true))

  it('sounds in one act, and shows it there', async () => {
    const page = await shown()
    await page.press('Run a sounding')
    expect(callsOf('runSounding').map((one) => one.body)).toEqual([USUAL])
    expect(page.router.currentRoute.value.query).toEqual({ sounding: 'x1' })
    expect(page.text()).toContain('All that it finds')
  })

  it('sounds what was published a moment ago, once', async () => {
    const page = await shown({}, '/?sound=now')
    await vi.waitFor(() => expect(page.router.currentRoute.value.query).toEqual({ sounding: 'x1' }))
    await page.settle()
    expect(callsOf('runSounding')).toHaveLength(1)
  })

  it.each([
    { on: true, sounded: 1 },
    { on: false, sounded: 0 },
  ])('publishes, and sounds if that is the setting ($on)', async ({ on, sounded }) => {
    await session(on)
    const page = await shown({ state: 'draft' })
    await page.press('Publish')
    expect(callsOf('publishAssignment')[0]!.body).toEqual({ publishUnit: false })
    expect(callsOf('runSounding')).toHaveLength(sounded)
  })

  it('keeps what takes something away in a menu, behind a question', async () => {
    const page = await shown({ scores: 3 })
    const head = [...document.querySelectorAll('.page-acts > .btn, .page-acts > button')].map((one) => one.textContent.trim()) // oxfmt-ignore
    for (const act of ['Delete', 'Unpublish', 'Copy']) expect(head).not.toContain(act)
    await page.press('More')
    await page.press('Delete')
    expect(callsOf('deleteAssignment')).toEqual([])
    expect(page.text()).toContain('Its 3 scores are kept')
    const sure = [...document.querySelectorAll<HTMLElement>('.modal button')].filter((one) => one.textContent.trim() === 'Delete') // oxfmt-ignore
    sure.at(-1)!.click()
    await page.settle()
    expect(callsOf('deleteAssignment')).toHaveLength(1)
    await page.press('Copy')
    expect(callsOf('copyAssignment')).toHaveLength(1)
  })

  it('opens the options of a sounding from there, and closes them once it is begun', async () => {
    const page = await shown()
    await page.press('A sounding with options …')
    await page.type('How far', 'plain')
    await page.press('Begin')
    expect(callsOf('runSounding')[0]!.body).toMatchObject({ depth: 'plain' })
    expect(page.router.currentRoute.value.query).toEqual({ sounding: 'x1' })
    expect(page.text()).not.toContain('A sounding, with options')
  })

  it('publishes the unit that hides it, too, when asked', async () => {
    const unit = { id: 'u1', title: 'Week 4', published: false }
    const page = await shown({ state: 'draft', unit })
    await page.press('Publish with its unit')
    expect(callsOf('publishAssignment')[0]!.body).toEqual({ publishUnit: true })
    const later = await shown({ unit })
    expect(later.text()).toContain('its unit “Week 4” is a draft: learners do not find it')
    await later.press('Publish the unit')
    expect(callsOf('publishAssignment').at(-1)!.body).toEqual({ publishUnit: true })
  })
})

describe('what a tool says fills in what nobody has typed', () => {
  async function draftOf(start: Partial<Typed> = {}) {
    serve({ preflightAssignment: () => ({ remarks: [], differences: [], effectiveLaunchUrl: null }) })
    let draft!: ReturnType<typeof useDraft>
    await open(
      defineComponent({ setup: () => ((draft = useDraft('c1', undefined, start, () => 'UTC')), () => h('div')) }),
    )
    return draft
  }

  it('empty fields, and those that were filled in before and left as they were', async () => {
    const draft = await draftOf({ points: '25' })
    draft.fill({ title: 'Drills', points: '30', documentTarget: 'window', dueAt: null })
    expect(draft.wanted).toMatchObject({ title: 'Drills', points: '25', documentTarget: 'window', dueAt: '' })
    draft.fill({ title: 'Bends and hitches', documentTarget: 'frame' })
    expect(draft.wanted).toMatchObject({ title: 'Bends and hitches', documentTarget: 'frame' })
    draft.wanted.title = 'My own'
    draft.fill({ title: 'Sheet bend' })
    expect(draft.wanted.title).toBe('My own')
  })

  it('points that nobody says are 100 where they count', async () => {
    expect((await draftOf()).body().points).toBe('100')
    expect((await draftOf({ counted: false })).body().points).toBe('0')
  })
})

describe('a category where it is missed', () => {
  it('is made and chosen; one that is taken is said, and the name stays', async () => {
    const made: string[] = []
    serve({ addCategory: () => undefined })
    const page = await open(NewCategory, { course: 'c1', onMade: (name: string) => made.push(name) })
    await page.press('New category')
    await page.type('Name of the new category', ' Reports ')
    await page.press('Make it')
    expect(callsOf('addCategory')[0]!.body).toEqual({ name: 'Reports' })
    expect(made).toEqual(['Reports'])
    refuse('addCategory', 'category.name_taken')
    await page.press('New category')
    await page.type('Name of the new category', 'Reports')
    await page.press('Make it')
    expect(page.field('Name of the new category').value).toBe('Reports')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
    await page.press('Cancel')
    expect(document.querySelector('input')).toBeNull()
  })
})

describe('from a registration to an assignment', () => {
  const reading = { kind: 'text', version: '1.1', missing: [], remarks: [], pairs: [], scopes: [], beyond: [], same: [], registrationAddress: null, fetched: null, recognised: [{ field: 'name', word: 'name', value: 'Drills', source: 'line 1', removed: [] }] } as const // oxfmt-ignore
  const COURSE = 'abcdefghijkm'
  beforeEach(async () => {
    await session(true)
    const { items } = sampled('listCourses')
    const course = { ...(items[0] ?? sampled('showCourse')), id: COURSE, code: 'HYD 210' }
    serve({
      readIntake: () => reading,
      listCourses: () => ({ items: [course], next: null }),
      registerTool: () => ({ slug: 'drills' }),
    })
  })
  async function register(at: string) {
    const page = await open(Register, {}, at)
    const box = document.querySelector('textarea')!
    box.dispatchEvent(new Event('paste', { bubbles: true }))
    await page.type('Paste whatever the vendor gave you', 'Name: Drills')
    await vi.waitFor(() => expect(callsOf('readIntake')).toHaveLength(1))
    await page.settle()
    return page
  }

  it('goes on in the course that it is wanted in', async () => {
    const page = await register(`/tools/register?course=${COURSE}`)
    expect(page.field('Then').value).toBe(COURSE)
    await page.press(/^Register “Drills”/)
    expect(page.router.currentRoute.value.fullPath).toBe(`/courses/${COURSE}/assignments/new?tool=drills&pick=1`)
  })

  it('shows the tool’s page where no course was named', async () => {
    const page = await register('/tools/register')
    await page.press(/^Register “Drills”/)
    expect(page.router.currentRoute.value.fullPath).toBe('/tools/drills')
  })

  it('reads addresses in what was pasted, not in what is typed after', async () => {
    const page = await register('/tools/register')
    await page.type('Paste whatever the vendor gave you', 'Name: Drills 2')
    await vi.waitFor(() => expect(callsOf('readIntake')).toHaveLength(2))
    expect(callsOf('readIntake').map((one) => (one.body as { follow: boolean }).follow)).toEqual([true, false])
  })

  it('the form has the tool’s picker open, its name as title, the only category, and sounds what is published', async () => {
    const tool = sampled('showTool', { slug: 'drills', name: 'Drills', state: 'enabled', features: ['picker'], firstEntry: 'none', documentTarget: 'window', learnerText: '' }) // oxfmt-ignore
    serve({
      showCourse: () => ({ timeZone: 'UTC', categories: [{ id: 'c1', name: 'Drills only' }] }),
      listTools: () => ({ items: [tool], next: null }),
      showOutline: () => ({ units: [], loose: [] }),
      listGroups: () => ({ items: [] }),
      preflightAssignment: () => ({ remarks: [], differences: [], effectiveLaunchUrl: null }),
      openPicker: () => ({ id: 'k1', state: 'open', code: null }),
      showPicking: () => ({ id: 'k1', state: 'open', code: null }),
      createAssignment: () => ({ id: 'a1' }),
    })
    const page = await open(AssignmentForm, { course: COURSE }, `/x?tool=drills&pick=1`)
    await vi.waitFor(() => expect(callsOf('openPicker')).toHaveLength(1))
    await page.settle()
    expect(page.field('Title').value).toBe('Drills')
    await page.press('Make and publish')
    expect(callsOf('createAssignment')[0]!.body).toMatchObject({ title: 'Drills', category: 'Drills only', points: '100', documentTarget: 'window', publish: true, publishUnit: false }) // oxfmt-ignore
    expect(page.router.currentRoute.value.fullPath).toBe(`/courses/${COURSE}/assignments/a1?sound=now`)
  })
})
