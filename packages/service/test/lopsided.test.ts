import { beforeAll, describe, expect, it } from 'vitest'
import { SUMMARY } from '../src/records/assignment-summary.js'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

let academy: TestAcademy
let other: string
const SCORES = 20_000

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  const pilot = (await publishDrill(academy, 'knotwork-drills', { title: 'Pilot' })).id
  other = (await publishDrill(academy, 'knotwork-drills', { title: 'Another' })).id
  const person = await academy.person('aino', { 'HYD-210': 'learner' })
  await academy.query(
    `insert into score (assignment_id, person_id, at, operation, outcome, sent, sent_out_of, fraction, points, out_of)
     select $1, $2, now(), 'replace', 'accepted', '0.5', '1', 0.5, 50, 100 from generate_series(1, $3::int)`,
    [pilot, person, SCORES],
  )
})

async function plan(): Promise<string> {
  await academy.query('analyze score')
  const rows = await academy.query<{ 'QUERY PLAN': string }>(`explain ${SUMMARY} where a.id = $1`, [other])
  return rows.map((row) => row['QUERY PLAN']).join('\n')
}

describe('where nearly all scores belong to one assignment', () => {
  it('the few of another are found by an index', async () => {
    expect(await plan()).not.toMatch(/Seq Scan on score\b/)
    // Without being told how scores are spread, PostgreSQL reads them all.
    await academy.query('alter table score alter column assignment_id reset (n_distinct)')
    expect(await plan()).toMatch(/Seq Scan on score\b/)
  })
})
