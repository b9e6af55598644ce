import { beforeAll, describe, expect, it } from 'vitest'
import { PASSWORD, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy()
  for (const name of ['bo', 'cyd']) await academy.person(name, { 'HYD-210': 'learner' })
})
const bring = (body: object) =>
  academy.admin.client.call('importRoster', { body: { fileName: 'roster', apply: true, ...body } })

describe('different people', () => {
  const accounts = (usernames: string[]) =>
    academy.query<{ username: string; full_name: string; email: string | null; roster_name: string | null }>(
      `select username, full_name, email, roster_name from person where username = any($1) order by username`,
      [usernames],
    )
  const inCourse = { course: 'HYD-210' }

  it('stay different whatever script their names are in, within one roster and over several', async () => {
    const first = await bring({ table: 'username;name\nთამარ;Tamar Zghvispireli\n李明;Li Ming', ...inCourse })
    expect(first).toMatchObject({ peopleMade: 2, peopleChanged: 0, added: 2, problems: [] })
    expect(await bring({ table: 'username;name\n王芳;Wang Fang', ...inCourse })).toMatchObject({
      peopleMade: 1,
      peopleChanged: 0,
    })
    expect((await accounts(['თამარ', '李明', '王芳'])).map((one) => one.full_name).sort()).toEqual([
      'Li Ming',
      'Tamar Zghvispireli',
      'Wang Fang',
    ])
    const nobody = await academy.query(`select 1 from person where username ~ '^0+$'`)
    expect(nobody).toEqual([])
  })

  it('stay different where their user names cannot be kept as they are, and are known again the next time', async () => {
    const table = 'username;name\njo o;Jo One\njo-o;Jo Two\njo/o;Jo Three'
    expect(await bring({ table, ...inCourse })).toMatchObject({ peopleMade: 3, added: 3, problems: [] })
    const made = await accounts(['jo-o', 'jo-o-2', 'jo-o-3'])
    expect(made.map(({ username, full_name, roster_name }) => [username, full_name, roster_name])).toEqual([
      ['jo-o', 'Jo Two', 'jo-o'],
      ['jo-o-2', 'Jo One', 'jo o'],
      ['jo-o-3', 'Jo Three', 'jo/o'],
    ])
    const again = await bring({ table: table.replaceAll('Jo ', 'Joanna '), ...inCourse })
    expect(again).toMatchObject({ peopleMade: 0, peopleChanged: 3, added: 0, problems: [] })
    expect((await accounts(['jo-o-2']))[0]!.full_name).toBe('Joanna One')
  })

  it('a user name that was made up here is nobody’s who was here before', async () => {
    await academy.person('kim-lee', { 'HYD-210': 'learner' })
    expect(await bring({ table: 'username;name\nkim lee;Kim Another', ...inCourse })).toMatchObject({
      peopleMade: 1,
      peopleChanged: 0,
    })
    expect((await accounts(['kim-lee', 'kim-lee-2'])).map((one) => one.full_name)).toEqual([
      'Kim-lee Testmann',
      'Kim Another',
    ])
  })

  it('stay different where only the part before the @ of their addresses is the same', async () => {
    const table = 'email;name\nsam@skerrow.example;Sam Near\nsam@elsewhere.example;Sam Far'
    expect(await bring({ table, ...inCourse })).toMatchObject({ peopleMade: 2, problems: [] })
    expect(await bring({ table, ...inCourse })).toMatchObject({ peopleMade: 0, peopleChanged: 0, unchanged: 2 })
    expect((await accounts(['sam', 'sam-2'])).map((one) => one.email).sort()).toEqual([
      'sam@elsewhere.example',
      'sam@skerrow.example',
    ])
  })

  it('are held back for a person to decide where a roster does not tell them apart', async () => {
    await academy.query(`update person set email = 'shared@skerrow.example' where username in ('bo', 'cyd')`)
    const shared = await bring({ table: 'email;name\nShared@skerrow.example;Some Body', ...inCourse })
    expect(shared).toMatchObject({ peopleMade: 0, peopleChanged: 0, added: 0 })
    expect(shared.problems[0]!.message).toContain('several people here have the address')
    // One row by identifier and one by user name, and both are the same account.
    await bring({ table: 'sourcedId;username;name\nid-7;rowan;Rowan Real', ...inCourse })
    const twice = await bring({
      table: 'sourcedId;username;name\nid-7;rowan;Rowan Real\n;rowan;Rowan Other',
      ...inCourse,
    })
    expect(twice.problems.map((one) => one.message).join()).toContain('is the same account as the row id-7')
    expect((await accounts(['rowan']))[0]!.full_name).toBe('Rowan Real')
    const other = await bring({ table: 'sourcedId;username;name\nid-8;rowan;Rowan Stranger', ...inCourse })
    expect(other.problems[0]!.message).toContain('the user name rowan is somebody else’s')
    expect((await accounts(['rowan']))[0]!.full_name).toBe('Rowan Real')
  })

  it('is said by the dry run exactly as it is done', async () => {
    const table = 'username;name\nпётр;Pyotr\nÀlex;Alex One\nàlex;Alex Two'
    const asked = await bring({ table, ...inCourse, apply: false })
    const done = await bring({ table, ...inCourse })
    expect({ ...asked, applied: true }).toEqual(done)
    expect(done).toMatchObject({ peopleMade: 2 })
    expect((await accounts(['пётр', 'àlex'])).length).toBe(2)
  })

  it('a user name in any script signs in, however it is typed', async () => {
    await academy.admin.client.call('createPerson', {
      body: { username: 'ÀLEX.სამ', fullName: 'Alex', password: PASSWORD },
    })
    const visitor = academy.visitor()
    const session = await visitor.client.call('signIn', { body: { username: ' A\u0300lex.სამ ', password: PASSWORD } })
    expect(session.person.username).toBe('àlex.სამ')
  })
})
