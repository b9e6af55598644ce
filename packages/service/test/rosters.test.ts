import { deflateRawSync } from 'node:zlib'
import { strToU8, zipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import { eventually } from '../../../test/eventually.js'
import { createWorkers } from '../src/workers/pool.js'
import { closeAfterwards } from './closing.js'
import { codeOf } from './harness.js'
import { launch13 } from './harness-13.js'
import { startScoring, type Scoring } from './scoring-13.js'

let at: Scoring
beforeAll(async () => {
  at = await startScoring()
})
const bring = (body: object) =>
  at.academy.admin.client.call('importRoster', { body: { fileName: 'roster', apply: true, ...body } })
const members = async (course: string) => {
  const { items } = await at.academy.admin.client.call('listMembers', { params: { course }, query: { limit: 200 } })
  return Object.fromEntries(
    items.filter((one) => one.role !== 'test_learner').map((one) => [one.person.username, `${one.role} ${one.state}`]),
  )
}
const zip = (files: Record<string, string>) =>
  Buffer.from(
    zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [`export/${name}`, strToU8(text)]))),
  ).toString('base64')
const manifest = (mode: 'bulk' | 'delta') =>
  `propertyName,value\nmanifest.version,1.0\noneroster.version,1.2\nfile.users,${mode}\nfile.classes,${mode}\nfile.enrollments,${mode}\n`
const users = (rows: string[]) =>
  `sourcedId,status,dateLastModified,enabledUser,username,givenName,familyName,email\n${rows.join('\n')}\n`
const classes = 'sourcedId,status,dateLastModified,title,classCode\nnav-1,,,Coastal Navigation,NAV 120\n'
const enrolments = (rows: string[]) =>
  `sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role\n${rows.join('\n')}\n`

describe('a table of people', () => {
  it('makes, changes and enrols, and says first what it would do', async () => {
    const table =
      'User name,Name,E-mail,Role\naino,Aino Renamed,,\nzoé.k,"Kystad, Zoé",zoe@skerrow.example,teaching assistant\n,Nobody,,\nvic,Vic Void,,captain'
    const asked = await bring({ table, course: 'HYD-210', apply: false })
    expect(asked).toMatchObject({ applied: false, peopleMade: 1, peopleChanged: 1, added: 1, unchanged: 1 })
    expect(asked.problems.map((one) => [one.line, one.message])).toEqual([
      [4, 'says nobody'],
      [5, 'has the role “captain”'],
    ])
    expect((await members('HYD-210'))['zoé.k']).toBeUndefined()
    expect(await bring({ table, course: 'HYD-210' })).toMatchObject({ applied: true, peopleMade: 1, added: 1 })
    expect((await members('HYD-210'))['zoé.k']).toBe('teaching_assistant active')
    const again = await bring({ table, course: 'HYD-210' })
    expect(again).toMatchObject({ peopleMade: 0, peopleChanged: 0, added: 0, returned: 0, dropped: 0, unchanged: 2 })
    const [aino] = await at.academy.query<{ sourced_id: string | null }>(
      `select sourced_id from person where username = 'aino'`,
    )
    expect(aino!.sourced_id).toBeNull()
  })

  it('drops and takes back by state', async () => {
    await bring({ table: 'username,course,state\nbo,HYD 210,dropped' })
    expect((await members('HYD-210'))['bo']).toBe('learner dropped')
    expect(await bring({ table: 'username,course,state\nbo,HYD 210,active' })).toMatchObject({ returned: 1 })
  })
})

describe('OneRoster 1.2', () => {
  const people = [
    'u1,,,true,kari.n,Kari,Nordvik,kari@skerrow.example',
    'u2,,,true,lev.o,Lev,Okaren,',
    'u3,,,true,mia.p,Mia,Palsund,',
  ]
  it('whole: makes the course, enrols, and drops who is not named any more, but not who was put in by hand', async () => {
    const first = zip({
      'manifest.csv': manifest('bulk'),
      'users.csv': users(people),
      'classes.csv': classes,
      'enrollments.csv': enrolments([
        'e1,,,nav-1,s,u1,student',
        'e2,,,nav-1,s,u2,student',
        'e3,,,nav-1,s,u3,teacher',
        'e4,,,nav-1,s,u3,guardian',
        'e5,,,gone-9,s,u1,student',
      ]),
    })
    const done = await bring({ zip: first })
    expect(done).toMatchObject({ whole: true, peopleMade: 3, coursesMade: 1, added: 3 })
    expect(done.problems).toEqual([{ file: 'enrollments', line: 0, message: 'the class gone-9 is not known' }])
    expect(await members('NAV-120')).toEqual({
      'kari.n': 'learner active',
      'lev.o': 'learner active',
      'mia.p': 'instructor active',
    })
    await at.academy.admin.client.call('enrol', {
      params: { course: 'NAV-120' },
      body: { person: 'cyd', role: 'learner' },
    })
    const second = zip({
      'manifest.csv': manifest('bulk'),
      'users.csv': users(people),
      'classes.csv': classes,
      'enrollments.csv': enrolments(['e1,,,nav-1,s,u1,student', 'e3,,,nav-1,s,u3,teacher']),
    })
    expect(await bring({ zip: second })).toMatchObject({ dropped: 1, added: 0, peopleMade: 0, peopleChanged: 0 })
    expect(await members('NAV-120')).toMatchObject({ 'lev.o': 'learner dropped', cyd: 'learner active' })
  })

  it('delta: only what is named changes', async () => {
    const delta = zip({
      'manifest.csv': manifest('delta'),
      'users.csv': users(['u1,,,true,kari.n,Kari Anne,Nordvik,']),
      'classes.csv': classes,
      'enrollments.csv': enrolments([
        'e2,active,,nav-1,s,u2,student',
        'e1,tobedeleted,,nav-1,s,u1,student',
        'e9,,,nav-1,s,u9,student',
      ]),
    })
    const done = await bring({ zip: delta })
    expect(done).toMatchObject({ whole: false, peopleChanged: 1, returned: 1, dropped: 1 })
    expect(done.problems).toEqual([{ file: 'enrollments', line: 0, message: 'u9 is nobody here' }])
    expect(await members('NAV-120')).toMatchObject({
      'kari.n': 'learner dropped',
      'lev.o': 'learner active',
      'mia.p': 'instructor active',
    })
  })

  it('who is named twice in a class has one place: being there counts, and so does the role that comes first', async () => {
    const twice = zip({
      'manifest.csv': manifest('delta'),
      'users.csv': users(people),
      'classes.csv': classes,
      'enrollments.csv': enrolments([
        'e1,tobedeleted,,nav-1,s,u1,student',
        'e1b,,,nav-1,s,u1,student',
        'e2,,,nav-1,s,u2,aide',
        'e2b,,,nav-1,s,u2,student',
        'e3,tobedeleted,,nav-1,s,u3,teacher',
        'e3b,tobedeleted,,nav-1,s,u3,student',
      ]),
    })
    expect(await bring({ zip: twice })).toMatchObject({ added: 0, returned: 1, dropped: 1, unchanged: 1, problems: [] })
    expect(await members('NAV-120')).toMatchObject({
      'kari.n': 'learner active',
      'lev.o': 'learner active',
      'mia.p': 'instructor dropped',
    })
  })

  it('two of the same at once do the work once', async () => {
    const file = zip({
      'manifest.csv': manifest('bulk'),
      'users.csv': users(['v1,,,true,ole.q,Ole,Quist,', 'v2,,,true,pia.r,Pia,Rask,']),
      'classes.csv': 'sourcedId,status,dateLastModified,title,classCode\nnav-2,,,Night Pilotage,NAV 130\n',
      'enrollments.csv': enrolments(['f1,,,nav-2,s,v1,student', 'f2,,,nav-2,s,v2,teacher']),
    })
    const both = await Promise.all([bring({ zip: file }), bring({ zip: file })])
    expect(both.map((one) => one.added).sort()).toEqual([0, 2])
    expect(both.map((one) => one.peopleMade).sort()).toEqual([0, 2])
    expect(both.map((one) => one.unchanged).sort()).toEqual([0, 2])
    expect(await members('NAV-130')).toEqual({ 'ole.q': 'learner active', 'pia.r': 'instructor active' })
  })

  it.each([
    ['roster.archive', { zip: Buffer.from('no archive').toString('base64') }],
    ['roster.file_missing', { zip: zip({ 'users.csv': '' }) }],
    ['roster.file_missing', { zip: zip({ 'manifest.csv': manifest('bulk') }) }],
    ['roster.version', { zip: zip({ 'manifest.csv': 'propertyName,value\noneroster.version,2.0\n' }) }],
    ['roster.person_columns', { table: 'color,role\nred,learner' }],
    ['table.quotes', { table: 'username,name\naino,"x' }],
    ['roster.nothing', {}],
  ])('%s is said, and nothing is changed', async (code, body) => {
    const before = await at.academy.query(`select count(*) from person`)
    expect(await codeOf(bring(body))).toBe(code)
    expect(await at.academy.query(`select count(*) from person`)).toEqual(before)
  })

  it('an archive that unfolds to more than a roster is refused before it does', async () => {
    const bomb = archiveOf('manifest.csv', deflateRawSync(Buffer.alloc(70_000_000)), 70_000_000)
    expect(bomb.length).toBeLessThan(200_000)
    expect(await codeOf(bring({ zip: bomb }))).toBe('table.too_large')
  })

  it('one that says it is small and unfolds for seconds is given up, and the next is read', async () => {
    const workers = createWorkers()
    closeAfterwards(() => workers.close())
    const lying = archiveOf('manifest.csv', zeros(650), 10)
    expect(lying.length).toBeLessThan(6_000_000)
    await expect(workers.readRoster({ zip: lying }, 1000)).rejects.toMatchObject({
      code: 'roster.archive',
      detail: 'it is not unfolded and read after 1 seconds',
    })
    expect(await workers.readRoster({ table: 'username,name\naino,Aino Testmann' })).toMatchObject({
      people: [{ username: 'aino' }],
    })
  })

  it('is for administrators', async () => {
    expect(await codeOf(at.tomas.client.call('importRoster', { body: { fileName: 'x', table: 'username\nx' } }))).toBe(
      'access.denied',
    )
  })
})

describe('adds and drops', () => {
  it('have their effect on launches and services, and what each tool knows is shown', async () => {
    const column = await at.make('Known by')
    await launch13(at.aino, column, at.client)
    await at.score(column, 'bo', 10)
    const known = async () =>
      (await at.tomas.client.call('listToolRosters', { params: { course: 'HYD-210' } })).items[0]!
    expect(await known()).toMatchObject({ readAt: null, launched: 1, scored: 1, unheard: [{ username: 'cyd' }] })
    // What others have open at that moment on the same server leaves a change to the next reading.
    await eventually(async () => {
      await at.call('GET', 'memberships')
      expect((await known()).unheard).toEqual([])
    })
    await bring({ table: 'username,course,state\nbo,HYD 210,dropped' })
    expect((await known()).keeps).toMatchObject([{ username: 'bo' }])
    expect(await at.score(column, 'bo', 11)).toBe(400)
    // What others have open at that moment on the same server leaves a change to the next reading.
    await eventually(async () => {
      await at.call('GET', 'memberships')
      expect((await known()).keeps).toEqual([])
    })
  })
})

/** An archive of one file, and what it says of its size (APPNOTE 4.3). @param content as deflate wrote it @param stated bytes @returns base64 */
function archiveOf(name: string, content: Buffer, stated: number): string {
  // Versions, flags, method 8, time, checksum, sizes, length of the name.
  const facts = Buffer.alloc(26)
  facts.writeUInt16LE(20, 0)
  facts.writeUInt16LE(8, 4)
  facts.writeUInt32LE(content.length, 14)
  facts.writeUInt32LE(stated, 18)
  facts.writeUInt16LE(name.length, 22)
  const signature = (text: string) => Buffer.from(`PK${text}`, 'latin1')
  const file = Buffer.concat([signature('\x03\x04'), facts, Buffer.from(name), content])
  const listed = Buffer.concat([
    signature('\x01\x02'),
    Buffer.from([20, 0]),
    facts,
    Buffer.alloc(14),
    Buffer.from(name),
  ])
  const end = Buffer.alloc(18)
  end.writeUInt16LE(1, 4)
  end.writeUInt16LE(1, 6)
  end.writeUInt32LE(listed.length, 8)
  end.writeUInt32LE(file.length, 12)
  return Buffer.concat([file, listed, signature('\x05\x06'), end]).toString('base64')
}

/** Zeros as deflate writes them (RFC 1951 3.2.6, fixed codes): one zero, then “258 bytes like the last one” in 13 bits each, eight of which fill 13 bytes. */
function zeros(megabytes: number): Buffer {
  const again = '1100010100000'
  const begun = `110${'00110000'}${again.repeat(9)}`
  const bytes = (bits: string) =>
    Buffer.from((bits.match(/.{1,8}/g) ?? []).map((eight) => parseInt([...eight].reverse().join(''), 2)))
  const times = Math.ceil((megabytes * 1_048_576) / 258 / 8)
  const period = bytes(begun.slice(16, 16 + 8 * 13))
  // What is left of the last one, and the end of the block.
  const last = bytes(`${again.slice(5)}0000000`)
  return Buffer.concat([bytes(begun.slice(0, 16)), Buffer.alloc(times * period.length, period), last])
}
