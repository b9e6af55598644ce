import { proofOf } from '@bathyscribe/core/checks'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { publishDrill, registerKnotwork, startAcademy, type TestAcademy } from './harness.js'

/** Links of every mixture of evidence, changes, visits, scores and settings, beside each other. */
const LINKS = 800
/** All times are whole hours ago, so that many fall together. */
const ago = fc.option(fc.integer({ min: 1, max: 6 }), { freq: 3 })

const Anything = fc.record({
  proof: ago,
  failure: fc.option(fc.integer({ min: 1, max: 6 }), { freq: 5 }),
  complaint: fc.option(fc.integer({ min: 1, max: 6 }), { freq: 5 }),
  scored: ago,
  recorded: ago,
  visit: ago,
  score: ago,
  /** Of the person who had entered, or of another one. */
  visited: fc.boolean(),
  cleared: fc.nat(9).map((n) => n === 0),
  agrees: fc.nat(9).map((n) => n > 0),
  counting: fc.constantFrom('latest', 'best', 'mean'),
  refused: fc.option(fc.integer({ min: 1, max: 6 }), { freq: 5 }),
  changed: fc.option(fc.integer({ min: 1, max: 9 }), { freq: 5 }),
  pointsChanged: fc.option(fc.integer({ min: 1, max: 9 }), { freq: 5 }),
  ownAddress: fc.boolean(),
  tool: fc.constantFrom('quiet', 'moved', 'suspended', 'asks'),
  entered: fc.boolean(),
  unit: fc.constantFrom('none', 'shown', 'hidden'),
  window: fc.nat(9).map((n) => (n === 0 ? 'later' : n === 1 ? 'over' : n === 2 ? 'now' : 'none')),
})

type Wanted = typeof Anything extends fc.Arbitrary<infer T> ? T : never
const PROVEN: Wanted = {
  proof: null, failure: null, complaint: null, scored: null, recorded: null, visit: null, score: null, visited: true, cleared: false, agrees: true, counting: 'latest',
  refused: null, changed: null, pointsChanged: null, ownAddress: false, tool: 'quiet', entered: false, unit: 'none', window: 'none',
} // oxfmt-ignore
/** What proves a link: a sounding, a score of somebody who entered, or a visit and a score of somebody else. */
const WAYS: Partial<Wanted>[] = [
  { proof: 2, scored: 2, recorded: 2 },
  { visit: 3, score: 2 },
  { visit: 2, score: 2, visited: false },
  // A score since the sounding, which the gradebook may hold or not.
  { proof: 2, scored: 2, recorded: 2, visit: 3, score: 1 },
  // The tool's launch address changed after it was proven, which is nothing to a link with its own.
  { proof: 3, scored: 3, recorded: 3, tool: 'moved', ownAddress: true },
]
/** Proven in one of the ways, but for a few things: so each of them alone decides of some links. */
const Link = fc
  .tuple(fc.constantFrom(...WAYS), Anything, fc.subarray(Object.keys(PROVEN) as (keyof Wanted)[], { maxLength: 3 }))
  .map(([way, other, keys]): Wanted => ({
    ...PROVEN,
    ...way,
    ...Object.fromEntries(keys.map((key) => [key, other[key]])),
  }))

let academy: TestAcademy
beforeAll(async () => {
  academy = await startAcademy()
  await registerKnotwork(academy)
  await publishDrill(academy, 'knotwork-drills')
  for (const name of ['aino', 'niamh']) await academy.person(name, { 'HYD-210': 'learner' })
  for (const title of ['shown', 'hidden'])
    await academy.admin.client.call('addUnit', {
      params: { course: 'HYD-210' },
      body: { title, published: title === 'shown' },
    })
})

describe('links by the hundred', () => {
  it('are judged by one statement just as one by one', async () => {
    const { query } = academy
    const links = fc.sample(Link, { seed: 13, numRuns: LINKS }).map((one, i) => ({ id: `many${i}`, ...one }))
    const given = [JSON.stringify(links)]
    const of = (columns: string) =>
      `(select x.*, now() as t, p.id as aino, q.id as niamh from json_to_recordset($1) as x(id text, ${columns}), person p, person q where p.username = 'aino' and q.username = 'niamh') x`
    const hours = (column: string) => `x.t - x.${column} * interval '1 hour'`
    await query(
      `insert into registration select (jsonb_populate_record(r, jsonb_build_object('id', 'of-' || k, 'slug', 'of-' || k, 'likeness', 'of' || k, 'consumer_key', 'of-' || k,
         'state', case k when 'suspended' then 'suspended' else 'enabled' end, 'first_entry', case k when 'asks' then 'link' else 'none' end))).*
       from registration r, unnest(array['quiet', 'moved', 'suspended', 'asks']) k where r.slug = 'knotwork-drills'`,
    )
    await query(
      `insert into assignment select (jsonb_populate_record(a, jsonb_build_object('id', x.id, 'slug', x.id, 'resource_link_id', x.id, 'title', x.id, 'registration_id', 'of-' || x.tool,
         'launch_url', case when x."ownAddress" then 'https://own.example/' end, 'category_id', null, 'row_key', null, 'content', null,
         'opens_at', case x."window" when 'later' then x.t + interval '1 day' when 'now' then x.t - interval '1 day' end,
         'closes_at', case x."window" when 'over' then x.t - interval '1 hour' when 'now' then x.t + interval '1 day' end))).*
       from assignment a, ${of('tool text, "ownAddress" boolean, "window" text')} where a.state = 'published'`,
      given,
    )
    await query(
      `insert into proof_change (registration_id, what, at) values ('of-moved', 'tool_launch_address', now() - interval '150 minutes'), ('of-moved', 'tool_parameters', now() - interval '330 minutes')`,
    )
    await query(
      `insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id, said)
       select x.id, k.kind, x.t - k.hours * interval '1 hour', 'sounding', 'one', '{"check": "return", "code": "complained", "facts": {"words": "Said."}}' from ${of('proof int, failure int, complaint int, scored int, recorded int')},
         lateral (values ('proof', x.proof), ('failure', x.failure), ('complaint', x.complaint), ('scored', x.scored), ('recorded', x.recorded)) k (kind, hours) where k.hours is not null`,
      given,
    )
    await query(
      `insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id) select x.id, x.aino, ${hours('visit')}, ${hours('visit')}, 1, 1 from ${of('visit int')} where x.visit is not null`,
      given,
    )
    await query(
      `insert into score (assignment_id, person_id, at, operation, outcome, code, sent, sent_out_of, fraction, points, out_of, wire_entry_id)
       select x.id, x.aino, ${hours('refused')}, 'replace', 'refused', 'score.above_one', '2', '1', null, null, 10, 1 from ${of('refused int')} where x.refused is not null`,
      given,
    )
    await query(
      `with new as (insert into score (assignment_id, person_id, at, operation, outcome, sent, sent_out_of, fraction, points, out_of, wire_entry_id)
         select x.id, case when x.visited then x.aino else x.niamh end, ${hours('score')}, case when x.cleared then 'delete' else 'replace' end, 'accepted',
           case when not x.cleared then '0.5' end, '1', case when not x.cleared then 0.5 end, case when not x.cleared then 0.5 * a.points end, a.points, 1
         from ${of('score int, visited boolean, cleared boolean')} join assignment a on a.id = x.id where x.score is not null returning *)
       insert into result (assignment_id, person_id, sent, sent_out_of, fraction, points, score_id, at, last_id, out_of, attempts, counted, sum, heard_at, last_operation, counting)
       select n.assignment_id, n.person_id, n.sent, n.sent_out_of, n.fraction, case when x.agrees then n.points else coalesce(n.points, 0) + 1 end, n.id, n.at, n.id, n.out_of, 1, 1, 0.5, n.at,
         n.operation, x.counting from new n join json_to_recordset($1) as x(id text, agrees boolean, counting text) on x.id = n.assignment_id`,
      given,
    )
    // After everything else: what changes a link in the records would be noted as a change by itself.
    await query(
      `insert into proof_change (assignment_id, what, at) select x.id, k.what, x.t - k.hours * interval '1 hour' + interval '30 minutes' from ${of('changed int, "pointsChanged" int')},
         lateral (values ('parameters', x.changed), ('points', x."pointsChanged")) k (what, hours) where k.hours is not null`,
      given,
    )
    await query(
      `insert into unit_item (id, course_id, unit_id, kind, assignment_id, position, created_at, updated_at)
       select 'i' || x.id, u.course_id, u.id, 'assignment', x.id, 1, now(), now() from ${of('unit text')} join unit u on u.title = x.unit`,
      given,
    )
    await query(
      `insert into first_entry select (jsonb_populate_record(null::first_entry, jsonb_build_object('registration_id', 'of-asks', 'course_id', a.course_id, 'link_id', x.id, 'person_id', x.aino, 'at', now()))).*
       from ${of('tool text, entered boolean')} join assignment a on a.id = x.id where x.tool = 'asks' and x.entered`,
      given,
    )

    const { assignments } = academy.service.context.records
    const judged = await assignments.proofOfPublished(null, LINKS + 10)
    const [course] = await query<{ id: string }>('select id from course')
    const summaries = (await assignments.summariesOfCourse(course!.id)).filter((one) => one.id.startsWith('many'))
    const unproven = summaries
      .filter((one) => proofOf(one.facts).some((mark) => mark.state !== 'proven'))
      .map((one) => one.id)
    expect(summaries).toHaveLength(LINKS)
    expect(
      judged.first
        .map((one) => one.id)
        .filter((id) => id.startsWith('many'))
        .sort(),
    ).toEqual(unproven.sort())
    // Enough of both, or it would say nothing.
    expect(LINKS - unproven.length).toBeGreaterThan(100)
    expect(unproven.length).toBeGreaterThan(100)
    expect(judged.published).toBe(LINKS + 1)
    // Of some courses, just the same.
    expect(await assignments.proofOfPublished([course!.id], LINKS + 10)).toMatchObject({
      published: judged.published,
      unproven: judged.unproven,
    })
    expect((await assignments.proofOfPublished([], 1)).published).toBe(0)
  })
})
