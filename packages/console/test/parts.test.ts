import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import CategoryList from '../src/course/CategoryList.vue'
import CourseForm from '../src/course/CourseForm.vue'
import MenuEntryForm from '../src/course/MenuEntryForm.vue'
import RosterUpload from '../src/course/RosterUpload.vue'
import ConfirmAct from '../src/parts/ConfirmAct.vue'
import ConfirmPassword from '../src/parts/ConfirmPassword.vue'
import CopyValue from '../src/parts/CopyValue.vue'
import ErrorNote from '../src/parts/ErrorNote.vue'
import MomentText from '../src/parts/MomentText.vue'
import MoreRows from '../src/parts/MoreRows.vue'
import PairsField from '../src/parts/PairsField.vue'
import { call } from '../src/state/api.js'
import { usePaging } from '../src/state/paging.js'
import PlacementsField from '../src/tool/PlacementsField.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

/** A field with a model of its own. */
function withModel<T>(component: object, props: object, start: T) {
  const value = ref(start) as { value: T }
  const Holder = defineComponent({
    render: () =>
      h(component, { ...props, modelValue: value.value, 'onUpdate:modelValue': (next: T) => (value.value = next) }),
  })
  return { value, Holder }
}

describe('parameters, one a line', () => {
  const props = { id: 'custom', label: 'Custom parameters', description: 'one a line' }

  it('are read as one types; what cannot be is said and left where it stands', async () => {
    const { value, Holder } = withModel(PairsField, props, { drill: 'bends' })
    const page = await open(Holder)
    expect(page.field('Custom parameters').value).toBe('drill=bends')
    await page.type('Custom parameters', ' drill = hitches \n=x\nterm=a=b\nplain')
    expect(value.value).toEqual({ drill: 'hitches', term: 'a=b' })
    expect(page.text()).toContain('no “=” in it: =x, plain')
    expect(page.field('Custom parameters').value).toContain('plain')
  })

  it('are shown anew when they come from elsewhere', async () => {
    const { value, Holder } = withModel<Record<string, string>>(PairsField, props, {})
    const page = await open(Holder)
    value.value = { a: '1', b: '2' }
    await page.settle()
    expect(page.field('Custom parameters').value).toBe('a=1\nb=2')
  })
})

describe('places of a tool', () => {
  it('are taken and left, each with what is its own', async () => {
    const { value, Holder } = withModel<{ place: string }[]>(PlacementsField, {}, [{ place: 'assignment' }])
    const page = await open(Holder)
    page.field('Course menu').click()
    await page.settle()
    await page.type('Label at Course menu', 'Deck stores')
    await page.type('Who sees it at Course menu', 'instructors')
    expect(value.value).toEqual([
      { place: 'assignment' },
      { place: 'course_menu', label: 'Deck stores', audience: 'instructors' },
    ])
    await page.type('Label at Course menu', '')
    expect(value.value[1]).toMatchObject({ label: null })
    page.field('Assignment').click()
    await page.settle()
    expect(value.value.map((one) => one.place)).toEqual(['course_menu'])
  })
})

describe('a value for the other end', () => {
  const copy = vi.spyOn(navigator.clipboard, 'writeText')
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    copy.mockResolvedValue(undefined)
  })
  afterEach(() => vi.useRealTimers())

  it('is copied by its button, which says so for a moment', async () => {
    const page = await open(CopyValue, { value: 'https://platform.example/lti/outcomes', label: 'outcomes address' })
    await page.press('Copy outcomes address')
    await page.settle()
    expect(copy).toHaveBeenCalledWith('https://platform.example/lti/outcomes')
    expect(page.text()).toContain('Copied')
    await vi.advanceTimersByTimeAsync(3000)
    await page.settle()
    expect(page.text()).not.toContain('Copied')
  })
})

describe('a moment', () => {
  it.each([
    { at: null, shown: '–' },
    { at: '2026-03-01T08:05:00.000Z', shown: /^2026-03-01 \d\d:05$/ },
  ])('is shown with its date: $at', async ({ at, shown }) => {
    const page = await open(MomentText, { at })
    expect(page.text()).toMatch(shown)
  })

  it.each([
    { secondsAgo: 30, said: /30 seconds ago/ },
    { secondsAgo: 20 * 60, said: /20 minutes ago/ },
    { secondsAgo: 5 * 3600, said: /5 hours ago/ },
    { secondsAgo: 3 * 86400, said: /3 days ago/ },
  ])('is told by how long ago it was, where one asks: $secondsAgo s', async ({ secondsAgo, said }) => {
    const page = await open(MomentText, { at: new Date(Date.now() - secondsAgo * 1000).toISOString(), relative: true })
    expect(page.text()).toMatch(said)
  })
})

describe('an error', () => {
  it('is told by sentence, detail and what to do, with every place that is wrong', async () => {
    refuse('showTool', 'tool.not_found', 'drills')
    const error = await call('showTool', { params: { tool: 'drills' } }).catch((reason: unknown) => reason)
    const page = await open(ErrorNote, { error })
    expect(page.text()).toContain('drills')
    expect(document.querySelector('[role=alert]')).not.toBeNull()
  })

  it('is told where nothing answers, too, and nothing is where there is none', async () => {
    const page = await open(ErrorNote, { error: new Error('down') })
    expect(page.text()).toContain('The service cannot be reached.')
    const none = await open(ErrorNote, { error: undefined })
    expect(none.view.text()).toBe('')
  })
})

describe('a list by pages', () => {
  it('goes forward by the cursor, and back by the ones it came through', async () => {
    const paging = usePaging()
    expect([paging.cursor.value, paging.depth.value]).toEqual([undefined, 0])
    paging.forward('a')
    paging.forward('b')
    expect([paging.cursor.value, paging.depth.value]).toEqual(['b', 2])
    paging.back()
    expect(paging.cursor.value).toBe('a')
    paging.reset()
    expect(paging.depth.value).toBe(0)
  })

  it('has no buttons where there is one page', async () => {
    const page = await open(MoreRows, { next: null, depth: 0 })
    expect(document.querySelectorAll('button')).toHaveLength(0)
    const forward = vi.fn()
    const second = await open(MoreRows, { next: 'n', depth: 1, onForward: forward })
    await second.press('Older')
    expect(forward).toHaveBeenCalledWith('n')
    expect(page.faults).toEqual([])
  })
})

describe('an act that takes something with it', () => {
  it('is done after one has said so, and not before', async () => {
    const done = vi.fn()
    const page = await open(ConfirmAct, { text: 'Delete', question: 'Scores stay.', onDone: done })
    await page.press('Delete')
    expect(done).not.toHaveBeenCalled()
    expect(page.text()).toContain('Scores stay.')
    const again = [...document.querySelectorAll<HTMLElement>('.modal button')].find((one) => one.textContent.trim() === 'Delete')! // oxfmt-ignore
    again.click()
    await page.settle()
    expect(done).toHaveBeenCalledOnce()
  })

  it('cannot be begun while it is disabled', async () => {
    await open(ConfirmAct, { text: 'Delete', question: 'Scores stay.', disabled: true })
    expect(document.querySelector('button')!.disabled).toBe(true)
  })
})

describe('the password once more', () => {
  it('is asked for where a call wants it, and the call goes on by itself', async () => {
    const page = await open(ConfirmPassword)
    refuse('revealSecret', 'session.confirm_needed')
    serve({ confirmSession: () => undefined })
    const revealed = call('revealSecret', { params: { tool: 'drills' } })
    await page.settle()
    expect(page.text()).toContain('Your password once more')
    await page.type('Password', 'lantern')
    serve({ revealSecret: () => ({ sharedSecret: 'halyard-3' }) })
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    await expect(revealed).resolves.toEqual({ sharedSecret: 'halyard-3' })
    expect(callsOf('confirmSession')[0]!.body).toEqual({ password: 'lantern' })
  })

  it('leaves the call refused where one does not give it', async () => {
    const page = await open(ConfirmPassword)
    refuse('revealSecret', 'session.confirm_needed')
    const revealed = expect(call('revealSecret', { params: { tool: 'drills' } })).rejects.toMatchObject({
      problem: { code: 'session.confirm_needed' },
    })
    await page.settle()
    await page.press('Cancel')
    await revealed
  })

  it('stays while it is wrong, and says so', async () => {
    const page = await open(ConfirmPassword)
    refuse('revealSecret', 'session.confirm_needed')
    const revealed = call('revealSecret', { params: { tool: 'drills' } }).catch(() => 'refused')
    await page.settle()
    refuse('confirmSession', 'session.wrong_password')
    await page.type('Password', 'wrong')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(document.querySelector('[role=alert]')).not.toBeNull()
    await page.press('Cancel')
    await expect(revealed).resolves.toBe('refused')
  })
})

describe('categories of a gradebook', () => {
  const category = (id: string, name: string, weight: string | null, assignments = 0) => ({ id, name, weight, assignments, position: 1 }) // oxfmt-ignore
  const items = [category('c1', 'Drills', '40', 2), category('c2', 'Exam', '50')]
  const shown = async () => open(CategoryList, { course: 'HYD-210', canChange: true })
  beforeEach(() => serve({ listCategories: () => ({ items }) }))

  it('says that percents which do not come to a hundred count by their share', async () => {
    const page = await shown()
    expect(page.text()).toContain('The percents come to 90')
  })

  it('sends a change once, and none where nothing changed; a comma is a point', async () => {
    const page = await shown()
    page.field('Name of Drills').dispatchEvent(new Event('change', { bubbles: true }))
    await page.settle()
    expect(callsOf('changeCategory')).toEqual([])
    await page.type('Percent of Drills', '42,5')
    expect(callsOf('changeCategory').at(-1)).toMatchObject({ params: { category: 'c1' }, body: { name: 'Drills', weight: '42.5' } }) // oxfmt-ignore
  })

  it('asks where assignments go before one with some is taken away, and not where it is empty', async () => {
    const page = await shown()
    await page.press('Take away Exam')
    expect(callsOf('removeCategory')[0]).toMatchObject({ params: { category: 'c2' }, query: {} })
    await page.press('Take away Drills')
    expect(page.text()).toContain('2 assignments are in it.')
    await page.press('Take it away')
    expect(callsOf('removeCategory')[1]).toMatchObject({ params: { category: 'c1' }, query: { moveTo: 'none' } })
  })

  it('is moved by buttons that are there only where there is somewhere to go', async () => {
    const page = await shown()
    const button = (name: string) => document.querySelector<HTMLButtonElement>(`[aria-label="${name}"]`)!
    expect([button('Move Drills up').disabled, button('Move Exam down').disabled]).toEqual([true, true])
    await page.press('Move Exam up')
    expect(callsOf('changeCategory')[0]).toMatchObject({ params: { category: 'c2' }, body: { position: 1 } })
  })

  it('cannot be changed by who may only look', async () => {
    await open(CategoryList, { course: 'HYD-210', canChange: false })
    expect(document.querySelectorAll('input, form')).toHaveLength(0)
  })
})

describe('the form of a course', () => {
  it('makes one with its dates in its own zone', async () => {
    const made = vi.fn()
    const page = await open(CourseForm, { onMade: made })
    await page.type('Code', 'HYD 210')
    await page.type('Title', 'Surveying')
    await page.type('Time zone', 'Europe/Oslo')
    await page.type('Starts (Europe/Oslo)', '2026-08-17T08:00')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(callsOf('createCourse')[0]!.body).toMatchObject({ code: 'HYD 210', timeZone: 'Europe/Oslo', startsAt: '2026-08-17T06:00:00.000Z', endsAt: null, sourcedId: null }) // oxfmt-ignore
    expect(made).toHaveBeenCalledOnce()
  })

  it('says that a change is kept, until the next letter', async () => {
    const course = sampled('showCourse', { id: 'c1', code: 'HYD 210', title: 'Surveying' })
    const page = await open(CourseForm, { course })
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(page.text()).toContain('● saved')
    await page.type('Title', 'Surveying 2')
    expect(page.text()).not.toContain('● saved')
  })
})

describe('an entry of the menu', () => {
  const entry = { ...sampled('changeMenuEntry'), id: 'm1', label: 'Deck stores', revision: 4, launchUrl: null, customParameters: {} } // oxfmt-ignore

  it('is changed by its revision, and the form closes', async () => {
    const close = vi.fn()
    const page = await open(MenuEntryForm, { course: 'HYD-210', entry, onClose: close })
    await page.type('Label', 'Foul weather gear')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(callsOf('changeMenuEntry')[0]).toMatchObject({ params: { menuEntry: 'm1' }, body: { revision: 4, label: 'Foul weather gear', launchUrl: null } }) // oxfmt-ignore
    expect(close).toHaveBeenCalledOnce()
  })

  it('stays open with what was typed where somebody else changed it', async () => {
    refuse('changeMenuEntry', 'record.changed_meanwhile')
    const close = vi.fn()
    const page = await open(MenuEntryForm, { course: 'HYD-210', entry, onClose: close })
    await page.type('Label', 'Foul weather gear')
    document.querySelector('form')!.dispatchEvent(new Event('submit', { cancelable: true }))
    await page.settle()
    expect(close).not.toHaveBeenCalled()
    expect(page.field('Label').value).toBe('Foul weather gear')
  })
})

describe('a roster', () => {
  const course = sampled('showCourse', { code: 'HYD 210' })
  const said = { peopleMade: 1, problems: [{ file: 'people', line: 3, message: 'no name' }], courses: [], whole: false }
  async function choose(file: File) {
    const page = await open(RosterUpload, { course })
    const input = page.field('Roster')
    Object.defineProperty(input, 'files', { value: [file] })
    input.dispatchEvent(new Event('change'))
    await vi.waitFor(() => expect(callsOf('importRoster')).toHaveLength(1))
    await page.settle()
    return page
  }

  it('is looked at first, and done when one says so', async () => {
    serve({ importRoster: ({ body }) => ({ ...said, applied: body.apply ?? false }) })
    const page = await choose(new File(['username,course\nniamh,HYD 210'], 'people.csv'))
    expect(callsOf('importRoster')[0]!.body).toEqual({ fileName: 'people.csv', table: 'username,course\nniamh,HYD 210', course: 'HYD 210', apply: false }) // oxfmt-ignore
    expect(page.text()).toContain('Would be done: 1 people made')
    expect(page.text()).toContain('people line 3: no name')
    await page.press('Do it')
    expect(page.text()).toContain('Done: 1 people made')
  })

  it('is sent as it is where it is an archive, however large', async () => {
    serve({ importRoster: () => ({ ...said, applied: false }) })
    const bytes = Uint8Array.from({ length: 20_000 }, (_, i) => i % 256)
    await choose(new File([bytes], 'roster.ZIP'))
    const { zip } = callsOf('importRoster')[0]!.body as { zip: string }
    expect(Buffer.from(zip, 'base64').equals(Buffer.from(bytes))).toBe(true)
  })
})
