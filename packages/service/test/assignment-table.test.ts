import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  registerKnotwork,
  sendScore,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'

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

const HEAD = 'key,title,tool,points,category,unit,due,custom.drill,publish'
const thirty = Array.from(
  { length: 30 },
  (_, i) =>
    `w${i},Drill ${i + 1},knotwork-drills,${10 + i},Drills,Week ${Math.floor(i / 10) + 1},2026-12-${String((i % 28) + 1).padStart(2, '0')},bends${i},yes`,
)
const table = [HEAD, ...thirty].join('\n')
const make = (text: string, more = {}) =>
  tomas.client.call('makeTable', { params: course, body: { table: text, ...more } })
const check = (text: string, more = {}) =>
  tomas.client.call('checkTable', { params: course, body: { table: text, ...more } })
const list = async () => (await tomas.client.call('listAssignments', { params: course })).items

describe('a table of assignments', () => {
  it('is checked without making anything, made in one go, and made twice is there once', async () => {
    expect(await check(table)).toMatchObject({ makes: 30, refuses: 0, done: false })
    expect(await list()).toEqual([])
    expect(await make(table)).toMatchObject({ makes: 30, done: true })
    const titles = Array.from({ length: 30 }, (_, i) => `Drill ${i + 1}`)
    expect((await list()).map((one) => one.title)).toEqual(titles)
    const { columns } = await tomas.client.call('showGradebook', { params: course })
    expect(columns.map((one) => one.title)).toEqual(titles)
    expect(await make(table)).toMatchObject({ makes: 0, keeps: 30, changes: 0, done: true })
    expect(await list()).toHaveLength(30)
    const outline = await tomas.client.call('showOutline', { params: course })
    expect(outline.units.map((unit) => [unit.title, unit.items.length])).toEqual([
      ['Week 1', 10],
      ['Week 2', 10],
      ['Week 3', 10],
    ])
  })

  it('changes dates and points of what is there, and leaves alone what it does not name', async () => {
    const changed = await make('key,points,due\nw0,99,2027-01-05\nw1,11,2026-12-02')
    expect(changed.rows.map((row) => [row.act, row.changes.map((one) => one.field)])).toEqual([
      ['change', ['points', 'dueAt']],
      ['keep', []],
    ])
    const first = (await list()).find((one) => one.rowKey === 'w0')!
    expect(first).toMatchObject({
      title: 'Drill 1',
      points: '99',
      dueAt: '2027-01-05T23:59:00.000Z',
      customParameters: { drill: 'bends0' },
      category: { name: 'Drills' },
    })
  })

  it('computes standing results anew when it changes points, and says the groups that it changes', async () => {
    const one = (await list()).find((each) => each.rowKey === 'w2')!
    const { fields } = await openForm(aino, one.id)
    await sendScore(academy, fields['lis_result_sourcedid']!, '0.5')
    const standing = async () => (await aino.client.call('showWork', { params: { assignment: one.id } })).result?.points
    expect(await standing()).toBe('6')
    await tomas.client.call('addGroupSet', {
      params: course,
      body: { name: 'Watches', table: 'group,person\nRed,aino' },
    })
    const text = 'key,points,groups\nw2,40,Red\nw3,13,Red'
    const changes = (await make(text)).rows.map((row) => [row.act, row.changes])
    const groups = { field: 'groups', now: 'everyone', wanted: 'Watches: Red' }
    expect(changes).toEqual([
      ['change', [{ field: 'points', now: '12', wanted: '40' }, groups]],
      ['change', [groups]],
    ])
    expect(await standing()).toBe('20')
    expect((await tomas.client.call('showAssignment', { params: { assignment: one.id } })).audience).toMatchObject({
      groups: [{ name: 'Watches: Red' }],
      reached: 1,
    })
    expect(await make(text)).toMatchObject({ keeps: 2, changes: 0 })
  })

  it('with one wrong row makes none, and says every fault by line and column', async () => {
    const text = `${HEAD}\na,Good,knotwork-drills,5,Drills,,,,\nb,Bad,no-such-tool,ten,Nothing,,soon,,\n,,knotwork-drills,5,,,,,`
    expect(await codeOf(make(text))).toBe('table.rows_wrong')
    expect(await list()).toHaveLength(30)
    const { rows } = await check(text)
    expect(rows.map((row) => row.act)).toEqual(['make', 'refuse', 'refuse'])
    expect(rows[1]!.problems.map((one) => one.column).sort()).toEqual(['category', 'due', 'points', 'tool'])
    const faults = await make(text).catch((error: { problem: { faults: { path: string }[] } }) =>
      error.problem.faults.map((one) => one.path),
    )
    expect(faults).toContain('line 3, tool')
  })

  it('does not publish what preflight finds broken', async () => {
    const { rows } = await check(
      'title,tool,points,counted,publish,opens,due\nX,knotwork-drills,5,yes,yes,2026-12-10,2026-12-01',
    )
    expect(rows[0]).toMatchObject({ act: 'refuse', problems: [{ column: 'dates' }] })
  })

  it('does not publish an address with somebody’s session in it, unless that is said', async () => {
    const row = (publish: string) =>
      `title,tool,points,address,publish\nCopied,knotwork-drills,5,${academy.knotwork}/launch?drill=bends&effectiveUser=anna,${publish}`
    const [row1] = (await check(row('yes'))).rows
    expect(row1).toMatchObject({
      act: 'refuse',
      problems: [{ column: 'address', message: expect.stringContaining('“effectiveUser”') as string }],
    })
    expect(row1!.problems[0]!.message).toContain('Let the address be cleaned')
    expect(await codeOf(make(row('yes')))).toBe('table.rows_wrong')
    // A draft is looked at before it is published; who says so takes it as it stands.
    expect((await check(row('no'))).rows[0]).toMatchObject({ act: 'make', problems: [] })
    expect((await check(row('yes'), { acceptWarnings: true })).rows[0]).toMatchObject({ act: 'make', problems: [] })
    expect((await check(row('no'), { acceptWarnings: false })).rows[0]).toMatchObject({ act: 'refuse' })
  })

  it('two at once make each row once', async () => {
    const text = 'title,tool,points\nTwin A,knotwork-drills,5\nTwin B,knotwork-drills,5'
    const both = await Promise.all([codeOf(make(text)), codeOf(make(text))])
    expect(
      both.filter((one) => one !== undefined && one !== 'assignment.row_taken' && one !== 'assignment.slug_taken'),
    ).toEqual([])
    expect((await list()).filter((one) => one.title.startsWith('Twin'))).toHaveLength(2)
  })

  it('is refused as a whole when it is no table, too long, or from somebody who may not', async () => {
    expect(await codeOf(make('nothing,here\n1,2'))).toBe('table.no_head')
    expect(await codeOf(make(`title\n${'x\n'.repeat(10_000)}`))).toBe('table.too_many_rows')
    const aino = await academy.signIn('aino')
    expect(await codeOf(aino.client.call('makeTable', { params: course, body: { table } }))).toBe('access.denied')
  })

  it('takes as many statements for five hundred rows as for five', async () => {
    const count = async (rows: number, prefix: string) => {
      const text = [
        'title,tool,points,category,unit',
        ...Array.from({ length: rows }, (_, i) => `${prefix} ${i},knotwork-drills,5,Drills,${prefix}`),
      ].join('\n')
      const answer = await make(text)
      expect(answer.makes).toBe(rows)
    }
    const { records } = academy.service.context
    const counted: string[] = []
    const { transaction } = records
    records.transaction = ((work: (inside: typeof records) => Promise<unknown>) =>
      transaction.call(records, async (inside) => {
        const { manager } = inside as unknown as {
          manager: { queryRunner: { query: (sql: string, values?: unknown[]) => Promise<unknown> } }
        }
        const query = manager.queryRunner.query.bind(manager.queryRunner)
        manager.queryRunner.query = (sql, ...rest) => (counted.push(sql), query(sql, ...rest))
        return work(inside)
      })) as never
    await count(5, 'Few')
    const few = counted.length
    counted.length = 0
    await count(500, 'Many')
    records.transaction = transaction
    expect(counted.length).toBeLessThanOrEqual(few + 2)
  })
})
