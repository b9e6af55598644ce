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

let academy: TestAcademy
let tomas: Visitor
const admin = () => academy.admin.client
const places = (person: string) => admin().call('showPersonPlaces', { params: { person } })
type Asked = Parameters<typeof audit>[0]
const audit = async (query: { search?: string; person?: string; course?: string; since?: string; until?: string; limit?: number } = {}) =>
  (await admin().call('listAudit', { query: { limit: 200, ...query } })).items // oxfmt-ignore
const report = (query: Asked = {}) => admin().call('reportAudit', { query })

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await admin().call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation' } })
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('niamh', { 'HYD-210': 'learner', 'NAV-120': 'learner' })
  tomas = await academy.signIn('tomas')
})

describe('where a person is', () => {
  it('says courses with role and state, and the tools that have met them with what those may see', async () => {
    expect((await places('niamh')).tools).toEqual([])
    const niamh = await academy.signIn('niamh')
    const one = await publishDrill(academy, 'knotwork-drills', { title: 'First' })
    const two = await publishDrill(academy, 'knotwork-drills', { title: 'Second' })
    for (const id of [one.id, one.id, two.id]) expect((await openForm(niamh, id)).status).toBe(200)
    await admin().call('changeEnrolment', {
      params: { course: 'NAV-120', person: 'niamh' },
      body: { state: 'dropped' },
    })
    // What others open of the same course is not theirs.
    await academy.person('bjarte', { 'HYD-210': 'learner' })
    expect((await openForm(await academy.signIn('bjarte'), one.id)).status).toBe(200)
    expect((await places('bjarte')).tools).toMatchObject([{ assignments: 1, launches: 1 }])
    const { courses, tools } = await places('niamh')
    expect(courses.map(({ course, role, state, droppedAt }) => [course.code, role, state, droppedAt !== null])).toEqual(
      [
        ['HYD 210', 'learner', 'active', false],
        ['NAV 120', 'learner', 'dropped', true],
      ],
    )
    expect(tools).toMatchObject([
      { tool: { slug: 'knotwork-drills' }, disclosure: 'name', assignments: 2, launches: 3 },
    ])
    expect(new Date(tools[0]!.firstAt) <= new Date(tools[0]!.lastAt)).toBe(true)
  })

  it('is for administrators alone, and there for nobody else', async () => {
    expect(await codeOf(places('nobody-of-that-name'))).toBe('person.not_found')
    expect(await codeOf(tomas.client.call('showPersonPlaces', { params: { person: 'niamh' } }))).toBe('access.denied')
  })
})

describe('parts of all people', () => {
  it('are listed alone, and paged', async () => {
    await admin().call('createPerson', { body: { username: 'fresh-1', fullName: 'Fresh One' } })
    await admin().call('createPerson', { body: { username: 'fresh-2', fullName: 'Fresh Two' } })
    await academy.person('gone', { 'HYD-210': 'learner' })
    await admin().call('changePerson', { params: { person: 'gone' }, body: { closed: true } })
    await academy.person('left', { 'NAV-120': 'learner' })
    await admin().call('changeEnrolment', { params: { course: 'NAV-120', person: 'left' }, body: { state: 'dropped' } })
    const of = async (only: 'administrators' | 'without_password' | 'closed' | 'in_no_course', search?: string) => {
      const names: string[] = []
      for (let cursor: string | undefined; ;) {
        const page = await admin().call('listPeople', { query: { only, search, limit: 1, cursor } })
        names.push(...page.items.map((one) => one.username))
        if (page.next === null) return names
        cursor = page.next
      }
    }
    expect(await of('administrators')).toEqual(['ingrid'])
    expect(await of('closed')).toEqual(['gone'])
    expect(await of('without_password')).toEqual(['fresh-1', 'fresh-2'])
    expect(await of('without_password', 'two')).toEqual(['fresh-2'])
    expect(await of('in_no_course')).toEqual(['fresh-1', 'fresh-2', 'ingrid', 'left'])
  })
})

describe('the audit', () => {
  it('is looked through by words, person, course and time', async () => {
    await tomas.client.call('addUnit', { params: { course: 'HYD-210' }, body: { title: '100% done_' } })
    const [mine] = await audit({ search: 'unit 100% done_' })
    expect(mine).toMatchObject({ action: 'add unit', person: { username: 'tomas' }, course: { code: 'HYD 210' } })
    // What means something to the records means itself.
    expect(await audit({ search: 'unit 100_ done%' })).toEqual([])
    expect((await audit({ person: 'tomas' })).every((one) => one.person?.username === 'tomas')).toBe(true)
    expect((await audit({ course: 'HYD-210', search: 'add unit' })).map((one) => one.id)).toEqual([mine!.id])
    expect(await audit({ course: 'NAV-120', search: 'add unit' })).toEqual([])
    const at = new Date(mine!.at).getTime()
    const moment = (ms: number) => new Date(at + ms).toISOString()
    expect((await audit({ search: 'add unit', since: moment(0), until: moment(1) })).map((one) => one.id)).toEqual([mine!.id]) // oxfmt-ignore
    expect(await audit({ search: 'add unit', until: moment(0) })).toEqual([])
    expect(await audit({ search: 'add unit', since: moment(1) })).toEqual([])
    expect(await codeOf(audit({ person: 'nobody-of-that-name' }))).toBe('person.not_found')
    expect(await codeOf(audit({ course: 'NO-999' }))).toBe('course.not_found')
    expect(await codeOf(audit({ since: 'yesterday' }))).toBe('request.invalid')
  })

  it('is paged with its filter: nothing twice, nothing left out', async () => {
    const all = (await audit({ person: 'ingrid' })).map((one) => one.id)
    const paged: string[] = []
    for (let cursor: string | undefined; ;) {
      const page = await admin().call('listAudit', { query: { person: 'ingrid', limit: 3, cursor } })
      paged.push(...page.items.map((one) => one.id))
      if (page.next === null) break
      cursor = page.next
    }
    expect(paged).toEqual(all)
  })

  it('is taken along as a table that no spreadsheet computes, which is noted', async () => {
    await admin().call('createPerson', { body: { username: 'formula', fullName: '=1+1' } })
    const { text, rows, more, name } = await report({ search: 'person formula' })
    expect([rows, more, name]).toEqual([1, false, expect.stringMatching(/^audit-\d{4}-\d\d-\d\d\.csv$/)])
    expect(text).toMatch(/^at,username,name,via,action,subject,course,before,after\r\n/)
    expect(text).toContain('make person')
    expect(text).not.toMatch(/(^|,)=/m)
    expect((await audit({ search: 'export audit' }))[0]).toMatchObject({ after: { search: 'person formula', rows: 1 } })
    expect(await codeOf(tomas.client.call('reportAudit', { query: {} }))).toBe('access.denied')
    expect(await codeOf(tomas.client.call('listAudit', { query: {} }))).toBe('access.denied')
  })
})
