import {
  lineItemJson,
  readOneRoster,
  readRosterTable,
  resultFiles,
  resultJson,
  type LineItemFacts,
  type ResultFacts,
  type Roster,
} from '@bathyscribe/core/oneroster'
import fc from 'fast-check'
import Papa from 'papaparse'
import { describe, expect, it } from 'vitest'

const MANIFEST = (mode = 'bulk', version = '1.2') =>
  `propertyName,value\noneroster.version,${version}\nfile.users,${mode}\nfile.classes,${mode}\nfile.enrollments,${mode}\n`
const FILES = {
  'manifest.csv': MANIFEST(),
  'users.csv':
    'sourcedId,status,enabledUser,username,givenName,familyName,email\nu1,,true,kari.n,Kari,Nordvik,kari@skerrow.example\nu2,,true,,Lev,Okaren,lev.o@skerrow.example\n',
  'classes.csv': 'sourcedId,status,title,classCode\nc1,,Coastal Navigation,NAV 120\n',
  'enrollments.csv': 'sourcedId,status,classSourcedId,userSourcedId,role\ne1,,c1,u1,student\ne2,,c1,u2,teacher\n',
}
const read = (files: Partial<Record<keyof typeof FILES | 'academicSessions.csv', string>>) => {
  const roster = readOneRoster({ ...FILES, ...files })
  if ('code' in roster) throw new Error(roster.code)
  return roster
}
const row = (file: keyof typeof FILES, text: string) => read({ [file]: `${FILES[file]}${text}\n` })

describe('a OneRoster archive', () => {
  it('names people, classes and places', () => {
    expect(read({})).toEqual({
      people: [
        { key: 'u1', sourcedId: 'u1', stated: 'kari.n', username: 'kari.n', exact: true, givenName: 'Kari', familyName: 'Nordvik', email: 'kari@skerrow.example' },
        { key: 'u2', sourcedId: 'u2', stated: 'lev.o@skerrow.example', username: 'lev.o', exact: false, givenName: 'Lev', familyName: 'Okaren', email: 'lev.o@skerrow.example' },
      ],
      classes: [{ sourcedId: 'c1', title: 'Coastal Navigation', code: 'NAV 120', term: null }],
      enrolments: [
        { person: 'u1', class: 'c1', role: 'learner', active: true },
        { person: 'u2', class: 'c1', role: 'instructor', active: true },
      ],
      whole: true,
      problems: [],
    } satisfies Roster) // oxfmt-ignore
  })

  it.each([
    ['student', 'learner'],
    ['Teacher', 'instructor'],
    ['aide', 'teaching_assistant'],
  ])('has for a %s the place of a %s', (role, place) => {
    expect(row('enrollments.csv', `e9,,c1,u1,${role}`).enrolments.at(-1)).toMatchObject({ role: place })
  })

  it.each(['proctor', 'guardian', 'administrator'])(
    'leaves out a %s, who works in no course, without a word',
    (role) => {
      const { enrolments, problems } = row('enrollments.csv', `e9,,c1,u1,${role}`)
      expect([enrolments.length, problems]).toEqual([2, []])
    },
  )

  it.each([
    ['enrollments.csv', 'e9,,c1,u1,captain', 'has the role “captain”'],
    ['enrollments.csv', 'e9,,,u1,student', 'names no user or no class'],
    ['users.csv', ',,true,x,X,Y,', 'has no sourcedId'],
    ['users.csv', 'u9,,true,x,,,', 'has no name'],
    ['classes.csv', 'c9,,,', 'has no sourcedId or no title'],
  ] as const)('%s: “%s” is left out, and said by its line', (file, text, message) => {
    const problems = [{ file, line: FILES[file].split('\n').length, message }]
    expect(row(file, text)).toEqual({ ...read({}), problems })
  })

  it('leaves out who is to be deleted or disabled, and drops enrolments that are', () => {
    expect(row('users.csv', 'u9,tobedeleted,true,x,X,Y,').people).toHaveLength(2)
    expect(row('users.csv', 'u9,,false,x,X,Y,').people).toHaveLength(2)
    expect(row('classes.csv', 'c9,tobedeleted,Gone,').classes).toHaveLength(1)
    expect(row('enrollments.csv', 'e9,tobedeleted,c1,u2,student').enrolments.at(-1)).toMatchObject({ active: false })
  })

  it('is read with its columns in any order, other separators, byte order marks, and files that are absent', () => {
    const turned = 'title;classCode;sourcedId\nCoastal Navigation;NAV 120;c1\n'
    expect(read({ 'classes.csv': `\ufeff${turned}` }).classes).toEqual(read({}).classes)
    const absent = read({ 'manifest.csv': MANIFEST().replace('file.users,bulk', 'file.users,absent'), 'users.csv': 'not,read\n' }) // oxfmt-ignore
    expect(absent.people).toEqual([])
    expect(read({ 'manifest.csv': MANIFEST('delta') }).whole).toBe(false)
    expect(read({ 'manifest.csv': MANIFEST('bulk', '1.1') }).people).toHaveLength(2)
    expect(read({ 'enrollments.csv': '' }).enrolments).toEqual([])
  })

  it('says when a class is by the first of its terms that is described, days that are none left out', () => {
    const terms = (rows: string, of: string) =>
      read({
        'academicSessions.csv': `sourcedId,status,title,startDate,endDate\n${rows}\n`,
        'classes.csv': `sourcedId,title,termSourcedIds\nc1,Buoys,"${of}"\n`,
      }).classes[0]!.term
    const autumn = { title: 'Autumn 2026', firstDay: '2026-08-17', lastDay: '2026-12-18' }
    const rows = 't1,,Autumn 2026,2026-08-17,2026-12-18\nt2,tobedeleted,Gone,,\nt3,,Odd,17.8.2026,soon'
    expect(terms(rows, 't1')).toEqual(autumn)
    expect(terms(rows, 't9, t2 ,t1')).toEqual(autumn)
    expect(terms(rows, 't3')).toEqual({ title: 'Odd', firstDay: '', lastDay: '' })
    expect(terms(rows, 't2')).toBeNull()
    expect(terms(rows, '')).toBeNull()
    expect(readOneRoster({ ...FILES, 'academicSessions.csv': 'a,"b' })).toMatchObject({ code: 'table.quotes' })
  })

  it.each([
    [{ 'manifest.csv': MANIFEST('bulk', '2.0') }, 'roster.version'],
    [{ 'manifest.csv': '' }, 'roster.version'],
    [{ 'users.csv': undefined as never }, 'roster.file_missing'],
    [{ 'users.csv': 'sourcedId,username\nu1,"open' }, 'table.quotes'],
    [{ 'classes.csv': 'title,title\na,b' }, 'table.column_twice'],
  ])('%j is refused by %s', (files, code) => {
    expect(readOneRoster({ ...FILES, ...files })).toMatchObject({ code })
  })

  it('is a roster or a refusal whatever its files hold, never an exception', () => {
    const cell = fc.oneof(
      fc.string(),
      fc.constantFrom('u1', 'c1', 'student', 'tobedeleted', '"', '', '__proto__', '=1+1'),
    )
    const text = fc
      .tuple(fc.constantFrom(...Object.values(FILES)), fc.array(fc.array(cell, { maxLength: 8 }), { maxLength: 5 }))
      .map(([head, rows]) => head + rows.map((cells) => cells.join(',')).join('\n'))
    fc.assert(
      fc.property(fc.constantFrom(...(Object.keys(FILES) as (keyof typeof FILES)[])), text, (file, given) => {
        const roster = readOneRoster({ ...FILES, [file]: given })
        if ('code' in roster) {
          expect(roster.code).toMatch(/^(roster|table)\./)
          return
        }
        for (const { username } of roster.people)
          expect(username).toMatch(/^[\p{Ll}\p{Lo}\p{N}][\p{Ll}\p{Lo}\p{Lm}\p{M}\p{N}._-]{1,62}$/u)
        for (const { person, class: place } of roster.enrolments) expect(person && place).toBeTruthy()
      }),
    )
  })
})

describe('a table of people', () => {
  const table = (text: string, course?: string) => {
    const roster = readRosterTable(text, course)
    if ('code' in roster) throw new Error(roster.code)
    return roster
  }

  it.each([
    ['User name,Name\nkari.n,Kari Nordvik', ['kari.n', 'Kari', 'Nordvik']],
    ['username,name\nkari.n,"Nordvik, Kari"', ['kari.n', 'Kari', 'Nordvik']],
    ['E-mail,Given name,Family name\nKari.N@skerrow.example,Kari,Nordvik', ['kari.n', 'Kari', 'Nordvik']],
    ['username,name\nzoé,Zoé', ['zoé', '', 'Zoé']],
    ['username,name\nДАРЬЯ,Дарья Рыбакова', ['дарья', 'Дарья', 'Рыбакова']],
    ['username,name\n李,李', ['李-1', '', '李']],
    ['username,name\n--,Dash', ['person-1', '', 'Dash']],
    ['username;name\nkari n;Kari van Nordvik', ['kari-n', 'Kari van', 'Nordvik']],
  ])('%j is %j', (text, [username, givenName, familyName]) => {
    expect(table(text).people).toMatchObject([{ username, givenName, familyName }])
  })

  it('puts people into the course of their line, else into the one that is asked for, and says who is dropped', () => {
    const { enrolments, classes, whole } = table(
      'username,course,role,state\na1,NAV 120,teacher,\na1,,,dropped\nb2,,teaching assistant,left',
      'HYD-210',
    )
    expect(enrolments).toEqual([
      { person: 'a1', class: 'NAV 120', role: 'instructor', active: true },
      { person: 'a1', class: 'HYD-210', role: 'learner', active: false },
      { person: 'b2', class: 'HYD-210', role: 'teaching_assistant', active: false },
    ])
    expect(classes.map((one) => one.code)).toEqual(['NAV 120', 'HYD-210'])
    expect(whole).toBe(false)
    expect(table('username\na1').enrolments).toEqual([])
  })

  it('says which lines name nobody or no role', () => {
    expect(table('username,role\n,learner\na1,captain').problems).toEqual([
      { file: 'table', line: 2, message: 'says nobody' },
      { file: 'table', line: 3, message: 'has the role “captain”' },
    ])
  })
})

const column: LineItemFacts = {
  id: 'l1',
  title: 'Reading the echo trace',
  points: '50',
  dueAt: '2026-12-01T22:59:00.000Z',
  changedAt: '2026-11-01T08:00:00.000Z',
  category: { id: 'k1', title: 'Drills', weight: '40' },
  classId: 'c1',
}
const result: ResultFacts = {
  id: 'r1',
  lineItemId: 'l1',
  studentId: 'u1',
  points: '33.3333333333',
  exempt: false,
  comment: 'Check the “datum”, please; it is\noff.',
  at: '2026-11-20T10:11:12.000Z',
}

describe('results that go on', () => {
  const rowsOf = (text: string) => Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true }).data

  it('stand in files as another reader of CSV finds them', () => {
    const files = resultFiles([column], [result, { ...result, id: 'r2', exempt: true }, { ...result, id: 'r3', points: null }], 'Skerrow') // oxfmt-ignore
    const manifest = Object.fromEntries(
      rowsOf(files['manifest.csv']!).map((one) => [one['propertyName'], one['value']]),
    )
    expect(manifest).toMatchObject({ 'oneroster.version': '1.2', 'file.results': 'bulk', 'file.users': 'absent' })
    expect(rowsOf(files['lineItems.csv']!)).toMatchObject([
      { sourcedId: 'l1', title: column.title, resultValueMax: '50', dueDate: '2026-12-01', categorySourcedId: 'k1', classSourcedId: 'c1' },
    ]) // oxfmt-ignore
    expect(rowsOf(files['categories.csv']!)).toMatchObject([{ sourcedId: 'k1', title: 'Drills', weight: '40' }])
    expect(rowsOf(files['results.csv']!)).toMatchObject([
      { sourcedId: 'r1', score: '33.333333', scoreStatus: 'fully graded', scoreDate: '2026-11-20', comment: result.comment },
      { sourcedId: 'r2', score: '', scoreStatus: 'exempt' },
      { sourcedId: 'r3', score: '', scoreStatus: 'not submitted' },
    ]) // oxfmt-ignore
    for (const [name, text] of Object.entries(files)) {
      const there = name === 'manifest.csv' || manifest[`file.${name.replace('.csv', '')}`] === 'bulk'
      expect([name, there, rowsOf(text).length > 0]).toEqual([name, true, true])
    }
  })

  it('say the same in JSON', () => {
    expect(resultJson(result)).toMatchObject({ score: 33.333333, scoreStatus: 'fully graded', comment: result.comment })
    expect(resultJson({ ...result, exempt: true })).not.toHaveProperty('score')
    expect(resultJson({ ...result, points: null, comment: null })).not.toHaveProperty('comment')
    expect(lineItemJson(column)).toMatchObject({ resultValueMin: 0, resultValueMax: 50, dueDate: column.dueAt })
    expect(lineItemJson({ ...column, dueAt: null, category: null })).toMatchObject({ dueDate: column.changedAt })
  })

  it('come back as they were whatever titles and comments hold, and run in no spreadsheet', () => {
    const words = fc
      .string({ minLength: 1, maxLength: 60 })
      .filter((text) => text.trim() === text && !text.includes('\r'))
    fc.assert(
      fc.property(words, words, (title, comment) => {
        const files = resultFiles([{ ...column, title }], [{ ...result, comment }], 'Skerrow')
        const [line] = rowsOf(files['lineItems.csv']!)
        const [kept] = rowsOf(files['results.csv']!)
        for (const [was, is] of [[title, line!['title']!], [comment, kept!['comment']!]] as const) {
          expect([was, `'${was}`]).toContain(is)
          expect(is).not.toMatch(/^[=@]/)
        }
      }),
    ) // oxfmt-ignore
  })
})
