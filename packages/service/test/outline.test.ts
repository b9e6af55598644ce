import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { statementsOf } from './statements.js'

let academy: TestAcademy
let tomas: Visitor
let aino: Visitor
const course = { course: 'HYD-210' }
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('aino', { 'HYD-210': 'learner' })
  tomas = await academy.signIn('tomas')
  aino = await academy.signIn('aino')
})

const outline = (who = tomas) => who.client.call('showOutline', { params: course })
const unit = (title: string, published = true) =>
  tomas.client.call('addUnit', { params: course, body: { title, published } })
const add = (body: Record<string, unknown>, who = tomas) =>
  who.client.call('addUnitItem', { params: course, body: body as never })
const titles = async (who = tomas) =>
  (await outline(who)).units.map((one) => [one.title, ...one.items.map((item) => item.title)])

describe('the outline', () => {
  it('is made in place, moved as a whole, and shows learners what is published, as theirs', async () => {
    const [one, two] = [await unit('Week 1'), await unit('Week 2', false)]
    const page = await add({
      kind: 'page',
      unit: one.id,
      title: 'Read first',
      body: '<p onclick=x>Soundings<script>1</script></p>',
      published: true,
    })
    const heading = await add({ kind: 'heading', unit: one.id, title: 'Practice', published: true })
    const link = await add({
      kind: 'tool_link',
      unit: one.id,
      tool: 'knotwork-drills',
      title: 'Loose drill',
      published: true,
    })
    const made = await publishDrill(academy, 'knotwork-drills', {
      unit: one.id,
      title: 'Graded drill',
      dueAt: '2026-12-24T10:00:00Z',
    })
    const draft = await publishDrill(academy, 'knotwork-drills', { unit: one.id, title: 'Not yet', publish: false })
    await publishDrill(academy, 'knotwork-drills', { title: 'In no unit' })
    expect(page.body).toBe('<p>Soundings</p>')
    expect(await titles()).toEqual([
      ['Week 1', 'Read first', 'Practice', 'Loose drill', 'Graded drill', 'Not yet'],
      ['Week 2'],
    ])
    expect(await titles(aino)).toEqual([['Week 1', 'Read first', 'Practice', 'Loose drill', 'Graded drill']])
    expect((await outline(aino)).loose.map((item) => item.title)).toEqual(['In no unit'])
    expect(JSON.stringify(await outline(aino))).not.toContain('"proven"')
    const graded = (await outline()).units[0]!.items[3]!
    expect(graded.assignment).toMatchObject({ id: made.id, points: '100', dueAt: '2026-12-24T10:00:00.000Z' })
    expect(graded.assignment!.proof).toHaveLength(6)

    const items = (await outline()).units[0]!.items
    const order = [
      { unit: two.id, items: [heading.id, items[3]!.id] },
      { unit: one.id, items: [link.id, page.id, items[4]!.id] },
    ]
    await tomas.client.call('orderOutline', { params: course, body: { units: order } })
    expect(await titles()).toEqual([
      ['Week 2', 'Practice', 'Graded drill'],
      ['Week 1', 'Loose drill', 'Read first', 'Not yet'],
    ])
    expect((await tomas.client.call('showAssignment', { params: { assignment: draft.id } })).unit?.title).toBe('Week 1')
    expect(
      await codeOf(tomas.client.call('orderOutline', { params: course, body: { units: order.slice(0, 1) } })),
    ).toBe('unit.order')
    expect(
      await codeOf(
        tomas.client.call('orderOutline', {
          params: course,
          body: { units: [order[0]!, { ...order[1]!, items: [link.id, link.id, page.id] }] },
        }),
      ),
    ).toBe('unit.order')
    await academy.query('delete from unit_item')
    await academy.query('delete from unit')
  })

  it('keeps two people who move at once from losing anything', async () => {
    const one = await unit('Busy')
    const ids = []
    for (let i = 0; i < 6; i++) ids.push((await add({ kind: 'heading', unit: one.id, title: `H${i}` })).id)
    const orders = [[...ids].reverse(), [...ids.slice(3), ...ids.slice(0, 3)]]
    await Promise.all(
      [
        ...orders.map((items) =>
          tomas.client.call('orderOutline', { params: course, body: { units: [{ unit: one.id, items }] } }),
        ),
        add({ kind: 'heading', unit: one.id, title: 'H6' }).catch(() => undefined),
      ].map((each) => Promise.resolve(each).catch(() => undefined)),
    )
    const there = (await outline()).units.find((each) => each.id === one.id)!.items
    expect(there).toHaveLength(7)
    expect(new Set(there.map((item) => item.id)).size).toBe(7)
    await tomas.client.call('removeUnit', { params: { ...course, unit: one.id } })
  })

  it('refuses a second unit of one title, what does not belong to a kind, and what another course has', async () => {
    const one = await unit('Only once')
    expect(await codeOf(unit('only ONCE'))).toBe('unit.title_taken')
    const page = await add({ kind: 'page', unit: one.id, title: 'P', body: 'x' })
    expect(
      await codeOf(
        tomas.client.call('changeUnitItem', {
          params: { ...course, unitItem: page.id },
          body: { revision: 1, address: 'https://x.example' },
        }),
      ),
    ).toBe('item.wrong_kind')
    expect(await codeOf(add({ kind: 'page', unit: null, title: 'P' }))).toBe('item.wrong_kind')
    expect(await codeOf(add({ kind: 'address', unit: one.id, title: 'A', address: 'javascript:alert(1)' }))).toBe(
      'address.scheme',
    )
    expect(await codeOf(add({ kind: 'page', unit: one.id }))).toBe('request.invalid')
    expect(await codeOf(add({ kind: 'file', unit: one.id, file: 'nothing' }))).toBe('file.not_found')
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
    expect(
      await codeOf(
        academy.admin.client.call('addUnitItem', {
          params: { course: 'NAV-120' },
          body: { kind: 'page', unit: one.id, title: 'P' },
        }),
      ),
    ).toBe('unit.not_found')
    expect(await codeOf(add({ kind: 'page', unit: one.id, title: 'P' }, aino))).toBe('access.denied')
    expect(
      await codeOf(
        tomas.client.call('changeUnitItem', {
          params: { ...course, unitItem: page.id },
          body: { revision: 99, title: 'Q' },
        }),
      ),
    ).toBe('record.changed_meanwhile')
  })

  it('asks the records six times at most, however many items there are', async () => {
    const { records } = academy.service.context
    const { readOutline } = await import('../src/desk/outline/read-outline.js')
    const record = await records.courses.byRef('HYD-210')
    for (const isTeacher of [true, false]) {
      const asked = await statementsOf(() =>
        readOutline(academy.service.context as never, { id: 'x' } as never, record as never, isTeacher),
      )
      expect(asked.length).toBeGreaterThan(0)
      expect(asked.length).toBeLessThanOrEqual(6)
    }
  })
})

describe('a tool link', () => {
  it('is launched like anything else, returns no scores, and becomes an assignment and back in its place', async () => {
    const one = await unit('Turning')
    await add({ kind: 'heading', unit: one.id, title: 'Before' })
    const link = await add({
      kind: 'tool_link',
      unit: one.id,
      tool: 'knotwork-drills',
      title: 'Turn me',
      published: true,
      customParameters: { drill: 'bends' },
    })
    await add({ kind: 'heading', unit: one.id, title: 'After' })
    const opened = await openForm(aino, link.id)
    expect(opened.fields).toMatchObject({ resource_link_title: 'Turn me', custom_drill: 'bends' })
    expect(opened.fields).not.toHaveProperty('lis_outcome_service_url')
    const made = await tomas.client.call('turnIntoAssignment', {
      params: { ...course, unitItem: link.id },
      body: { points: '10', category: 'Drills' },
    })
    expect(made).toMatchObject({
      title: 'Turn me',
      points: '10',
      state: 'draft',
      resourceLinkId: opened.fields['resource_link_id'],
    })
    const order = async () =>
      (await outline()).units.find((each) => each.id === one.id)!.items.map((item) => [item.title, item.kind])
    expect(await order()).toEqual([
      ['Before', 'heading'],
      ['Turn me', 'assignment'],
      ['After', 'heading'],
    ])
    const back = await tomas.client.call('turnIntoLink', { params: { assignment: made.id }, body: {} })
    expect(back).toMatchObject({ kind: 'tool_link', title: 'Turn me' })
    expect(await order()).toEqual([
      ['Before', 'heading'],
      ['Turn me', 'tool_link'],
      ['After', 'heading'],
    ])
    expect((await openForm(tomas, back.id)).fields['resource_link_id']).toBe(opened.fields['resource_link_id'])
  })

  it('is hidden from learners with its unit', async () => {
    const hidden = await unit('Hidden', false)
    const link = await add({
      kind: 'tool_link',
      unit: hidden.id,
      tool: 'knotwork-drills',
      title: 'Deep',
      published: true,
    })
    expect((await openForm(aino, link.id)).status).toBe(404)
    expect(await codeOf(aino.client.call('showUnitItem', { params: { ...course, unitItem: link.id } }))).toBe(
      'item.not_found',
    )
    expect((await openForm(tomas, link.id)).status).toBe(200)
  })
})

describe('the welcome page', () => {
  it('is cleaned, and of two who write at once the later is told', async () => {
    const { revision } = await outline()
    const one = await tomas.client.call('changeWelcome', {
      params: course,
      body: { revision, welcome: '<h2>Aboard</h2><iframe src="x"></iframe>' },
    })
    expect(one.welcome).toBe('<h2>Aboard</h2>')
    expect(
      await codeOf(tomas.client.call('changeWelcome', { params: course, body: { revision, welcome: 'late' } })),
    ).toBe('record.changed_meanwhile')
  })
})

describe('a title that a tool would not know', () => {
  it('is refused where the tool opens under certain titles only, when an item is made and when it is renamed', async () => {
    await academy.admin.client.call('registerTool', {
      body: {
        name: 'Book Shelf',
        consumerKey: 'skerrow-books',
        sharedSecret: 'bilge-and-ballast-5',
        launchUrl: `${academy.knotwork}/launch`,
        exactTitles: ['Deck stores', 'Foul weather gear'],
        features: [],
      },
    })
    const { id } = await unit('Reading')
    const shelf = (title?: string) => ({ kind: 'tool_link', unit: id, tool: 'book-shelf', ...(title && { title }) })
    const refused = await add(shelf('foul weather gear')).catch((error: unknown) => error)
    expect(refused).toMatchObject({
      problem: {
        code: 'item.title_of_tool',
        detail: expect.stringContaining('opens only under “Foul weather gear”') as string,
      },
    })
    // Without a title it would be called as the tool is.
    for (const title of ['Charts', undefined]) expect(await codeOf(add(shelf(title)))).toBe('item.title_of_tool')
    const made = await add(shelf('Foul weather gear'))
    const rename = (title: string) =>
      codeOf(
        tomas.client.call('changeUnitItem', {
          params: { ...course, unitItem: made.id },
          body: { revision: made.revision, title },
        }),
      )
    expect(await rename('Weather atlas')).toBe('item.title_of_tool')
    expect(await rename('Deck stores')).toBeUndefined()
    expect((await titles()).find(([name]) => name === 'Reading')).toEqual(['Reading', 'Deck stores'])
  })

  it('is remarked where another assignment of the course has it, in other capitals, too, until one is called otherwise', async () => {
    const first = await publishDrill(academy, 'knotwork-drills', { title: 'Twice told', customParameters: { a: '1' } })
    const second = await publishDrill(academy, 'knotwork-drills', { title: 'Twice Told', customParameters: { a: '2' } })
    const remarks = async (one: { id: string }) =>
      (await tomas.client.call('showAssignment', { params: { assignment: one.id } })).preflight
    const alone = async (one: { id: string }) => (await remarks(one)).find(({ rule }) => rule === 'title_alone')
    expect(await alone(first)).toMatchObject({ verdict: 'warn', statement: expect.stringMatching(/^Another assignment .*“Twice told”/) as string }) // oxfmt-ignore
    expect(await alone(second)).toBeDefined()
    const { items } = await tomas.client.call('preflightCourse', { params: course })
    const told = items.filter((one) => one.remarks.some(({ rule }) => rule === 'title_alone')).map((one) => one.title)
    expect(told.sort()).toEqual(['Twice Told', 'Twice told'])
    const { revision } = await tomas.client.call('showAssignment', { params: { assignment: second.id } })
    await tomas.client.call('changeAssignment', {
      params: { assignment: second.id },
      body: { revision, title: 'Told once' },
    })
    expect([await alone(first), await alone(second)]).toEqual([undefined, undefined])
  })
})
