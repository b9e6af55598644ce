import { migrateRecords } from '@bathyscribe/service'
import type { DataSource } from 'typeorm'
import { beforeAll, describe, expect, it } from 'vitest'
import { openRecords, publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

/** The last schema in which what was found was kept as sentences. */
const IN_WORDS = 29
const BARRED = 'The tool takes an instructor under the same key and secret, but refuses the test learner.'

let academy: TestAcademy
let database: DataSource
let proven: string
let barred: string
const call = () => academy.admin.client
const migrate = () => migrateRecords(academy.service.context.settings)

/** Records as the version before left them: two soundings, a sweep, what lights marks, and accepted warnings. */
async function asBefore() {
  const applied = await database.query<{ n: string }[]>('select count(*) as n from migration')
  for (let schema = Number(applied[0]!.n); schema > IN_WORDS; schema--)
    await database.undoLastMigration({ transaction: 'all' })
  const sounding = (id: string, of: string, verdict: string, cause: string | null, state = 'done') =>
    database.query(
      `insert into sounding (id, assignment_id, person_id, state, verdict, cause, started_at, ended_at, depth, follower, wait_minutes)
       values ($1, $2, (select id from person where username = 'ingrid'), $5, $3, $4, now() - interval '1 hour', now() - interval '1 hour', 'deep', 'http', 0)`,
      [id, of, verdict, cause, state],
    )
  const finding = (of: string, n: number, stage: string, check: string, verdict: string, statement: string, cause: string | null = null) =>
    database.query(
      `insert into sounding_finding (sounding_id, position, stage, check_name, verdict, statement, cause, remedy, duration_ms) values ($1, $2, $3, $4, $5, $6, $7, $8, 5)`,
      [of, n, stage, check, verdict, statement, cause, cause && 'Read it.'],
    ) // oxfmt-ignore
  await sounding('passed', proven, 'pass', null)
  await finding(
    'passed',
    0,
    'launch_test_learner',
    'taken',
    'pass',
    'Launched as the test learner: the tool answered 200 in 80 ms.',
  )
  await finding('passed', 1, 'score', 'received', 'pass', 'The tool sent 0.64 of 1 for the test learner.')
  await finding(
    'passed',
    2,
    'roster',
    'roster',
    'pass',
    'The tool may read 24 people; the tool last read it at 2026-11-01T08:00Z.',
  )
  await sounding('barred', barred, 'fail', BARRED)
  await finding(
    'barred',
    0,
    'launch_test_learner',
    'taken',
    'fail',
    'Launched as the test learner. The tool answered 403: “No. Go.”',
    BARRED,
  )
  await sounding('left', barred, 'skipped', 'The service was stopped in the middle; run it again.', 'interrupted')
  await database.query(
    `insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id, statement)
     values ($1, 'failure', now(), 'sounding', 'barred', $2), ($1, 'proof', now() - interval '2 hours', 'sounding', 'barred', '')`,
    [barred, BARRED],
  )
  await database.query(
    `insert into sweep (id, person_id, title, scope_key, state, started_at, ended_at)
     select 'swept', id, 'All', 'all', 'done', now() - interval '1 hour', now() from person where username = 'ingrid'`,
  )
  for (const [position, of, cause] of [[1, proven, 'It is worn out.'], [2, barred, 'It is worn out.']] as const)
    await database.query(
      `insert into sweep_link (sweep_id, assignment_id, course_id, registration_id, host, position, state, sounding_id, verdict, cause, change, took_ms)
       select 'swept', a.id, a.course_id, a.registration_id, 'h', $2, 'done', 'barred', 'fail', $3, 'newly_broken', 10 from assignment a where a.id = $1`,
      [of, position, cause],
    ) // oxfmt-ignore
  await database.query(
    `insert into preflight_acceptance (assignment_id, rule, statement, reason, person_id, at)
     select a.id, x.rule, x.statement, 'It is meant so.', p.id, now() from assignment a, person p,
       (values ('category_set', 'No category is set, so its score counts towards no part of the total.'), ('learner_can_open', 'No learner can open it now: it is raining.')) x (rule, statement)
     where a.id = $1 and p.username = 'ingrid'`,
    [proven],
  )
}

beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  proven = (await publishDrill(academy, 'knotwork-drills', { title: 'Bends', category: null })).id
  barred = (await publishDrill(academy, 'knotwork-drills', { title: 'Hitches' })).id
  database = await openRecords(academy, 'none')
  await asBefore()
  await migrate()
})

describe('what was found before facts were kept', () => {
  it('is told in the words of then', async () => {
    const one = await call().call('showSounding', { params: { id: 'barred' } })
    expect(one.cause).toBe(BARRED)
    expect(one.findings[0]).toMatchObject({
      check: 'taken',
      verdict: 'fail',
      statement: 'Launched as the test learner. The tool answered 403: “No. Go.”',
      cause: BARRED,
    })
    const { findings } = await call().call('showSounding', { params: { id: 'passed' } })
    expect(findings.map((each) => each.statement)).toEqual([
      'Launched as the test learner: the tool answered 200 in 80 ms.',
      'The tool sent 0.64 of 1 for the test learner.',
      'The tool may read 24 people; the tool last read it at 2026-11-01T08:00Z.',
    ])
    expect((await call().call('showSounding', { params: { id: 'left' } })).cause).toMatch(/run it again/)
  })

  it('is expected from now on as if it had been found today', async () => {
    const learned = await call().call('learnExpectation', { params: { assignment: proven } })
    expect(learned).toMatchObject({ scoreFrom: '0.64', scoreTo: '0.64', membersFrom: 24, learnedFrom: 'passed' })
  })

  it('says which tools take no test learners', async () => {
    const { items } = await call().call('showRehearsal', { params: { course: 'HYD-210' } })
    const refuses = new Map(items.map((one) => [one.assignment.id, one.refusesTestLearners]))
    expect([refuses.get(barred), refuses.get(proven)]).toEqual([true, false])
  })

  it('is one line of a sweep where it is one cause', async () => {
    // What differs in figures only, and is told in one sentence.
    await database.query(`update sweep_link set headline = jsonb_set(headline, '{facts,ms}', '7') where position = 2`)
    const sweep = await call().call('showSweep', { params: { id: 'swept' } })
    expect(sweep.causes).toMatchObject([{ cause: 'It is worn out.', links: 2, newly: 2 }])
    const { items } = await call().call('listSweepLinks', { params: { id: 'swept' }, query: {} })
    expect(items.map((one) => one.cause)).toEqual(['It is worn out.', 'It is worn out.'])
  })

  it('lights the same marks', async () => {
    const { proof } = await call().call('showAssignment', { params: { assignment: barred } })
    expect(proof.find((mark) => mark.name === 'launched')).toMatchObject({ state: 'broken', statement: BARRED })
  })

  it('is still accepted where the rule says the same, and no more where it says something else', async () => {
    const { preflight } = await call().call('showAssignment', { params: { assignment: proven } })
    const accepted = new Map(preflight.map((one) => [one.rule, one.accepted?.reason ?? null]))
    expect(accepted.get('category_set')).toBe('It is meant so.')
    expect(accepted.get('learner_can_open')).toBeNull()
    const kept = await database.query<object[]>('select rule, statement, facts from preflight_acceptance')
    expect(kept).toEqual([{ rule: 'category_set', statement: null, facts: {} }])
  })

  it('is told the same after going back and coming again, also when that is done twice', async () => {
    await database.undoLastMigration({ transaction: 'all' })
    expect(await migrate()).toHaveLength(1)
    expect(await migrate()).toEqual([])
    expect((await call().call('showSounding', { params: { id: 'barred' } })).cause).toBe(BARRED)
  })
})
