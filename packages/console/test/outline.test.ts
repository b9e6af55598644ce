import type { Unit, UnitItem } from '@bathyscribe/contract'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import CourseGroups from '../src/course/CourseGroups.vue'
import CourseOutline from '../src/course/CourseOutline.vue'
import CoursePeople from '../src/course/CoursePeople.vue'
import NewItem from '../src/outline/NewItem.vue'
import { open } from './page.js'
import { callsOf, refuse, sampled, serve } from '../../../test/served.js'

const TOOL = { id: 't1', slug: 'drills', name: 'Drills', state: 'enabled' } as const
const COURSE = sampled('showCourse', { id: 'c1', code: 'HYD 210', timeZone: 'Europe/Oslo' })
const item = (id: string, more: Partial<UnitItem> = {}): UnitItem => ({
  ...{ id, kind: 'page' as const, title: `Item ${id}`, published: true, pinned: false, revision: 3 },
  ...{ assignment: null, tool: null, file: null, address: null, documentTarget: null },
  ...more,
})
const graded = (id: string, more: Partial<NonNullable<UnitItem['assignment']>> = {}): UnitItem =>
  item(id, {
    kind: 'assignment',
    tool: TOOL,
    assignment: {
      ...{ id: `a${id}`, slug: `a${id}`, points: '10', counted: true, opensAt: null, closesAt: null, opened: false },
      ...{ dueAt: '2026-12-01T22:59:00.000Z', proof: [], result: null },
      ...more,
    },
  })
const unit = (id: string, items: UnitItem[], more: Partial<Unit> = {}): Unit =>
  ({ id, title: `Unit ${id}`, published: true, revision: 5, items, ...more }) as Unit
const OUTLINE = { units: [unit('u1', [item('1'), item('2')]), unit('u2', [graded('3')]), unit('u3', [])], loose: [], welcome: '' } // oxfmt-ignore
beforeEach(() => serve({ showOutline: () => OUTLINE, orderOutline: () => ({}) }))

const ordered = () =>
  (callsOf('orderOutline').at(-1)?.body as { units: { unit: string; items: string[] }[] }).units.map((one) => [one.unit, ...one.items]) // oxfmt-ignore
const status = () => document.querySelector('[role=status]')!.textContent
const arranged = async () => {
  const page = await open(CourseOutline, { course: COURSE, canChange: true })
  return page
}

describe('an outline is arranged', () => {
  it.each([
    ['1', /^Move Item 1 down/, [['u1', '2', '1'], ['u2', '3'], ['u3']], 'Item 1 is number 2 of Unit u1 now.'],
    ['2', /^Move Item 2 up/, [['u1', '2', '1'], ['u2', '3'], ['u3']], 'Item 2 is number 1 of Unit u1 now.'],
    ['2', /^Move Item 2 down/, [['u1', '1'], ['u2', '2', '3'], ['u3']], 'Item 2 is number 1 of Unit u2 now.'],
    ['3', /^Move Item 3 up/, [['u1', '1', '2', '3'], ['u2'], ['u3']], 'Item 3 is number 3 of Unit u1 now.'],
    ['3', /^Move Item 3 down/, [['u1', '1', '2'], ['u2'], ['u3', '3']], 'Item 3 is number 1 of Unit u3 now.'],
  ])('by keys, item %s: %s', async (id, button, order, said) => {
    const page = await arranged()
    await page.press(`What can be done with Item ${id}`)
    await page.press(button)
    expect(ordered()).toEqual(order)
    expect(status()).toBe(said)
  })

  it('by units', async () => {
    const page = await arranged()
    await page.press('What can be done with Unit u2')
    await page.press(/^Move Unit u2 up/)
    expect(ordered().map(([one]) => one)).toEqual(['u2', 'u1', 'u3'])
    await page.press(/^Move Unit u2 down/)
    expect(ordered().map(([one]) => one)).toEqual(['u1', 'u3', 'u2'])
  })

  const drag = async (what: string, onto: Element, page: Awaited<ReturnType<typeof arranged>>) => {
    const from = [...document.querySelectorAll('li')].find((one) => one.textContent.includes(what))!
    from.dispatchEvent(new Event('dragstart', { bubbles: true }))
    onto.dispatchEvent(new Event('drop', { bubbles: true, cancelable: true }))
    await page.settle()
  }
  const lineOf = (what: string) => [...document.querySelectorAll('li')].find((one) => one.textContent.includes(what))!

  it('by dragging, before another or to the end of a unit', async () => {
    const page = await arranged()
    await drag('Item 3', lineOf('Item 2'), page)
    expect(ordered()).toEqual([['u1', '1', '3', '2'], ['u2'], ['u3']])
    await drag('Item 1', document.querySelectorAll('.unit-card')[2]!, page)
    expect(ordered()).toEqual([
      ['u1', '2'],
      ['u2', '3'],
      ['u3', '1'],
    ])
  })

  it('not by dragging a thing onto itself, nor by what comes from elsewhere', async () => {
    const page = await arranged()
    await drag('Item 1', lineOf('Item 1'), page)
    lineOf('Item 2').dispatchEvent(new Event('drop', { bubbles: true, cancelable: true }))
    await page.settle()
    expect(callsOf('orderOutline')).toEqual([])
  })

  it('and stays as it was where somebody else arranged it meanwhile, which is said', async () => {
    refuse('orderOutline', 'record.changed_meanwhile')
    const page = await arranged()
    await page.press('What can be done with Item 1')
    await page.press(/^Move Item 1 down/)
    expect(document.querySelector('[role=alert]')).not.toBeNull()
    expect(status()).toBe('')
  })

  it('by nobody who may only look', async () => {
    const page = await open(CourseOutline, { course: COURSE, canChange: false })
    expect(page.text()).toContain('Item 1')
    expect(document.querySelector('button')).toBeNull()
    expect(document.querySelector('[draggable=true]')).toBeNull()
  })
})

describe('a unit', () => {
  it('is renamed with the revision that was read, and not where the title stays', async () => {
    serve({ changeUnit: () => unit('u1', []) })
    const page = await arranged()
    await page.press('What can be done with Unit u1')
    await page.press('Rename Unit u1')
    await page.press('Keep')
    expect(callsOf('changeUnit')).toEqual([])
    await page.press('Rename Unit u1')
    await page.type('Title of the unit', ' Week 1 ')
    await page.press('Keep')
    expect(callsOf('changeUnit')[0]).toMatchObject({ params: { course: 'c1', unit: 'u1' }, body: { revision: 5, title: 'Week 1' } }) // oxfmt-ignore
  })

  it('is hidden and published', async () => {
    serve({ changeUnit: () => unit('u1', []) })
    const page = await arranged()
    await page.press('What can be done with Unit u1')
    await page.press('Hide Unit u1')
    expect(callsOf('changeUnit')[0]!.body).toEqual({ revision: 5, published: false })
  })

  it('goes after one was told what goes with it and what stays', async () => {
    serve({ removeUnit: () => ({}) })
    const page = await arranged()
    await page.press('What can be done with Unit u2')
    await page.press('Remove')
    expect(page.text()).toContain('“Unit u2” goes with 0 items. Its 1 assignment stay, in no unit, with all scores.')
    expect(callsOf('removeUnit')).toEqual([])
  })

  it('is made by its title', async () => {
    serve({ addUnit: () => unit('u4', []) })
    const page = await arranged()
    await page.type('Title of a new unit', 'Week 4')
    await page.press('Make a unit')
    expect(callsOf('addUnit')[0]!.body).toEqual({ title: 'Week 4' })
    expect(page.field('Title of a new unit').value).toBe('')
  })
})

describe('what stands in a unit', () => {
  it('is published, pinned and hidden, each by its revision; an assignment by its own calls, with its scores', async () => {
    serve({ changeUnitItem: () => item('1'), unpublishAssignment: () => sampled('showAssignment') })
    const page = await arranged()
    await page.press('What can be done with Item 1')
    await page.press('Pin')
    await page.press('Hide')
    expect(callsOf('changeUnitItem').map((one) => one.body)).toEqual([
      { revision: 3, pinned: true },
      { revision: 3, published: false },
    ])
    await page.press('What can be done with Item 3')
    await page.press('Unpublish')
    expect(callsOf('unpublishAssignment')[0]).toMatchObject({ params: { assignment: 'a3' }, body: { keepScores: true } }) // oxfmt-ignore
  })

  it('says when it is due in the course’s own zone, and by which tool it is', async () => {
    serve({ showOutline: () => ({ ...OUTLINE, units: [unit('u1', [graded('3')])] }) }) // oxfmt-ignore
    const page = await arranged()
    expect(page.text()).toContain('10 points · due 1 Dec, 23:59 CET')
    expect(page.text()).toContain('· Drills')
  })

  it('leads to where it stands, and addresses to themselves without a word of who comes', async () => {
    serve({
      showOutline: () => ({
        ...OUTLINE,
        units: [
          unit('u1', [
            item('1'),
            item('2', { kind: 'address', address: 'https://charts.example/' }),
            item('3', { kind: 'file', file: { id: 'f1', name: 'a.pdf', bytes: 2048, mediaType: 'application/pdf' } as UnitItem['file'] }), // oxfmt-ignore
            graded('4'),
          ]),
        ],
      }),
    })
    await arranged()
    const links = [...document.querySelectorAll<HTMLAnchorElement>('.outline-line a')]
    expect(links.map((one) => [one.getAttribute('href'), one.getAttribute('rel')])).toEqual([
      ['/courses/c1/items/1', null],
      ['https://charts.example/', 'noopener noreferrer'],
      ['/api/courses/c1/files/f1/content', null],
      ['/courses/c1/assignments/a4', null],
    ])
  })
})

describe('something new in a unit', () => {
  beforeEach(() =>
    serve({
      addUnitItem: () => item('9'),
      listTools: () => ({ items: [{ ...sampled('showTool'), ...TOOL, features: ['scores'] }], next: null }),
      listFiles: () => ({ items: [{ ...sampled('listFiles', {}, 3).items[0], id: 'f1', name: 'tide table.pdf' }], next: null }), // oxfmt-ignore
      showOutline: () => ({ ...OUTLINE, loose: [graded('7')] }),
    }),
  )
  const begin = async (kind: string) => {
    const close = vi.fn()
    const page = await open(NewItem, { course: 'c1', unit: unit('u1', []), onClose: close })
    await page.press(kind)
    return { page, close }
  }
  const added = () => callsOf('addUnitItem').map((one) => one.body)

  it('is a heading', async () => {
    const { page, close } = await begin('A heading')
    await page.type('Title', 'Practice')
    await page.press('Put it here')
    expect(added()).toEqual([{ kind: 'heading', unit: 'u1', title: 'Practice', published: true }])
    expect(close).toHaveBeenCalledOnce()
  })

  it('is a web address, called by itself where no title is given', async () => {
    const { page } = await begin('A web address')
    await page.type('Address', 'https://charts.example/')
    await page.press('Put it here')
    expect(added()).toEqual([{ kind: 'address', unit: 'u1', title: 'https://charts.example/', published: true, address: 'https://charts.example/' }]) // oxfmt-ignore
  })

  it('is a file of the course, whose name is the title unless one is given', async () => {
    const { page, close } = await begin('A file')
    await page.type('File', 'f1')
    await page.press('Put it here')
    expect(added()).toMatchObject([{ kind: 'file', unit: 'u1', file: 'f1', title: '' }])
    expect(close).toHaveBeenCalledOnce()
  })

  it('is a tool without score, which is said first; its name is the title unless one is given', async () => {
    const { page, close } = await begin('A tool, without score')
    expect(document.querySelector('.note-look')).not.toBeNull()
    await page.type('Tool', 'drills')
    await page.press('Put it here')
    expect(added()).toMatchObject([{ kind: 'tool_link', unit: 'u1', tool: 'drills', title: '' }])
    expect(close).toHaveBeenCalledOnce()
  })

  it('is an assignment that stood in no unit', async () => {
    const { page } = await begin('An assignment that is there')
    await page.type('Assignment that is in no unit', 'a7')
    await page.press('Put it here')
    expect(added()).toEqual([{ kind: 'assignment', unit: 'u1', assignment: 'a7' }])
  })

  it('stays open with what was typed where it is refused', async () => {
    refuse('addUnitItem', 'access.denied')
    const { page, close } = await begin('A heading')
    await page.type('Title', 'Practice')
    await page.press('Put it here')
    expect(page.field('Title').value).toBe('Practice')
    expect(close).not.toHaveBeenCalled()
  })
})

describe('groups', () => {
  const learner = (name: string) => ({ id: name.toLowerCase(), username: name.toLowerCase(), fullName: `${name} Testmann` }) // oxfmt-ignore
  const sets = [
    { id: 's1', name: 'Watches', without: 1, groups: [{ id: 'g1', name: 'Red', members: [learner('Aino')] }] },
    { id: 's2', name: 'Boats', without: 0, groups: [] },
  ]
  beforeEach(() =>
    serve({
      listGroups: () => ({ items: sets }),
      listMembers: () => ({ items: ['Aino', 'Bela'].map((name) => ({ ...sampled('listMembers').items[0]!, person: { ...learner(name), email: '' }, role: 'learner', state: 'active' })), next: null }), // oxfmt-ignore
      changeGroup: () => ({}),
      addGroup: () => ({}),
      addGroupSet: () => sets[0],
    }),
  )
  const opened = async () => {
    const page = await open(CourseGroups, { course: COURSE, canChange: true })
    return page
  }

  it('take learners in and out, and offer only those who stand in none of the set', async () => {
    const page = await opened()
    expect(page.text()).toContain('▲ 1 learner in none')
    await page.press('Red')
    const select = page.field('Put somebody into Red')
    expect([...select.querySelectorAll('option')].map((one) => one.textContent.trim())).toEqual(['Put somebody in …', 'Bela Testmann']) // oxfmt-ignore
    await page.type('Put somebody into Red', 'bela')
    await page.press('Take Aino Testmann out')
    expect(callsOf('changeGroup').map((one) => one.body)).toEqual([{ members: ['aino', 'bela'] }, { members: [] }])
  })

  it('get a new one in their own set, and what is typed for one is not for another', async () => {
    const page = await opened()
    await page.type('New group in Watches', 'Blue')
    expect(page.field('New group in Boats').value).toBe('')
    await page.press('Add')
    expect(callsOf('addGroup')[0]).toMatchObject({ params: { groupSet: 's1' }, body: { name: 'Blue' } })
    expect(page.field('New group in Watches').value).toBe('')
  })

  it.each([
    ['at random', { name: 'Teams', groups: 4 }],
    ['by hand', { name: 'Teams' }],
  ])('are made %s', async (how, body) => {
    const page = await opened()
    await page.press(how)
    await page.type('Name of a new set', 'Teams')
    await page.press('Make the set')
    expect(callsOf('addGroupSet')[0]!.body).toEqual(body)
  })

  it('are made from a table, which stays where it is refused', async () => {
    refuse('addGroupSet', 'request.invalid', 'Line 2: nobody of that name.')
    const page = await opened()
    await page.press('from a table')
    await page.type('Name of a new set', 'Teams')
    await page.type('Table with the columns group and person', 'group,person\nRed,nobody')
    await page.press('Make the set')
    expect(callsOf('addGroupSet')[0]!.body).toEqual({ name: 'Teams', table: 'group,person\nRed,nobody' })
    expect(page.text()).toContain('Line 2: nobody of that name.')
    expect(page.field('Table with the columns group and person').value).toContain('Red,nobody')
  })
})

describe('people of a course', () => {
  const member = (name: string, role: string, state: string) => ({ ...sampled('listMembers').items[0]!, person: { id: name, username: name, fullName: `${name} Testmann`, email: null }, role, state, since: '2026-09-01T00:00:00.000Z', droppedAt: null }) // oxfmt-ignore
  beforeEach(() =>
    serve({
      listMembers: () => ({ items: [member('aino', 'learner', 'active'), member('bela', 'learner', 'dropped'), member('probe', 'test_learner', 'active')], next: null }), // oxfmt-ignore
      listToolRosters: () => ({ items: [] }),
      enrol: () => ({}),
      changeEnrolment: () => ({}),
    }),
  )

  it('are dropped and taken back, but for the test learner', async () => {
    const page = await open(CoursePeople, { course: COURSE, canChange: true })
    await page.press('Drop aino Testmann')
    await page.press('Take back bela Testmann')
    expect(callsOf('changeEnrolment').map((one) => [one.params['person'], one.body])).toEqual([
      ['aino', { state: 'dropped' }],
      ['bela', { state: 'active' }],
    ])
    expect(page.text()).not.toContain('Drop probe')
  })

  it('are added by user name and role; one that is refused stays in the field', async () => {
    const page = await open(CoursePeople, { course: COURSE, canChange: true })
    await page.type('User name of the person to add', ' niamh ')
    await page.type('Role of the person to add', 'teaching_assistant')
    await page.press('Add')
    expect(callsOf('enrol')[0]!.body).toEqual({ person: 'niamh', role: 'teaching_assistant' })
    expect(page.field('User name of the person to add').value).toBe('')
    refuse('enrol', 'person.not_found', 'nobody')
    await page.type('User name of the person to add', 'nobody')
    await page.press('Add')
    expect(page.field('User name of the person to add').value).toBe('nobody')
  })

  it('are found as one types, from the first page on', async () => {
    const page = await open(CoursePeople, { course: COURSE, canChange: false })
    await page.type('Find a person', 'ain')
    expect(callsOf('listMembers').at(-1)!.query).toEqual({ search: 'ain', limit: '100' })
    expect(document.querySelector('form')).toBeNull()
  })
})
