import { beforeAll, describe, expect, it } from 'vitest'
import {
  codeOf,
  openForm,
  PASSWORD,
  publishDrill,
  registerKnotwork,
  sendScore,
  startAcademy,
  type TestAcademy,
  type Visitor,
} from './harness.js'
import { KEPT, LEFT_OUT } from '../src/records/person-data.js'

let academy: TestAcademy
let assignment: string
let niamh: Visitor
let subject: string
const call = () => academy.admin.client
const remove = (person: string, username = person) =>
  codeOf(call().call('removePerson', { params: { person }, body: { username } }))
const data = (person: string) => call().call('showPersonData', { params: { person } })

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  assignment = (await publishDrill(academy, 'knotwork-drills')).id
  for (const name of ['niamh', 'oren']) await academy.person(name, { 'HYD-210': 'learner' })
  niamh = await academy.signIn('niamh')
  await niamh.client.call('createToken', { body: { name: 'of niamh', scopes: ['read'], expiresInDays: 1 } })
  await academy
    .visitor()
    .client.call('signIn', { body: { username: 'niamh', password: 'guessed' } })
    .catch(() => null)
  for (const who of [niamh, await academy.signIn('oren')]) {
    const { fields } = await openForm(who, assignment)
    if (who === niamh) subject = fields['user_id']!
    await sendScore(academy, fields['lis_result_sourcedid']!, '0.5')
  }
})

/** Columns of every table, in the parts that hold rows of their own. */
const columns = () =>
  academy.query<{ table: string; column: string; type: string }>(
    `select c.table_name as "table", c.column_name as "column", c.data_type as "type" from information_schema.columns c
     join pg_class p on p.relname = c.table_name and p.relkind in ('r', 'p') and not p.relispartition
     join pg_namespace n on n.oid = p.relnamespace and n.nspname = c.table_schema where c.table_schema = current_schema()`,
  )

/** Where something found names whom it was found with, in its facts. */
const FOUND = ['sounding_finding', 'launch_evidence']

/** A sounding that a learner went along with, and that was refused. */
async function soundedAs(pilot: string, who: string) {
  const facts = { who, said: 'The tool answered 401.', wrong: null, code: null }
  const said = { check: 'taken', code: 'refused', facts }
  await academy.query(
    `insert into sounding (id, assignment_id, state, verdict, headline, started_at, ended_at, depth, follower, wait_minutes, pilot_id)
     values ('piloted', $1, 'done', 'fail', $2, now(), now(), 'deep', 'http', 0, $3)`,
    [assignment, said, pilot],
  )
  await academy.query(
    `insert into sounding_finding (sounding_id, position, stage, check_name, code, verdict, facts, duration_ms)
     values ('piloted', 0, 'launch_test_learner', 'taken', 'refused', 'fail', $1, 5)`,
    [facts],
  )
  await academy.query(
    `insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id, said) values ($1, 'failure', now(), 'sounding', 'piloted', $2)`,
    [assignment, said],
  )
}

describe('all that is kept of a person', () => {
  it('comes from every column that names people, and holds no secret nor a fingerprint of one', async () => {
    const named = (await columns()).filter((one) => /^(by_)?person_id$|^pilot_id$|^account$/.test(one.column))
    expect(named.length).toBeGreaterThan(25)
    expect(named.map((one) => `${one.table}.${one.column}`).sort()).toEqual(
      KEPT.filter(([, , column]) => column !== 'id')
        .map(([, table, column]) => `${table}.${column}`)
        .sort(),
    )
    const tables = new Set<string>(KEPT.map(([, table]) => table))
    for (const { table, column, type } of await columns())
      if (tables.has(table) && (type === 'bytea' || /hash|secret|sealed/.test(column)))
        expect(LEFT_OUT).toContain(column)
  })

  it('is handed out with what was done and sent, of nobody else; that it was stands in the audit', async () => {
    const { person, kinds } = await data('niamh')
    expect(person.username).toBe('niamh')
    const of = (kind: string) => kinds.find((one) => one.kind === kind)!.rows
    expect(of('account')).toMatchObject([{ username: 'niamh', email: 'niamh@skerrow.example', subject }])
    expect(of('API tokens')).toMatchObject([{ name: 'of niamh' }])
    expect(of('wrong passwords')).toHaveLength(1)
    expect(of('courses')).toMatchObject([{ role: 'learner', state: 'active' }])
    expect(of('visits')).toMatchObject([{ assignment_id: assignment, launches: 1 }])
    expect(of('results')).toMatchObject([{ points: 50 }])
    expect(of('scores')).toMatchObject([{ outcome: 'accepted', sent: '0.5' }])
    expect(of('messages').length).toBeGreaterThan(1)
    const all = JSON.stringify(kinds)
    expect(all).not.toMatch(/argon2|\\\\x[0-9a-f]{8}/)
    expect(all).not.toContain('oren')
    expect(kinds.every((one) => !one.more)).toBe(true)
    const [newest] = (await call().call('listAudit', { query: { limit: 1 } })).items
    expect(newest).toMatchObject({ action: 'hand out data', subject: 'person niamh', person: { username: 'ingrid' } })
    expect(await codeOf(data('nobody'))).toBe('person.not_found')
  })
})

describe('removing a person', () => {
  it('is refused while the account is open, by another name, and for a test learner', async () => {
    expect(await remove('niamh')).toBe('person.open')
    expect(await remove('niamh', 'oren')).toBe('person.other_name')
    expect(await remove('nobody')).toBe('person.not_found')
    const [test] = await academy.query<{ username: string }>('select username from person where is_test_learner')
    expect(await remove(test!.username)).toBe('person.of_course')
    expect(await academy.query(`select 1 from audit_entry where action = 'remove person'`)).toEqual([])
    expect((await data('niamh')).kinds.find((one) => one.kind === 'sessions')!.rows).toHaveLength(1)
  })

  it('twice at once is done once; nothing but the audit tells then who it was, and results stay', async () => {
    await call().call('changePerson', { params: { person: 'niamh' }, body: { closed: true } })
    const { id, fullName } = await call().call('showPerson', { params: { person: 'niamh' } })
    await soundedAs(id, fullName)
    const codes = await Promise.all([remove('niamh'), remove('niamh')])
    expect(codes.sort()).toEqual(['person.not_found', undefined])
    const telling: string[] = []
    for (const table of new Set([...(await columns()).map((one) => one.table), ...FOUND])) {
      const found = await academy.query(`select 1 from ${table} t where to_jsonb(t)::text ~* $1 limit 1`, [
        `niamh|${subject}`,
      ])
      if (found.length > 0) telling.push(table)
    }
    expect(telling).toEqual(['audit_entry'])
    const { findings, cause } = await call().call('showSounding', { params: { id: 'piloted' } })
    expect(findings[0]!.statement).toBe('Launched as somebody. The tool answered 401.')
    expect(cause).toBe('The tool answered 401.')
    expect(await academy.query('select points from result where person_id = $1', [id])).toEqual([{ points: '50' }])
    expect(await call().call('showPerson', { params: { person: id } })).toMatchObject({
      username: `removed-${id}`, fullName: 'Removed person', email: null, sourcedId: null, hasPassword: false, closed: true,
    }) // oxfmt-ignore
    expect((await niamh.send('/api/session')).status).toBe(401)
  })

  it('leaves the name free: who comes under it later is somebody else, to us and to tools', async () => {
    const id = await academy.person('niamh', { 'HYD-210': 'learner' })
    expect(await academy.query('select 1 from result where person_id = $1', [id])).toEqual([])
    const again = academy.visitor()
    await again.client.call('signIn', { body: { username: 'niamh', password: PASSWORD } })
    const { fields } = await openForm(again, assignment)
    expect(fields['user_id']).not.toBe(subject)
    const trail = await call().call('showTrail', { params: { assignment, person: 'oren' }, query: { limit: 5 } })
    expect(trail.cell.points).toBe('50')
  })
})
