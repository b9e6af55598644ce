import type { Pool } from 'pg'
import { isUnavailable } from '../database.js'
import { gather } from './gather.js'

/** What is written of one message. Everything in it is kept together or not at all. */
export interface MessageToWrite {
  at: Date
  kind: string
  direction: 'sent' | 'received'
  outcome: 'accepted' | 'refused' | 'failed'
  code: string | null
  detail: string | null
  statement: string
  registrationId: string | null
  courseId: string | null
  assignmentId: string | null
  menuEntryId?: string | null
  unitItemId?: string | null
  pickingId?: string | null
  personId: string | null
  soundingId: string | null
  durationMs: number
  request: unknown
  response: unknown
  /** Uses up a nonce of the registration: nothing is written if it was used before. */
  nonce?: { value: string; expiresAt: Date }
  /**
   * Adds to the trail; an accepted one moves the result. Nothing is written if the assignment's points are no longer `outOf`, or if a result stands that was sent at the same
   * time or later.
   */
  score?: {
    operation: 'replace' | 'delete'
    outcome: 'accepted' | 'refused'
    code: string | null
    sent: string | null
    fraction: string | null
    points: string | null
    outOf: string
    resultData: unknown
    /** When the tool says that it was made; null where it does not say. */
    sentAt?: Date | null
  }
  /** Counts as a visit of the person to the link. */
  visit?: boolean
}

/** The parts of a message that belongs to no course and no link, and was not answered by anybody else. */
export const NO_LINK = {
  courseId: null,
  assignmentId: null,
  personId: null,
  soundingId: null,
  response: null,
} as const satisfies Partial<MessageToWrite>

/** `nonce_used` and `points_changed` mean that nothing was written. */
export type MessageWritten =
  | { written: true; wireEntryId: string; scoreId: string | null }
  | { written: false; why: 'nonce_used' | 'points_changed' }

// Rows are written in one order of keys, so that two such statements at once cannot wait for each other in a circle.
const WRITE = `
with asked as materialized (
  select * from json_to_recordset($1::json) as x(
    n integer, at timestamptz, kind text, direction text, outcome text, code text, detail text, statement text, registration_id text,
    course_id text, assignment_id text, menu_entry_id text, unit_item_id text, picking_id text, person_id text, sounding_id text, duration_ms real, request json, response json,
    nonce text, nonce_expires_at timestamptz, is_visit boolean,
    operation text, score_outcome text, score_code text, sent text, fraction numeric, points numeric, out_of numeric, result_data json, sent_at timestamptz)
), target as materialized (
  select x.n from asked x join assignment a on a.id = x.assignment_id and a.points = x.out_of
  where x.operation is not null and not exists (select 1 from result r where r.assignment_id = x.assignment_id and r.person_id = x.person_id
    and r.sent_at >= x.sent_at)
  for key share of a
), fresh as (
  insert into nonce (registration_id, nonce, expires_at)
  select registration_id, nonce, nonce_expires_at from asked x
  where nonce is not null and (operation is null or exists (select 1 from target t where t.n = x.n))
  order by registration_id, nonce
  on conflict do nothing returning registration_id, nonce
), ready as materialized (
  select x.*, nextval('wire_entry_id') as wire_id, case when x.operation is not null then nextval('score_id') end as score_id
  from asked x
  where (x.operation is null or exists (select 1 from target t where t.n = x.n))
    and (x.nonce is null or exists (select 1 from fresh f where f.registration_id = x.registration_id and f.nonce = x.nonce))
), entry as (
  insert into wire_entry (id, at, kind, direction, outcome, code, detail, statement, registration_id, course_id, assignment_id,
    menu_entry_id, unit_item_id, picking_id, person_id, sounding_id, duration_ms, request, response)
  select wire_id, at, kind, direction, outcome, code, detail, statement, registration_id, course_id, assignment_id,
    menu_entry_id, unit_item_id, picking_id, person_id, sounding_id, duration_ms, request, response from ready
), trail as (
  insert into score (id, assignment_id, person_id, at, operation, outcome, code, sent, fraction, points, out_of, result_data, sent_at, wire_entry_id)
  select score_id, assignment_id, person_id, at, operation, score_outcome, score_code, sent, fraction, points, out_of, result_data, sent_at, wire_id
  from ready where operation is not null
), standing as (
  insert into result (assignment_id, person_id, sent, fraction, points, score_id, at, sent_at)
  select assignment_id, person_id, sent, fraction, points, score_id, at, sent_at
  from ready where score_outcome = 'accepted' order by assignment_id, person_id
  on conflict (assignment_id, person_id) do update set sent = excluded.sent, fraction = excluded.fraction,
    points = excluded.points, score_id = excluded.score_id, at = excluded.at, sent_at = excluded.sent_at
  where result.score_id < excluded.score_id and (result.sent_at is null or excluded.sent_at is null or result.sent_at < excluded.sent_at)
), seen as (
  insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id)
  select assignment_id, person_id, at, at, 1, wire_id from ready where is_visit order by assignment_id, person_id
  on conflict (assignment_id, person_id) do update set last_at = excluded.last_at, launches = visit.launches + 1,
    last_wire_id = excluded.last_wire_id
)
select x.n, r.wire_id::text as wire_id, r.score_id::text as score_id,
  (x.operation is null or exists (select 1 from target t where t.n = x.n)) as on_target
from asked x left join ready r using (n) order by x.n`

interface WrittenRow {
  wire_id: string | null
  score_id: string | null
  on_target: boolean
}

/** The one door to the wire log: entry, nonce, trail, result and visit of many messages in one statement. */
export function messageWriter(pool: Pool): (message: MessageToWrite) => Promise<MessageWritten> {
  return gather(
    async (messages: MessageToWrite[]): Promise<MessageWritten[]> => {
      const { rows } = await pool.query<WrittenRow>({
        name: 'write-messages',
        text: WRITE,
        values: [encode(messages.map(toRow))],
      })
      return rows.map((row) =>
        row.wire_id !== null
          ? { written: true, wireEntryId: row.wire_id, scoreId: row.score_id }
          : { written: false, why: row.on_target ? 'nonce_used' : 'points_changed' },
      )
    },
    {
      most: 64,
      // One at a time: while it is being committed the next one grows, so that a commit is shared by as many as there are.
      atOnce: 1,
      keysOf: (message) => [
        ...(message.nonce ? [`nonce ${message.registrationId} ${message.nonce.value}`] : []),
        ...(message.score || message.visit ? [`work ${message.assignmentId} ${message.personId}`] : []),
      ],
      splitOn: (error) => !isUnavailable(error),
    },
  )
}

function toRow(message: MessageToWrite, n: number): Record<string, unknown> {
  const { nonce, score } = message
  return {
    n,
    at: message.at,
    kind: message.kind,
    direction: message.direction,
    outcome: message.outcome,
    code: message.code,
    detail: message.detail,
    statement: message.statement,
    registration_id: message.registrationId,
    course_id: message.courseId,
    assignment_id: message.assignmentId,
    menu_entry_id: message.menuEntryId,
    unit_item_id: message.unitItemId,
    picking_id: message.pickingId,
    person_id: message.personId,
    sounding_id: message.soundingId,
    duration_ms: message.durationMs,
    request: message.request,
    response: message.response,
    nonce: nonce?.value ?? null,
    nonce_expires_at: nonce?.expiresAt,
    is_visit: message.visit ?? false,
    operation: score?.operation,
    score_outcome: score?.outcome,
    score_code: score?.code,
    sent: score?.sent ?? null,
    fraction: score?.fraction,
    points: score?.points,
    out_of: score?.outOf,
    result_data: score?.resultData,
    sent_at: score?.sentAt ?? null,
  }
}

/** What PostgreSQL's text cannot hold: U+0000 and halves of surrogate pairs, as JSON escapes them. */
const UNSTORABLE = /\\u0000|\\ud[89a-f]/i

/** Rows as JSON. Whatever was sent can be kept: what cannot be stored is shown as U+FFFD. */
function encode(rows: readonly Record<string, unknown>[]): string {
  const text = JSON.stringify(rows)
  if (!UNSTORABLE.test(text)) return text
  return JSON.stringify(rows, (_, value: unknown) =>
    typeof value === 'string' ? value.toWellFormed().replaceAll('\u0000', '\ufffd') : value,
  )
}
