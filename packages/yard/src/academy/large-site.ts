import type { Say } from '../machine/place.js'

/** Whatever runs SQL: a client of pg, or a pool. */
export interface Database {
  query: (sql: string, values?: unknown[]) => Promise<{ rows: Record<string, unknown>[] }>
}

/** How much there is of everything; `learners` are of one course, `scores` of one learner in one link. */
export interface Scale {
  tools: number
  courses: number
  links: number
  learners: number
  scores: number
  wire: number
}

/** The size that the limits of reading are stated for: 20,000 links on 40 tools, 2,000,000 scores, 3,000,000 wire entries. */
export const INSTITUTION: Scale = { tools: 40, courses: 500, links: 20_000, learners: 50, scores: 2, wire: 3_000_000 }

/** From so many rows on, a table is filled without its indexes. */
const MANY_ROWS = 200_000
const FILLED = ['score', 'result', 'visit', 'wire_entry']

/**
 * Takes away the indexes of tables that are about to be filled, but for those that hold a constraint.
 * @returns the statements that make them again
 */
async function takeIndexesOff(database: Database, tables: string[]): Promise<{ name: string; sql: string }[]> {
  const { rows } = await database.query(
    `select i.indexrelid::regclass::text as name, pg_get_indexdef(i.indexrelid) as sql from pg_index i
     where i.indrelid = any($1::regclass[]) and not exists (select 1 from pg_constraint c where c.conindid = i.indexrelid)`,
    [tables],
  )
  for (const { name } of rows) await database.query(`drop index ${String(name)}`)
  // Of a table in parts, the definition speaks of the whole only; made anew, each part gets its own.
  return rows.map(({ name, sql }) => ({ name: String(name), sql: String(sql).replace(' ON ONLY ', ' ON ') }))
}

/** A row like one that is there, but for some of its columns: whatever columns a later schema adds are taken along. */
const like = (table: string, as: string, change: string, rest: string) =>
  `insert into ${table} select (jsonb_populate_record(${as}, jsonb_build_object(${change}))).* from ${rest}`

/** A filling on its way. */
interface Filling {
  scale: Scale
  prefix: string
  template: { assignment: unknown; course: unknown; tool: unknown; person: unknown }
  /** An identifier of this filling, as SQL: its letter, and an expression for its number. */
  id: (letter: string, n: string) => string
  step: (what: string, sql: string, values?: unknown[]) => Promise<void>
}

/**
 * Fills a database that has at least one tool of LTI 1.1, one course, one learner and one published assignment.
 * @param options identifiers begin with the prefix, so that it can be done again with another
 * @returns identifiers of one course, one of its links, and its tool
 */
export async function fillSite(
  database: Database,
  scale: Scale,
  { prefix = 'lg', say = () => undefined }: { prefix?: string; say?: Say } = {},
): Promise<{ course: string; link: string; tool: string }> {
  const { rows } = await database.query(
    `select a.id as assignment, a.course_id as course, a.registration_id as tool, p.id as person from assignment a, person p
     where a.state = 'published' and not p.is_test_learner order by a.created_at, p.created_at limit 1`,
  )
  const filling: Filling = {
    scale,
    prefix,
    template: rows[0] as unknown as Filling['template'],
    id: (letter, n) => `'${prefix}${letter}' || ${n}`,
    async step(what, sql, values = []) {
      const started = performance.now()
      await database.query(sql, values)
      say(`${what}: ${((performance.now() - started) / 1000).toFixed(1)} s`)
    },
  }
  // What a large table's rows are found by is made once they are all there, and what the statements themselves see to is not checked row by row.
  const isLarge = scale.links * scale.learners >= MANY_ROWS
  const indexes = isLarge ? await takeIndexesOff(database, FILLED) : []
  if (isLarge) await database.query('set session_replication_role = replica')
  await fillCourses(filling)
  await fillEvidence(filling)
  await fillWork(filling)
  if (isLarge) await database.query('reset session_replication_role')
  for (const { name, sql } of indexes) await filling.step(`index ${name}`, sql)
  await filling.step('statistics', 'vacuum analyze')
  return { course: `${prefix}c1`, link: `${prefix}a1`, tool: `${prefix}t1` }
}

/** Tools, courses, people, links and their places in the outline. */
async function fillCourses({ scale, prefix, template, id, step }: Filling): Promise<void> {
  const { tools, courses, links, learners } = scale
  await step(
    'tools',
    like(
      'registration', 'r',
      `'id', ${id('t', 'g')}, 'slug', 'tool-${prefix}-' || g, 'name', 'Tool ${prefix} ' || g, 'likeness', 'tool${prefix}' || g, 'consumer_key', 'key-${prefix}-' || g, 'secret_sealed', r.secret_sealed`,
      `registration r, generate_series(1, $2::int) g where r.id = $1`,
    ),
    [template.tool, tools],
  ) // oxfmt-ignore
  await step(
    'courses',
    like(
      'course', 'c',
      `'id', ${id('c', 'g')}, 'code', upper('${prefix}') || ' ' || g, 'code_key', upper('${prefix}') || '-' || g, 'title', 'Course ' || g, 'sourced_id', null`,
      `course c, generate_series(1, $2::int) g where c.id = $1`,
    ),
    [template.course, courses],
  ) // oxfmt-ignore
  await step(
    'people',
    like(
      'person', 'p',
      `'id', ${id('p', 'g')}, 'username', '${prefix}-' || g, 'subject', '${prefix}-subject-' || g, 'full_name', 'Person ' || g, 'email', null, 'sourced_id', null, 'roster_name', null, 'password_hash', null, 'site_role', 'none'`,
      `person p, generate_series(1, $2::int) g where p.id = $1`,
    ),
    [template.person, courses * learners],
  ) // oxfmt-ignore
  await step(
    'enrolments',
    `insert into enrolment (course_id, person_id, role, state, since)
     select ${id('c', '((g - 1) / $1::int + 1)')}, ${id('p', 'g')}, 'learner', 'active', now() from generate_series(1, $2::int) g`,
    [learners, courses * learners],
  )
  await step(
    'links',
    like(
      'assignment', 'a',
      `'id', ${id('a', 'g')}, 'course_id', ${id('c', '((g - 1) % $3::int + 1)')}, 'registration_id', ${id('t', '((g - 1) % $4::int + 1)')}, 'slug', 'link-' || g, 'title', 'Link ' || g,
       'resource_link_id', ${id('a', 'g')}, 'category_id', null, 'row_key', null, 'position', g`,
      `assignment a, generate_series(1, $2::int) g where a.id = $1`,
    ),
    [template.assignment, links, courses, tools],
  ) // oxfmt-ignore
  await step(
    'units',
    `insert into unit (id, course_id, title, published, position, created_at, updated_at) select ${id('u', 'g')}, ${id('c', 'g')}, 'Unit', true, 1, now(), now() from generate_series(1, $1::int) g`,
    [courses],
  )
  await step(
    'items',
    `insert into unit_item (id, course_id, unit_id, kind, assignment_id, position, created_at, updated_at)
     select ${id('i', 'a.position')}, a.course_id, u.id, 'assignment', a.id, a.position, now(), now() from assignment a join unit u on u.course_id = a.course_id where a.id like '${prefix}a%'`,
  )
}

/** What was proven of the links, and what was changed since. */
async function fillEvidence({ prefix, step }: Filling): Promise<void> {
  // Each was sounded once; one in ten was changed before, one in a hundred since.
  await step(
    'evidence',
    `insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id)
     select a.id, k, now() - interval '10 days', 'sounding', 'of-' || a.id from assignment a, unnest(array['proof', 'scored', 'recorded']) k where a.id like '${prefix}a%'`,
  )
  await step(
    'changes',
    `insert into proof_change (assignment_id, registration_id, what, at, xact)
     select a.id, null, 'parameters', now() - case when a.position % 100 = 0 then interval '1 day' else interval '50 days' end, '1'::xid8 from assignment a where a.id like '${prefix}a%' and a.position % 10 = 0
     union all select null, r.id, 'tool_parameters', now() - interval '50 days', '1'::xid8 from registration r where r.id like '${prefix}t%'`,
  )
}

/** Scores with their results, visits, and the log of messages. */
async function fillWork({ scale, prefix, id, step }: Filling): Promise<void> {
  const { tools, courses, links, learners, scores, wire } = scale
  const places = `assignment a join enrolment e on e.course_id = a.course_id and e.role = 'learner' where a.id like '${prefix}a%'`
  await step(
    'scores',
    `insert into score (assignment_id, person_id, at, operation, outcome, sent, sent_out_of, fraction, points, out_of, wire_entry_id)
     select x.assignment_id, x.person_id, now() - interval '100 days' + interval '100 days' * x.n / count(*) over (), 'replace', 'accepted', '0.5', '1', 0.5,
       trim_scale(x.points / 2), x.points, 1
     from (select a.id as assignment_id, e.person_id, a.points, row_number() over (order by k, md5(e.person_id || a.id)) as n from ${places.replace(' where', `, generate_series(1, ${scores}) k where`)}) x order by x.n`,
  )
  await step(
    'results',
    `insert into result (assignment_id, person_id, sent, sent_out_of, fraction, points, score_id, at, last_id, out_of, attempts, counted, sum, heard_at, last_operation, counting)
     select distinct on (s.assignment_id, s.person_id) s.assignment_id, s.person_id, s.sent, s.sent_out_of, s.fraction, s.points, s.id, s.at, s.id, s.out_of, 1, 1, s.fraction, s.at, 'replace', 'latest'
     from score s where s.assignment_id like '${prefix}a%' order by s.assignment_id, s.person_id, s.id desc`,
  )
  await step(
    'visits',
    `insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id) select a.id, e.person_id, now(), now(), 1, 1 from ${places}`,
  )
  await step(
    'wire entries',
    `insert into wire_entry (id, at, kind, direction, outcome, statement, registration_id, course_id, assignment_id, person_id, duration_ms, request)
     select nextval('wire_entry_id'), now() - interval '100 days' + interval '100 days' * g / $1::int, 'outcome', 'received', 'accepted', 'Received 0.5 of 1 for link ' || g,
       ${id('t', '(g % $2::int + 1)')}, ${id('c', '(g % $3::int + 1)')}, ${id('a', '(g % $4::int + 1)')}, ${id('p', '(g % $5::int + 1)')}, 3,
       json_build_object('method', 'POST', 'url', 'https://platform.example/lti/outcomes', 'body', '<score>' || g || '</score>') from generate_series(1, $1::int) g`,
    [wire, tools, courses, links, courses * learners],
  )
}
