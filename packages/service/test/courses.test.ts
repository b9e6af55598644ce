import { outcomeXml, sendOutcome } from '@bathyscribe/practice-tools'
import { zipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import { codeOf, KEY, openForm, publishDrill, registerKnotwork, SECRET, startAcademy, type TestAcademy, type Visitor } from './harness.js' // oxfmt-ignore

let academy: TestAcademy
let tomas: Visitor
let aino: Visitor
const course = { course: 'HYD-210' }
beforeAll(async () => {
  academy = await startAcademy({ timeZone: 'Atlantic/Faroe' })
  await registerKnotwork(academy)
  await academy.person('tomas', { 'HYD-210': 'instructor' })
  await academy.person('oren', { 'HYD-210': 'teaching_assistant' })
  await academy.person('aino', { 'HYD-210': 'learner' })
  ;[tomas, aino] = [await academy.signIn('tomas'), await academy.signIn('aino')]
})

const categories = async () => (await tomas.client.call('listCategories', { params: course })).items
const named = async (name: string) => (await categories()).find((one) => one.name === name)!

describe('categories', () => {
  it('are made, renamed, weighed and moved at any time, by instructors only', async () => {
    await tomas.client.call('addCategory', { params: course, body: { name: 'Reports', weight: '60' } })
    await tomas.client.call('addCategory', { params: course, body: { name: 'Spare' } })
    const { id } = await named('Spare')
    const change = (body: object) => tomas.client.call('changeCategory', { params: { ...course, category: id }, body })
    expect(await change({ name: 'Field work', weight: '12.5', position: 1 })).toEqual({
      id,
      name: 'Field work',
      weight: '12.5',
      assignments: 0,
    })
    expect((await categories()).map(({ name, weight }) => [name, weight])).toEqual([
      ['Field work', '12.5'],
      ['Drills', null],
      ['Reports', '60'],
    ])
    await change({ position: 99, weight: null })
    expect((await categories()).map(({ name }) => name)).toEqual(['Drills', 'Reports', 'Field work'])
    expect(await codeOf(change({ name: 'REPORTS' }))).toBe('category.name_taken')
    expect(await codeOf(change({ weight: '101' }))).toBe('request.invalid')
    const oren = await academy.signIn('oren')
    expect(await codeOf(oren.client.call('addCategory', { params: course, body: { name: 'Mine' } }))).toBe(
      'access.denied',
    )
    expect((await oren.client.call('listCategories', { params: course })).items).toHaveLength(3)
  })

  it('are taken away only when it is said where their assignments go', async () => {
    await publishDrill(academy, 'knotwork-drills', { category: 'Reports', title: 'Stays somewhere' })
    const { id } = await named('Reports')
    const remove = (query: object = {}) =>
      tomas.client.call('removeCategory', { params: { ...course, category: id }, query })
    expect(await codeOf(remove())).toBe('category.in_use')
    expect(await codeOf(remove({ moveTo: 'nothinglikeit' }))).toBe('category.not_found')
    expect(await codeOf(remove({ moveTo: id }))).toBe('category.not_found')
    expect((await named('Reports')).assignments).toBe(1)
    await remove({ moveTo: (await named('Field work')).id })
    expect((await categories()).map(({ name, assignments }) => [name, assignments])).toEqual([
      ['Drills', 0],
      ['Field work', 1],
    ])
    const [entry] = (await academy.admin.client.call('listAudit', {})).items
    expect(entry).toMatchObject({ action: 'remove category', after: { moved: 1, to: 'Field work' } })
  })

  it('of another course are out of reach, and two of one name made at once are one', async () => {
    await academy.admin.client.call('createCourse', { body: { code: 'NAV 120', title: 'Coastal Navigation', categories: ['Theirs'] } }) // oxfmt-ignore
    const [theirs] = (await academy.admin.client.call('listCategories', { params: { course: 'NAV-120' } })).items
    for (const act of [
      () =>
        tomas.client.call('changeCategory', { params: { ...course, category: theirs!.id }, body: { name: 'Ours' } }),
      () => tomas.client.call('removeCategory', { params: { ...course, category: theirs!.id } }),
    ])
      expect(await codeOf(act())).toBe('category.not_found')
    const answers = await Promise.all(
      Array.from({ length: 6 }, () =>
        codeOf(tomas.client.call('addCategory', { params: course, body: { name: 'Once' } })),
      ),
    )
    expect(answers.filter((code) => code === undefined)).toHaveLength(1)
    expect(new Set(answers)).toEqual(new Set([undefined, 'category.name_taken']))
  })
})

describe('a course', () => {
  it('is made in the zone of the institution unless it says another, and its dates follow each other', async () => {
    const make = (body: object) =>
      academy.admin.client.call('createCourse', { body: { title: 'Tides', ...body } as never })
    expect((await make({ code: 'TID 1' })).timeZone).toBe('Atlantic/Faroe')
    expect((await make({ code: 'TID 2', timeZone: 'Pacific/Chatham' })).timeZone).toBe('Pacific/Chatham')
    expect(await codeOf(make({ code: 'TID 3', timeZone: 'Sea/Bottom' }))).toBe('request.invalid')
    const dates = { startsAt: '2026-12-01T00:00:00Z', endsAt: '2026-11-01T00:00:00Z' }
    expect(await codeOf(make({ code: 'TID 3', ...dates }))).toBe('course.ends_first')
  })

  it('is changed by administrators, under any code that is free', async () => {
    const change = (who: Visitor, body: object) =>
      who.client.call('changeCourse', { params: { course: 'TID-1' }, body })
    expect(await codeOf(change(tomas, { title: 'Mine' }))).toBe('access.denied')
    expect(await codeOf(change(academy.admin, { code: 'hyd 210' }))).toBe('course.code_taken')
    await change(academy.admin, { sourcedId: 'tides-a' })
    expect(
      await codeOf(
        academy.admin.client.call('changeCourse', { params: { course: 'TID-2' }, body: { sourcedId: 'tides-a' } }),
      ),
    ).toBe('course.sourced_id_taken')
    await change(academy.admin, { startsAt: '2026-08-17T00:00:00+01:00' })
    expect(await codeOf(change(academy.admin, { endsAt: '2026-08-01T00:00:00Z' }))).toBe('course.ends_first')
    expect(
      await change(academy.admin, { code: 'TID 9', title: 'Tides and levels', term: 'Autumn 2026' }),
    ).toMatchObject({
      code: 'TID 9',
      title: 'Tides and levels',
      term: 'Autumn 2026',
      startsAt: '2026-08-16T23:00:00.000Z',
    })
    const ofTerm = await academy.admin.client.call('listCourses', { query: { term: 'Autumn 2026' } })
    expect(ofTerm.items.map((one) => one.code)).toEqual(['TID 9'])
    const [entry] = (await academy.admin.client.call('listAudit', {})).items
    expect(entry).toMatchObject({ action: 'change course', before: { code: 'TID 1', title: 'Tides' } })
  })

  it('is closed: learners look and begin nothing, tools’ scores are taken, nobody is asked to look after it; then it is open again', async () => {
    const { id } = await publishDrill(academy, 'knotwork-drills', {
      title: 'Late marking',
      dueAt: '2027-01-01T00:00:00Z',
    })
    const { fields } = await openForm(aino, id)
    const state = (to: 'open' | 'closed' | 'deleted') =>
      academy.admin.client.call('setCourseState', { params: course, body: { state: to } })
    const watched = async () => (await academy.admin.client.call('showWatch', {})).publishedCount
    const before = await watched()
    expect(await codeOf(tomas.client.call('setCourseState', { params: course, body: { state: 'closed' } }))).toBe('access.denied') // oxfmt-ignore
    expect(await state('closed')).toMatchObject({ state: 'closed', stateSince: expect.any(String) as string })

    expect((await openForm(aino, id)).status).toBe(409)
    expect((await openForm(tomas, id)).status).toBe(200)
    const work = await aino.client.call('showWork', { params: { assignment: id } })
    expect(work).toMatchObject({ openable: false, obstacle: expect.stringContaining('closed') as string })
    const target = { serviceUrl: fields['lis_outcome_service_url']!, resultId: fields['lis_result_sourcedid']!, key: KEY, secret: SECRET } // oxfmt-ignore
    expect((await sendOutcome(target as never, outcomeXml('replaceResult', target.resultId, '0.5'))).status).toBe(200)
    expect((await aino.client.call('showWork', { params: { assignment: id } })).result?.points).toBe('50')
    expect((await aino.client.call('listDue', {})).items).toEqual([])
    expect(await watched()).toBeLessThan(before)
    expect(await codeOf(academy.admin.client.call('startSweep', { body: { course: 'HYD-210' } }))).toBe('sweep.nothing')

    await state('open')
    expect((await openForm(aino, id)).status).toBe(200)
    expect(await watched()).toBe(before)
  })

  it('is deleted: nobody is in it and no tool reaches it, and comes back as it was', async () => {
    const { items } = await tomas.client.call('listAssignments', { params: course })
    const { id } = items.find((one) => one.title === 'Late marking')!
    const { fields } = await openForm(aino, id)
    const set = (state: 'open' | 'deleted') =>
      academy.admin.client.call('setCourseState', { params: course, body: { state } })
    await set('deleted')
    for (const call of [
      () => tomas.client.call('showCourse', { params: course }),
      () => tomas.client.call('listAssignments', { params: course }),
      () => aino.client.call('showWork', { params: { assignment: id } }),
      () => academy.admin.client.call('showGradebook', { params: course }),
      () => academy.admin.client.call('changeCourse', { params: course, body: { title: 'No' } }),
    ])
      expect(await codeOf(call())).toBe('course.not_found')
    for (const who of [aino, tomas]) {
      expect((await openForm(who, id)).status).toBe(404)
      expect((await who.client.call('listCourses', {})).items).toEqual([])
      expect((await who.client.call('listCourses', { query: { state: 'deleted' } })).items).toEqual([])
    }
    const target = { serviceUrl: fields['lis_outcome_service_url']!, resultId: fields['lis_result_sourcedid']!, key: KEY, secret: SECRET } // oxfmt-ignore
    const answer = await sendOutcome(target as never, outcomeXml('replaceResult', target.resultId, '0.9'))
    expect(answer.codeMajor).toBe('failure')
    expect(await codeOf(academy.admin.client.call('createCourse', { body: { code: 'HYD 210', title: 'Again' } }))).toBe(
      'course.code_taken',
    )
    expect((await academy.admin.client.call('listCourses', { query: { state: 'deleted' } })).items).toMatchObject([
      { code: 'HYD 210', state: 'deleted' },
    ])
    expect(await academy.admin.client.call('showCourse', { params: course })).toMatchObject({ state: 'deleted' })
    expect(await set('open')).toMatchObject({ state: 'open', stateSince: null, learners: 1 })
    expect((await aino.client.call('showWork', { params: { assignment: id } })).result?.points).toBe('50')
    const acts = (await academy.admin.client.call('listAudit', {})).items.map((one) => one.action)
    expect(acts.slice(0, 2)).toEqual(['restore course', 'delete course'])
  })
})

describe('courses of a roster', () => {
  const files = (terms: string) => {
    const utf8 = new TextEncoder()
    const texts = {
      'manifest.csv': 'propertyName,value\noneroster.version,1.2\nfile.users,bulk\nfile.classes,bulk\nfile.enrollments,bulk\nfile.academicSessions,bulk\n', // oxfmt-ignore
      'academicSessions.csv': terms,
      'users.csv': 'sourcedId,username,givenName,familyName,email\np-1,bran,Bran,Hegg,\n',
      'classes.csv': 'sourcedId,title,classCode,termSourcedIds\nk-1,Buoys,BUO 1,"t-0,t-1"\nk-2,Lights,LIG 1,\n',
      'enrollments.csv': 'sourcedId,classSourcedId,userSourcedId,role\ne-1,k-1,p-1,student\ne-2,k-2,p-1,student\n',
    }
    const archive = Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, utf8.encode(text)]))
    return Buffer.from(zipSync(archive)).toString('base64')
  }
  const TERMS = 'sourcedId,title,type,startDate,endDate\nt-1,Autumn 2026,term,2026-08-17,2026-12-18\n'
  const bring = (zip: string, more: object = {}) =>
    academy.admin.client.call('importRoster', { body: { fileName: 'r.zip', zip, apply: true, ...more } })
  const show = (ref: string) => academy.admin.client.call('showCourse', { params: { course: ref } })

  it('keep their term, its days in their zone, and the zone that the import says', async () => {
    await bring(files(TERMS), { timeZone: 'Europe/Oslo' })
    expect(await show('BUO-1')).toMatchObject({
      term: 'Autumn 2026',
      timeZone: 'Europe/Oslo',
      startsAt: '2026-08-16T22:00:00.000Z',
      endsAt: '2026-12-18T22:59:00.000Z',
      sourcedId: 'k-1',
    })
    expect(await show('LIG-1')).toMatchObject({ term: '', startsAt: null, timeZone: 'Europe/Oslo' })
  })

  it('get a term later where they have none, and keep what was set by hand', async () => {
    await academy.admin.client.call('changeCourse', { params: { course: 'BUO-1' }, body: { term: '' } })
    expect(await bring(files(TERMS.replace('Autumn', 'Late autumn')))).toMatchObject({ coursesDated: 1 })
    expect((await show('BUO-1')).term).toBe('Late autumn 2026')
    expect(await bring(files(TERMS.replace('Autumn', 'Winter')))).toMatchObject({ coursesDated: 0 })
    expect((await show('BUO-1')).term).toBe('Late autumn 2026')
    await bring(files('sourcedId,title\n,,\nt-9,"un\nclosed'.replace('"', '')))
    expect((await show('LIG-1')).term).toBe('')
  })

  it('that were deleted stay deleted, and it is said', async () => {
    await academy.admin.client.call('setCourseState', { params: { course: 'BUO-1' }, body: { state: 'deleted' } })
    const { problems, coursesMade } = await bring(files(TERMS))
    expect(coursesMade).toBe(0)
    expect(problems.map((one) => one.message)).toContainEqual(expect.stringContaining('BUO 1 was deleted here'))
    expect((await show('BUO-1')).state).toBe('deleted')
  })
})
