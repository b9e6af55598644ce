import type { Pool } from 'pg'
import { inBatches } from './batches.js'

// What has to be kept of messages, as typed columns of many of them in one statement, and nothing else.

/** Columns of every message, with their types: arrays of the same length. */
const COMMON = {
  at: 'timestamptz',
  kind: 'text',
  direction: 'text',
  statement: 'text',
  registration_id: 'text',
  course_id: 'text',
  assignment_id: 'text',
  person_id: 'text',
  duration_ms: 'real',
  request: 'json',
  response: 'json',
  nonce: 'text',
} as const
const OF_ENTRY = { ...COMMON, is_visit: 'boolean' } as const
const OF_SCORE = {
  ...COMMON,
  sent: 'text',
  sent_out_of: 'text',
  fraction: 'numeric',
  points: 'numeric',
  out_of: 'numeric',
  sent_at: 'timestamptz',
  activity: 'text',
  grading: 'text',
} as const

function asked(columns: Record<string, string>): string {
  const arrays = Object.values(columns).map((type, i) => `$${i + 1}::${type}[]`)
  return `asked as materialized (select * from unnest(${arrays.join(', ')}) with ordinality as x(${Object.keys(columns).join(', ')}, n))`
}

const WIRE = 'id, at, kind, direction, outcome, statement, registration_id, course_id, assignment_id, person_id, duration_ms, request, response' // oxfmt-ignore
const wireOf = (id: string) =>
  `${id}, at, kind, direction, 'accepted', statement, registration_id, course_id, assignment_id, person_id, duration_ms, request, response`
const FRESH = (from: string) => `fresh as (
  insert into nonce (registration_id, nonce, expires_at) select registration_id, nonce, at + interval '11 minutes' from ${from} where nonce is not null order by 1, 2
  on conflict do nothing returning registration_id, nonce
)`
const IS_FRESH = `(x.nonce is null or exists (select 1 from fresh f where f.registration_id = x.registration_id and f.nonce = x.nonce))`

const ENTRIES = `
with ${asked(OF_ENTRY)}, ${FRESH('asked')}, ready as materialized (
  select x.*, nextval('wire_entry_id') as wire from asked x where ${IS_FRESH}
), seen as (
  insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id)
  select assignment_id, person_id, at, at, 1, wire from ready where is_visit order by 1, 2
  on conflict (assignment_id, person_id) do update set last_at = excluded.last_at, launches = visit.launches + 1, last_wire_id = excluded.last_wire_id
), entry as (
  insert into wire_entry (${WIRE}) select ${wireOf('wire')} from ready
)
select n::int as n from ready`

const SCORES = `
with ${asked(OF_SCORE)}, target as materialized (
  select x.*, r.standing as before from asked x join assignment a on a.id = x.assignment_id and a.points = x.out_of and a.merged_into is null
  left join result r on r.assignment_id = x.assignment_id and r.person_id = x.person_id for key share of a
), ${FRESH('target')}, ready as materialized (
  select x.*, nextval('wire_entry_id') as wire, nextval('score_id') as score from target x where ${IS_FRESH}
), standing as (
  insert into result as r (assignment_id, person_id, sent, sent_out_of, fraction, points, score_id, at, sent_at, last_operation, counting, last_id, out_of, attempts, counted, sum,
    activity, grading, heard_at)
  select assignment_id, person_id, sent, sent_out_of, fraction, points, score, at, sent_at, 'replace', 'latest', score, out_of, 1, 1, fraction, activity, grading, at from ready
  order by 1, 2
  on conflict (assignment_id, person_id) do update set sent = excluded.sent, sent_out_of = excluded.sent_out_of, fraction = excluded.fraction, points = excluded.points,
    score_id = excluded.score_id, at = excluded.at, sent_at = coalesce(excluded.sent_at, r.sent_at), last_operation = 'replace', last_id = excluded.last_id,
    out_of = excluded.out_of, attempts = r.attempts + 1, counted = r.counted + 1, sum = trim_scale(r.sum + excluded.sum), activity = excluded.activity,
    grading = excluded.grading, heard_at = excluded.heard_at
  where r.sent_at is null or excluded.sent_at is null or r.sent_at < excluded.sent_at
  returning r.assignment_id, r.person_id
), kept as materialized (
  select x.* from ready x join standing s using (assignment_id, person_id)
), trail as (
  insert into score (id, assignment_id, person_id, at, operation, outcome, sent, fraction, points, out_of, sent_at, wire_entry_id, activity, grading, sent_out_of, points_before)
  select score, assignment_id, person_id, at, 'replace', 'accepted', sent, fraction, points, out_of, sent_at, wire, activity, grading, sent_out_of, before from kept
), entry as (
  insert into wire_entry (${WIRE}) select ${wireOf('wire')} from kept
)
select n::int as n from kept`

/** A message as it is kept, by the names of its columns. */
export interface Entry {
  kind: string
  direction: 'sent' | 'received'
  statement: string
  registration_id: string
  course_id: string | null
  assignment_id: string | null
  person_id: string | null
  startedAt: number
  request: object
  response: object | null
  nonce: string | null
}

export interface Score {
  sent: string
  sent_out_of: string
  fraction: string
  points: string
  out_of: string
  sent_at: string | null
  activity: string | null
  grading: string | null
}

/** What writes messages. Each answers whether its message was kept: not when its nonce was used before, nor when something newer stands. */
export interface Writer {
  entry: (one: Entry, isVisit?: boolean) => Promise<boolean>
  score: (one: Entry, score: Score) => Promise<boolean>
}

type Rows = Record<string, unknown>[]

export function writer(pool: Pool): Writer {
  const write = (name: string, text: string, columns: object) => async (rows: Rows) => {
    const values = Object.keys(columns).map((column) => rows.map((row) => row[column] ?? null))
    const { rows: kept } = await pool.query<{ n: number }>({ name, text, values })
    const numbers = new Set(kept.map((one) => one.n))
    return rows.map((_, i) => numbers.has(i + 1))
  }
  const placeOf = ({ assignment_id: link, person_id: person }: Record<string, unknown>) =>
    `${String(link)} ${String(person)}`
  const entries = inBatches(write('limit-entries', ENTRIES, OF_ENTRY), (row) =>
    row['is_visit'] ? placeOf(row) : undefined,
  )
  const scores = inBatches(write('limit-scores', SCORES, OF_SCORE), placeOf)
  const common = ({ startedAt, request, response, ...entry }: Entry) => ({
    ...entry,
    at: new Date(),
    duration_ms: performance.now() - startedAt,
    request: JSON.stringify(request),
    response: response && JSON.stringify(response),
  })
  return {
    entry: (one, isVisit = false) => entries({ ...common(one), is_visit: isVisit }),
    score: (one, score) => scores({ ...common(one), ...score }),
  }
}
