import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  publishDrill,
  registerKnotwork,
  sendScore,
  startAcademy,
  type TestAcademy,
} from './harness.js'

let academy: TestAcademy
let good: string
let bad: string

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  good = (await publishDrill(academy, 'knotwork-drills', { title: 'Good' })).id
  bad = (await publishDrill(academy, 'knotwork-drills', { title: 'Bad' })).id
  for (const name of ['aino', 'bjarte', 'chiamaka']) await academy.person(name, { 'HYD-210': 'learner' })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  for (const [name, assignment, score] of [
    ['aino', good, '0.5'],
    ['bjarte', good, '1'],
    ['aino', bad, '1.5'],
    ['bjarte', bad, '2'],
  ] as const) {
    const resultId = (await openForm(await academy.signIn(name), assignment)).fields['lis_result_sourcedid']!
    await sendScore(academy, resultId, score)
  }
})
const call = () => academy.admin.client

describe('the wire log', () => {
  const list = async (query: Record<string, unknown>) => (await call().call('listWire', { query })).items

  it.each([
    ['kind', { kind: 'outcome' }, 4],
    ['outcome', { outcome: 'refused' }, 2],
    ['person', { person: 'aino' }, 4],
    ['tool', { tool: 'knotwork-drills' }, 8],
    ['course and kind', { course: 'HYD-210', kind: 'launch' }, 4],
    ['words', { search: 'above 1' }, 2],
    ['code', { search: 'score.above' }, 2],
    ['a person who is nobody', { person: 'nobody' }, 0],
  ])('is filtered by %s', async (_, query, count) => {
    expect(await list(query)).toHaveLength(count)
  })

  it('is paged newest first, each entry once, while new ones come in', async () => {
    const first = await call().call('listWire', { query: { limit: 3 } })
    await openForm(await academy.signIn('chiamaka'), good)
    const second = await call().call('listWire', { query: { limit: 200, cursor: first.next! } })
    const ids = [...first.items, ...second.items].map((entry) => Number(entry.id))
    expect(ids).toEqual([...ids].sort((a, b) => b - a))
    expect(new Set(ids).size).toBe(ids.length)
  })

  it('says of a refusal what it means and what to do', async () => {
    const [refused] = await list({ outcome: 'refused' })
    const entry = await call().call('showWireEntry', { params: { entry: refused!.id } })
    expect(entry.diagnosis).toEqual({
      sentence: 'The score is above 1.',
      hint: expect.stringContaining('fraction') as string,
      detail: '“2”',
    })
    expect(await codeOf(call().call('showWireEntry', { params: { entry: '999999' } }))).toBe('wire.not_found')
  })
})

describe('Watch', () => {
  it('groups refusals by cause and tool, lists what is not proven with the one thing to do, and counts scores by the hour', async () => {
    const watch = await call().call('showWatch', {})
    expect(watch.refusals).toMatchObject([
      { code: 'score.above_one', count: 2, links: 1, courses: 1, tool: { slug: 'knotwork-drills' } },
    ])
    expect(watch.unproven).toMatchObject([{ id: bad, nextAct: 'A score was refused: “2”. The score is above 1.' }])
    expect(watch).toMatchObject({ unprovenCount: 1, publishedCount: 2 })
    expect(watch.scoresPerHour).toHaveLength(24)
    expect(watch.scoresPerHour.at(-1)!.scores + watch.scoresPerHour.at(-2)!.scores).toBe(2)
  })
})

describe('the gradebook', () => {
  it('tells never opened, opened, graded and refused apart, and adds up exactly', async () => {
    const book = await call().call('showGradebook', { params: { course: 'HYD-210' } })
    const cell = (name: string, assignment: string) =>
      book.rows.find((row) => row.person.username === name)!.cells[assignment]
    expect(cell('aino', good)).toMatchObject({ state: 'graded', points: '50' })
    expect(cell('bjarte', bad)).toMatchObject({ state: 'refused', points: null })
    expect(cell('chiamaka', bad)).toBeUndefined()
    expect(book).toMatchObject({
      rows: expect.arrayContaining([expect.objectContaining({ total: '100', outOf: '100' })]) as unknown,
    })
  })
})

describe('people', () => {
  it('with any name are kept letter by letter, found by part of it, and listed once each over all pages', async () => {
    const names = [
      "Niamh O'Drevnakh",
      'თამარ ზღვისპირელი',
      'ليان البحراوندي',
      'Maximiliana von und zu Hohenklippenburg-Wattenmeersdorfinghausen',
      '100% _sure_\\',
    ]
    for (const [i, fullName] of names.entries())
      await call().call('createPerson', { body: { username: `named-${i}`, fullName } })
    for (const fullName of names) {
      const { items } = await call().call('listPeople', { query: { search: fullName.slice(0, 12) } })
      expect(items.map((person) => person.fullName)).toEqual([fullName])
    }
    const seen: string[] = []
    let cursor: string | undefined
    do {
      const page = await call().call('listPeople', { query: { limit: 3, cursor } })
      seen.push(...page.items.map((person) => person.username))
      cursor = page.next ?? undefined
    } while (cursor)
    expect(new Set(seen).size).toBe(seen.length)
    expect(seen).toEqual(expect.arrayContaining(['ingrid', 'named-0', 'aino']))
  })

  it.each([
    ['a taken user name', { username: 'aino', fullName: 'Other' }, 'person.username_taken'],
    ['a user name with a blank', { username: 'a b', fullName: 'X' }, 'request.invalid'],
    ['an address that is none', { username: 'ok', fullName: 'X', email: 'nowhere' }, 'request.invalid'],
    ['a short password', { username: 'ok', fullName: 'X', password: 'short' }, 'request.invalid'],
    ['a name of two lines', { username: 'ok', fullName: 'X\nY' }, 'request.invalid'],
  ])('with %s are refused', async (_, body, code) => {
    expect(await codeOf(call().call('createPerson', { body }))).toBe(code)
  })

  it('a course’s test learner is its own: nobody else can become it, and it can become nothing else', async () => {
    expect(
      await codeOf(
        call().call('enrol', { params: { course: 'HYD-210' }, body: { person: 'aino', role: 'test_learner' } }),
      ),
    ).toBe('access.denied')
    const { items } = await call().call('listMembers', {
      params: { course: 'HYD-210' },
      query: { search: 'Test learner' },
    })
    const change = { params: { course: 'HYD-210', person: items[0]!.person.id }, body: { role: 'learner' as const } }
    expect(await codeOf(call().call('changeEnrolment', change))).toBe('access.denied')
  })
})

describe('courses', () => {
  it('are found by code in any spelling, and a code is given once', async () => {
    for (const course of ['HYD 210', 'hyd-210', 'Hyd-210'])
      expect((await call().call('showCourse', { params: { course } })).code).toBe('HYD 210')
    expect(await codeOf(call().call('createCourse', { body: { code: 'hyd  210', title: 'Again' } }))).toBe(
      'course.code_taken',
    )
    expect(
      await codeOf(call().call('createCourse', { body: { code: 'X 1', title: 'X', timeZone: 'Mars/Olympus' } })),
    ).toBe('request.invalid')
  })

  it('show an instructor what is unproven, a learner nothing of it', async () => {
    const asked = async (name: string) => (await (await academy.signIn(name)).client.call('listCourses', {})).items
    expect(await asked('tomas')).toMatchObject([
      { code: 'HYD 210', myRole: 'instructor', learners: 3, assignments: 2, unproven: 1 },
    ])
    expect(await asked('chiamaka')).toMatchObject([{ code: 'HYD 210', myRole: 'learner', unproven: 0 }])
  })
})

describe('the audit log', () => {
  it('has every change with who, what, before and after, newest first', async () => {
    await call().call('changePerson', { params: { person: 'chiamaka' }, body: { email: 'c@skerrow.example' } })
    const { items } = await call().call('listAudit', { query: { limit: 2 } })
    expect(items[0]).toMatchObject({
      action: 'change person',
      subject: 'person chiamaka',
      person: { username: 'ingrid' },
      after: { email: 'c@skerrow.example' },
      before: { email: 'chiamaka@skerrow.example' },
    })
    expect(items[0]!.via).toMatch(/^session /)
  })
})
