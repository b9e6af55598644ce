import { createChandlery, createHarbour } from '@bathyscribe/practice-tools'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { codeOf, openForm, registerKnotwork, startAcademy, type TestAcademy, type Visitor } from './harness.js'

let academy: TestAcademy
let tomas: Visitor
let niamh: Visitor
let harbour: string
let chandlery: string
const PAIR = { consumerKey: 'skerrow-desk', sharedSecret: 'fender-8-bollard-2' }
const course = { course: 'HYD-210' }
const stops: (() => Promise<unknown>)[] = []

beforeAll(async () => {
  academy = await startAcademy()
  const start = async (make: typeof createHarbour) => {
    const port = await freePort()
    const app = await make({ publicUrl: `http://127.0.0.1:${port}`, ...PAIR })
    await app.listen({ host: '127.0.0.1', port })
    stops.push(() => app.close())
    return `http://127.0.0.1:${port}`
  }
  harbour = await start(createHarbour)
  chandlery = await start(createChandlery)
  await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('niamh', { 'HYD-210': 'learner' })
  tomas = await academy.signIn('tomas')
  niamh = await academy.signIn('niamh')
  await registerKnotwork(academy)
  const common = { ...PAIR, disclosure: 'name' as const, features: [] }
  await academy.admin.client.call('registerTool', {
    body: {
      ...common,
      name: 'Harbour Desk',
      launchUrl: `${harbour}/launch`,
      firstEntry: 'course',
      placements: [{ place: 'course_menu' }],
    },
  })
  await academy.admin.client.call('registerTool', {
    body: {
      ...common,
      name: 'Chandlery Shelf',
      launchUrl: `${chandlery}/launch`,
      placements: [{ place: 'course_menu' }, { place: 'unit_item' }],
    },
  })
})
afterAll(async () => {
  for (const stop of stops) await stop()
})

const menuOf = async (who: Visitor) => (await who.client.call('listMenu', { params: course })).items
const post = async (who: Visitor, id: string) => {
  const { action, fields, page } = await openForm(who, id)
  return action ? (await fetch(action, { method: 'POST', body: new URLSearchParams(fields) })).text() : page
}

describe('the catalogue of a course', () => {
  it('finds tools as one types, with what they can do', async () => {
    const search = (text?: string) => tomas.client.call('searchCatalogue', { params: course, query: { search: text } })
    expect((await search()).items.map((one) => one.tool.slug)).toEqual([
      'chandlery-shelf',
      'harbour-desk',
      'knotwork-drills',
    ])
    expect((await search('harb')).items).toMatchObject([
      { tool: { slug: 'harbour-desk' }, inMenu: true, features: [], added: false },
    ])
    expect((await search('nothing of the kind')).items).toEqual([])
  })

  it('warns where several look alike', async () => {
    await registerKnotwork(academy, { name: 'Knotwork Drills (spare)', secondReason: 'spare' })
    const { items } = await tomas.client.call('searchCatalogue', { params: course, query: { search: 'knotwork' } })
    expect(items.map((one) => one.lookAlikes)).toEqual([1, 1])
  })

  it('shows a course only what is offered to it', async () => {
    const { revision } = await academy.admin.client.call('showTool', { params: { tool: 'knotwork-drills-spare' } })
    const offer = (body: { revision: number; offer: 'named' | 'none' | 'all'; courses?: string[] }) =>
      academy.admin.client.call('offerTool', { params: { tool: 'knotwork-drills-spare' }, body })
    await offer({ revision, offer: 'named', courses: ['NAV-120'] })
    const { items } = await tomas.client.call('searchCatalogue', { params: course, query: { search: 'knotwork' } })
    expect(items.map((one) => one.tool.slug)).toEqual(['knotwork-drills'])
    const add = () => tomas.client.call('addCourseTool', { params: course, body: { tool: 'knotwork-drills-spare' } })
    expect(await codeOf(add())).toBe('tool.not_offered')
    await offer({ revision: revision + 1, offer: 'named', courses: ['HYD-210', 'NAV-120'] })
    expect((await add()).menuEntry).toBeNull()
  })

  it('asks for the course’s own key and secret where the tool issues them per course', async () => {
    await academy.admin.client.call('registerTool', {
      body: {
        name: 'Plotting Table',
        launchUrl: 'https://plots.example/launch',
        keysPerCourse: true,
        description: 'Problem sets',
      },
    })
    const add = (body = {}) =>
      tomas.client.call('addCourseTool', { params: course, body: { tool: 'plotting-table', ...body } })
    expect(await codeOf(add())).toBe('tool.needs_own_keys')
    expect(await codeOf(add({ consumerKey: 'k ', sharedSecret: 'secret-of-hyd' }))).toBe('tool.key_has_blanks')
    const { tool } = await add({ consumerKey: 'hyd-210', sharedSecret: 'secret-of-hyd' })
    expect(tool.slug).toBe('plotting-table-hyd-210')
    const { items } = await tomas.client.call('searchCatalogue', { params: course, query: { search: 'plotting' } })
    expect(items).toMatchObject([
      { tool: { slug: 'plotting-table-hyd-210' }, own: true, added: true, needsKeys: false, lookAlikes: 0 },
    ])
  })

  it('is one query, however many tools there are', async () => {
    const { context } = academy.service
    const original = context.records.menus
    let queries = 0
    const counting = new Proxy(original, {
      get: (target, name) => {
        if (name === 'catalogue') queries++
        return Reflect.get(target, name) as unknown
      },
    })
    await counting.catalogue((await context.records.courses.byRef('HYD-210')).id, { limit: 50 })
    expect(queries).toBe(1)
  })
})

describe('the menu of a course', () => {
  it('is empty at first, and filled in one act', async () => {
    expect(await menuOf(niamh)).toEqual([])
    const { menuEntry } = await tomas.client.call('addCourseTool', { params: course, body: { tool: 'harbour-desk' } })
    expect(menuEntry).toMatchObject({
      label: 'Harbour Desk',
      audience: 'everyone',
      shown: true,
      firstEntry: { needed: true, at: null },
    })
    await tomas.client.call('addMenuEntry', { params: course, body: { tool: 'chandlery-shelf', label: 'Deck stores' } })
    await tomas.client.call('addMenuEntry', {
      params: course,
      body: { tool: 'chandlery-shelf', label: 'Foul weather gear', audience: 'instructors' },
    })
    expect((await menuOf(niamh)).map((one) => one.label)).toEqual(['Harbour Desk', 'Deck stores'])
  })

  it('is hidden, renamed and put into another order, and the learner sees it at once', async () => {
    const [desk, books, atlas] = await menuOf(tomas)
    const change = (id: string, body: { revision: number; label?: string; shown?: boolean }) =>
      tomas.client.call('changeMenuEntry', { params: { ...course, menuEntry: id }, body })
    await change(desk!.id, { revision: 1, label: 'Harbour' })
    expect(await codeOf(change(desk!.id, { revision: 1, label: 'Too late' }))).toBe('record.changed_meanwhile')
    await tomas.client.call('orderMenu', { params: course, body: { entries: [books!.id, atlas!.id, desk!.id] } })
    expect((await menuOf(niamh)).map((one) => one.label)).toEqual(['Deck stores', 'Harbour'])
    const order = (entries: string[]) => tomas.client.call('orderMenu', { params: course, body: { entries } })
    expect(await codeOf(order([books!.id]))).toBe('menu.order')
    expect(await codeOf(order([books!.id, books!.id, desk!.id]))).toBe('menu.order')
    await change(books!.id, { revision: 1, shown: false })
    expect((await menuOf(niamh)).map((one) => one.label)).toEqual(['Harbour'])
    expect((await openForm(niamh, books!.id)).page).toContain('not shown to you')
    expect((await openForm(niamh, atlas!.id)).page).toContain('not shown to you')
    await change(books!.id, { revision: 2, shown: true })
  })

  it('sends no place for scores, and the tool’s lockers open by the exact label', async () => {
    const books = (await menuOf(tomas)).find((one) => one.label === 'Deck stores')!
    const { fields } = await openForm(niamh, books.id)
    expect(fields['resource_link_title']).toBe('Deck stores')
    expect(
      Object.keys(fields).filter((name) => name.startsWith('lis_outcome') || name === 'lis_result_sourcedid'),
    ).toEqual([])
    expect(await post(niamh, books.id)).toContain('Heaving lines')
    await tomas.client.call('changeMenuEntry', {
      params: { ...course, menuEntry: books.id },
      body: { revision: 3, label: 'deck stores' },
    })
    expect(await post(niamh, books.id)).toContain('opens under its exact label only')
  })

  it('waits for the instructor’s first entry: learners are told, Watch lists it, and it is noted by whom', async () => {
    const desk = (await menuOf(tomas)).find((one) => one.label === 'Harbour')!
    expect((await openForm(niamh, desk.id)).page).toContain('The instructor has to open this tool first.')
    expect((await tomas.client.call('showWatch', {})).firstEntries).toMatchObject([
      { label: 'Harbour', openAt: expect.stringContaining(desk.id) },
    ])
    expect(await post(tomas, desk.id)).toContain('Tie your account')
    const entered = (await menuOf(tomas)).find((one) => one.id === desk.id)!
    expect(entered.firstEntry).toMatchObject({ needed: true, by: 'Tomas Testmann', at: expect.any(String) })
    expect((await tomas.client.call('showWatch', {})).firstEntries).toEqual([])
    expect(await post(niamh, desk.id)).toContain('not tied this course')
    await tomas.client.call('forgetFirstEntry', { params: { ...course, courseTool: 'harbour-desk' } })
    expect((await openForm(niamh, desk.id)).page).toContain('has to open this tool first')
  })

  it('answers where a tool shows, to whom, and why', async () => {
    const shows = async (tool: string, role: 'instructor' | 'learner') =>
      Object.fromEntries(
        (await tomas.client.call('showToolPlaces', { params: { tool }, query: { ...course, role } })).items.map(
          (one) => [one.place, one.shows],
        ),
      )
    expect(await shows('harbour-desk', 'learner')).toEqual({
      course_menu: true,
      unit_item: false,
      running_text: false,
      assignment: false,
    })
    expect(await shows('chandlery-shelf', 'instructor')).toMatchObject({ course_menu: true, unit_item: true })
    expect(await shows('knotwork-drills', 'learner')).toMatchObject({ course_menu: false, assignment: false })
  })

  it('keeps what is in use, and lets go of what is not', async () => {
    const remove = (courseTool: string) => tomas.client.call('removeCourseTool', { params: { ...course, courseTool } })
    expect(await codeOf(remove('harbour-desk'))).toBe('tool.in_use')
    expect(await codeOf(remove('knotwork-drills-spare'))).toBeUndefined()
    for (const entry of await menuOf(tomas))
      await tomas.client.call('removeMenuEntry', { params: { ...course, menuEntry: entry.id } })
    expect(await menuOf(niamh)).toEqual([])
    expect(await codeOf(tomas.client.call('removeMenuEntry', { params: { ...course, menuEntry: 'nothere' } }))).toBe(
      'menu.not_found',
    )
  })

  it('is no business of somebody who is not in the course', async () => {
    await academy.person('stranger', { 'NAV-120': 'instructor' })
    const stranger = await academy.signIn('stranger')
    expect(await codeOf(stranger.client.call('listMenu', { params: course }))).toBe('course.not_found')
    expect(
      await codeOf(stranger.client.call('previewIdentity', { params: { tool: 'harbour-desk' }, query: course })),
    ).toBe('course.not_found')
  })
})
