import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { fillSite } from '@bathyscribe/yard/academy/large-site'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'
import { questionsOf } from './statements.js'

/** The same course, in a small site and in one four times as large. */
const COURSE = { tools: 4, courses: 12, links: 240, learners: 25, scores: 2, wire: 12_000 }
const MORE = { tools: 12, courses: 36, links: 720, learners: 25, scores: 2, wire: 36_000 }
const LARGE = [
  'score',
  'result',
  'visit',
  'wire_entry',
  'assignment',
  'enrolment',
  'proof_change',
  'launch_evidence',
  'person',
]

let academy: TestAcademy
let database: pg.Client
let bearer: string
let teachers: string
const small: Record<string, Record<string, number>> = {}

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await publishDrill(academy, 'knotwork-drills')
  await academy.person('aino', { 'HYD-210': 'learner' })
  const { databaseUrl, databaseSchema } = academy.service.context.settings
  database = new pg.Client({
    connectionString: databaseUrl, // As for tables that are too large to be walked: then only a missing index does it.
    options: `-c search_path=${databaseSchema} -c jit=off -c enable_seqscan=off -c enable_hashjoin=off -c enable_mergejoin=off`,
  })
  await database.connect()
  ;({ token: bearer } = await academy.admin.client.call('createToken', { body: { name: 'reads', scopes: ['read'] } }))
  await fillSite(database, COURSE)
  await academy.person('tomas', { 'LG-1': 'instructor' })
  ;({ token: teachers } = await (
    await academy.signIn('tomas')
  ).client.call('createToken', {
    body: { name: 'reads', scopes: ['read'] },
  }))
}, 120_000)
afterAll(() => database.end())

const TEACHERS_WATCH = '/api/watch'
const READS = {
  'the list of a course’s assignments': '/api/courses/lgc1/assignments',
  'its outline': '/api/courses/lgc1/outline',
  'its preflight': '/api/courses/lgc1/preflight',
  'its gradebook': '/api/courses/lgc1/gradebook',
  'one assignment': '/api/assignments/lga1',
  'the course itself': '/api/courses/lgc1',
  'its people': '/api/courses/lgc1/people',
  'a page of tools': '/api/tools?limit=3',
  'the wire of a course': '/api/wire?course=lgc1',
  'the wire of an assignment': '/api/wire?assignment=lga1',
  'the wire of a person': '/api/wire?person=lg-1',
  'the history of a gradebook': '/api/courses/lgc1/scores',
  'the Watch of who teaches in it': TEACHERS_WATCH,
}

/** Rows of each large table that the statements of a request look at, by their own plans carried out again. */
async function rowsRead(
  path: string,
  token = path === TEACHERS_WATCH ? teachers : bearer,
): Promise<Record<string, number>> {
  const questions = await questionsOf(async () => {
    const answer = await academy.service.app.inject({
      method: 'GET',
      url: path,
      headers: { authorization: `Bearer ${token}` },
    })
    expect(answer.statusCode, answer.body.slice(0, 300)).toBe(200)
  })
  const read: Record<string, number> = Object.fromEntries(LARGE.map((table) => [table, 0]))
  for (const { sql, values } of questions) {
    if (!/^\s*(select|with)\b/i.test(sql) || /\b(insert into|update|delete from)\b/i.test(sql)) continue
    const { rows } = await database.query<{ 'QUERY PLAN': [{ Plan: Plan }] }>(
      `explain (analyze, timing off, format json) ${sql}`,
      values,
    )
    walk(rows[0]!['QUERY PLAN'][0].Plan, (node) => {
      const table = node['Relation Name']?.replace(/^wire_entry_.*/, 'wire_entry')
      if (table === undefined || !(table in read)) return
      const removed = (node['Rows Removed by Filter'] ?? 0) + (node['Rows Removed by Index Recheck'] ?? 0)
      read[table]! += (node['Actual Rows'] + removed) * node['Actual Loops']
    })
  }
  return read
}
interface Plan {
  'Relation Name'?: string
  'Actual Rows': number
  'Actual Loops': number
  'Rows Removed by Filter'?: number
  'Rows Removed by Index Recheck'?: number
  Plans?: Plan[]
}
function walk(node: Plan, see: (node: Plan) => void): void {
  see(node)
  for (const one of node.Plans ?? []) walk(one, see)
}

describe('in a site that grows', () => {
  it('is measured small', async () => {
    for (const [name, path] of Object.entries(READS)) small[name] = await rowsRead(path)
    expect(Object.keys(small)).toHaveLength(Object.keys(READS).length)
  }, 120_000)

  it('and grown to four times as much', async () => {
    await fillSite(database, MORE, { prefix: 'xl' })
    const { rows } = await database.query<{ n: string }>('select count(*) as n from score')
    expect(Number(rows[0]!.n)).toBeGreaterThan(20_000)
  }, 120_000)

  it.each(Object.entries(READS))('%s costs what it shows, not what the site holds', async (name, path) => {
    const now = await rowsRead(path)
    // Statistics are estimates: a little more may be looked at, but never all of a table.
    for (const table of LARGE)
      expect(now[table], `rows of ${table}`).toBeLessThanOrEqual(
        Math.max(small[name]![table]! * 1.5, small[name]![table]! + 500),
      )
  })

  it('Watch looks at links once, and at no trail of a course', async () => {
    const read = await rowsRead('/api/watch', bearer)
    const { rows } = await database.query<{ n: string }>(
      `select count(*) as n from assignment where state = 'published'`,
    )
    const links = Number(rows[0]!.n)
    const scores = await database.query<{ n: string }>('select count(*) as n from score')
    expect(read['assignment']).toBeLessThan(links * 6)
    // One newest result of each link with its score, and the last days of the trail, which are found by blocks of some 10,000 rows; never every score.
    expect(read['score']).toBeLessThan(links * 8 + 25_000)
    expect(Number(scores.rows[0]!.n)).toBeGreaterThan(links * 8 + 35_000)
  }, 60_000)
})
