import type { Pool } from 'pg'
import { isLocked, isUnavailable } from '../database.js'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'

/**
 * A tool that hears “later” in time sends a message again, one that hears nothing may not: what waits for a row that somebody holds hears it within a second. A disk that
 * stands still for a moment is waited for a little longer, because a score that comes late is better than one that has to come twice.
 */
const LONGEST_HOLD_MS = 800
const LONGEST_WAIT_MS = 3000

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
  nonce?: { value: string; expiresAt: Date } | undefined
  /**
   * Adds to the trail; an accepted one moves the result as the column's counting has it. Nothing is written if the column's points are no longer `outOf`, or if something was
   * heard of the person that was sent at the same time or later.
   */
  score?:
    | {
        operation: 'replace' | 'delete' | 'progress'
        /** The column that it was sent to, when another stands for it. */
        sentTo?: string | null
        activity?: string | null
        grading?: string | null
        comment?: string | null
        submittedAt?: Date | null
        /** Who gave it, as the tool names them. */
        scoredBy?: string | null
        /** What `sent` is out of; `1` unless given. */
        sentOutOf?: string | null
        outcome: 'accepted' | 'refused'
        code: string | null
        sent: string | null
        fraction: string | null
        points: string | null
        outOf: string
        handedIn: unknown
        /** When the tool says that it was made; null where it does not say. */
        sentAt?: Date | string | null
      }
    | undefined
  /** Counts as a visit of the person to the link; what brings a score never is one. */
  visit?: boolean | undefined
}

/** The parts of a message that belongs to no course and no link, and was not answered by anybody else. */
export const NO_LINK = {
  courseId: null,
  assignmentId: null,
  personId: null,
  soundingId: null,
  response: null,
} as const satisfies Partial<MessageToWrite>

/**
 * Why nothing was written. `nonce_used`: the message came before. `points_changed`: the column's points are others than were read, or another column took its
 * place. `overtaken`: something newer of the person came in meanwhile. `not_kept`: it came from a stranger, and enough of those are kept.
 */
export type MessageWritten =
  | { written: true; wireEntryId: string; scoreId: string | null }
  | { written: false; why: 'nonce_used' | 'points_changed' | 'overtaken' | 'not_kept' }

const TAKES_OVER = `(takes_over(excluded.counting, excluded.last_operation, r.fraction, excluded.fraction)
  and (excluded.counting <> 'latest' or r.last_id < excluded.last_id))`
const IS_MEAN = `(excluded.counting = 'mean' and excluded.last_operation = 'replace' and r.counted > 0)`

interface ColumnOf {
  type: 'text' | 'timestamptz' | 'real' | 'numeric' | 'boolean' | 'json'
  of: (message: MessageToWrite) => unknown
}

/** Columns of every message: each an array of as many values as there are messages, or null where none of them has it. */
const ENTRY_COLUMNS = {
  at: { type: 'timestamptz', of: (one) => one.at },
  kind: { type: 'text', of: (one) => one.kind },
  direction: { type: 'text', of: (one) => one.direction },
  outcome: { type: 'text', of: (one) => one.outcome },
  code: { type: 'text', of: (one) => one.code },
  detail: { type: 'text', of: (one) => one.detail },
  statement: { type: 'text', of: (one) => one.statement },
  registration_id: { type: 'text', of: (one) => one.registrationId },
  course_id: { type: 'text', of: (one) => one.courseId },
  assignment_id: { type: 'text', of: (one) => one.assignmentId },
  menu_entry_id: { type: 'text', of: (one) => one.menuEntryId },
  unit_item_id: { type: 'text', of: (one) => one.unitItemId },
  picking_id: { type: 'text', of: (one) => one.pickingId },
  person_id: { type: 'text', of: (one) => one.personId },
  sounding_id: { type: 'text', of: (one) => one.soundingId },
  duration_ms: { type: 'real', of: (one) => one.durationMs },
  request: { type: 'json', of: (one) => one.request },
  response: { type: 'json', of: (one) => one.response },
  nonce: { type: 'text', of: ({ nonce }) => nonce?.value },
  nonce_expires_at: { type: 'timestamptz', of: ({ nonce }) => nonce?.expiresAt },
} satisfies Record<string, ColumnOf>

/** Of what brings no score: whether it is a visit. */
const VISIT_COLUMNS = {
  ...ENTRY_COLUMNS,
  is_visit: { type: 'boolean', of: (one) => one.visit },
} satisfies Record<string, ColumnOf>

const SCORE_COLUMNS = {
  ...ENTRY_COLUMNS,
  operation: { type: 'text', of: ({ score }) => score?.operation },
  score_outcome: { type: 'text', of: ({ score }) => score?.outcome },
  score_code: { type: 'text', of: ({ score }) => score?.code },
  sent: { type: 'text', of: ({ score }) => score?.sent },
  sent_out_of: { type: 'text', of: ({ score }) => (score?.sent == null ? null : (score.sentOutOf ?? '1')) },
  fraction: { type: 'numeric', of: ({ score }) => score?.fraction },
  points: { type: 'numeric', of: ({ score }) => score?.points },
  out_of: { type: 'numeric', of: ({ score }) => score?.outOf },
  handed_in: { type: 'json', of: ({ score }) => score?.handedIn },
  sent_at: { type: 'timestamptz', of: ({ score }) => score?.sentAt },
  sent_to: { type: 'text', of: ({ score }) => score?.sentTo },
  activity: { type: 'text', of: ({ score }) => score?.activity },
  grading: { type: 'text', of: ({ score }) => score?.grading },
  comment: { type: 'text', of: ({ score }) => score?.comment },
  submitted_at: { type: 'timestamptz', of: ({ score }) => score?.submittedAt },
  scored_by: { type: 'text', of: ({ score }) => score?.scoredBy },
} satisfies Record<string, ColumnOf>

/** The messages of a statement as a table of their columns. */
function askedAs(columns: Readonly<Record<string, ColumnOf>>): string {
  const types = Object.fromEntries(Object.entries(columns).map(([name, { type }]) => [name, type]))
  return `asked as materialized (select * from ${unfolded(types, 'x')})`
}

/** Columns of an entry; with `wire_` before it they begin with the number that was drawn for it. */
const ENTRY = `id, at, kind, direction, outcome, code, detail, statement, registration_id, course_id, assignment_id,
    menu_entry_id, unit_item_id, picking_id, person_id, sounding_id, duration_ms, request, response`
const IS_FRESH = `(x.nonce is null or exists (select 1 from fresh f where f.registration_id = x.registration_id and f.nonce = x.nonce))`

/** What brings no score needs no trail and no result: launches, logins, tokens, calls of services. */
const WRITE_ENTRIES = `
with ${askedAs(VISIT_COLUMNS)}, fresh as (
  insert into nonce (registration_id, nonce, expires_at)
  select registration_id, nonce, nonce_expires_at from asked where nonce is not null order by registration_id, nonce
  on conflict do nothing returning registration_id, nonce
), ready as materialized (
  select x.*, nextval('wire_entry_id') as wire_id from asked x where ${IS_FRESH}
), entry as (
  insert into wire_entry (${ENTRY})
  select wire_${ENTRY} from ready
), seen as (
  insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id)
  select assignment_id, person_id, at, at, 1, wire_id from ready where is_visit order by assignment_id, person_id
  on conflict (assignment_id, person_id) do update set last_at = excluded.last_at, launches = visit.launches + 1,
    last_wire_id = excluded.last_wire_id
)
select x.n, r.wire_id::text as wire_id, null as score_id, true as on_target, r.n is not null as is_fresh
from asked x left join ready r using (n) order by x.n`

// Rows are written in one order of keys, so that two such statements at once cannot wait for each other in a circle. What no message has is null in all rows.
const WRITE_SCORES = `
with ${askedAs(SCORE_COLUMNS)}, target as materialized (
  select x.*, a.counting, r.standing as points_before
  from asked x join assignment a on a.id = x.assignment_id and a.points = x.out_of and a.merged_into is null
  left join result r on r.assignment_id = x.assignment_id and r.person_id = x.person_id
  where r.sent_at is null or x.sent_at is null or r.sent_at < x.sent_at
  for key share of a
), fresh as (
  insert into nonce (registration_id, nonce, expires_at)
  select registration_id, nonce, nonce_expires_at from target where nonce is not null order by registration_id, nonce
  on conflict do nothing returning registration_id, nonce
), ready as materialized (
  select x.*, nextval('wire_entry_id') as wire_id, nextval('score_id') as score_id from target x where ${IS_FRESH}
), standing as (
  insert into result as r (assignment_id, person_id, sent, sent_out_of, fraction, points, score_id, at, sent_at, last_operation, counting, last_id, out_of, attempts, counted, sum,
    activity, grading, heard_at, comment, submitted_at)
  select assignment_id, person_id, case when operation = 'replace' then sent end, case when operation = 'replace' then sent_out_of end, fraction, points, case when operation <> 'progress' then score_id end,
    case when operation <> 'progress' then at end, sent_at, operation, counting, score_id, out_of, (operation = 'replace')::int, (operation = 'replace')::int,
    coalesce(fraction, 0), activity, grading, at, comment, submitted_at
  from ready where score_outcome = 'accepted' order by assignment_id, person_id
  on conflict (assignment_id, person_id) do update set
    sent = case when ${TAKES_OVER} then excluded.sent else r.sent end,
    sent_out_of = case when ${TAKES_OVER} then excluded.sent_out_of else r.sent_out_of end,
    fraction = case when not ${TAKES_OVER} then r.fraction when ${IS_MEAN} then mean_of(r.sum + excluded.sum, r.counted + 1) else excluded.fraction end,
    points = case when not ${TAKES_OVER} then r.points
      when ${IS_MEAN} then points_of(mean_of(r.sum + excluded.sum, r.counted + 1), excluded.out_of) else excluded.points end,
    score_id = case when ${TAKES_OVER} then excluded.score_id else r.score_id end,
    at = case when ${TAKES_OVER} then excluded.at else r.at end,
    attempts = r.attempts + excluded.attempts,
    counted = case excluded.last_operation when 'delete' then 0 else r.counted + excluded.counted end,
    sum = case excluded.last_operation when 'delete' then 0 else trim_scale(r.sum + excluded.sum) end,
    counting = excluded.counting, out_of = excluded.out_of, last_operation = excluded.last_operation, last_id = greatest(r.last_id, excluded.last_id),
    sent_at = coalesce(excluded.sent_at, r.sent_at), activity = excluded.activity, grading = excluded.grading, heard_at = excluded.heard_at,
    comment = coalesce(excluded.comment, r.comment), submitted_at = coalesce(excluded.submitted_at, r.submitted_at)
  where r.sent_at is null or excluded.sent_at is null or r.sent_at < excluded.sent_at
  returning r.assignment_id, r.person_id
), kept as materialized (
  -- A newer score that came in by another process between our reading and our writing: nothing of this one is kept.
  select x.* from ready x where x.score_outcome is distinct from 'accepted'
    or exists (select 1 from standing s where s.assignment_id = x.assignment_id and s.person_id = x.person_id)
), entry as (
  insert into wire_entry (${ENTRY})
  select wire_${ENTRY} from kept
), trail as (
  insert into score (id, assignment_id, person_id, at, operation, outcome, code, sent, fraction, points, out_of, handed_in, sent_at, wire_entry_id,
    activity, grading, comment, submitted_at, sent_out_of, points_before, scored_by)
  select score_id, coalesce(sent_to, assignment_id), person_id, at, operation, score_outcome, score_code, sent, fraction, points, out_of, handed_in, sent_at, wire_id,
    activity, grading, comment, submitted_at, sent_out_of, points_before, scored_by
  from kept
)
select x.n, k.wire_id::text as wire_id, k.score_id::text as score_id, t.n is not null as on_target, r.n is not null as is_fresh
from asked x left join target t using (n) left join ready r using (n) left join kept k using (n) order by x.n`

interface WrittenRow {
  wire_id: string | null
  score_id: string | null
  on_target: boolean
  is_fresh: boolean
}

/** The one door to the wire log: entry, nonce, trail, result and visit of many messages in one statement. */
export function messageWriter(pool: Pool): (message: MessageToWrite) => Promise<MessageWritten> {
  const scores = writerBy(pool, 'write-scores', WRITE_SCORES, SCORE_COLUMNS)
  const entries = writerBy(pool, 'write-entries', WRITE_ENTRIES, VISIT_COLUMNS)
  return (message) => (message.score ? scores(message) : entries(message))
}

function writerBy(pool: Pool, name: string, text: string, columns: Readonly<Record<string, ColumnOf>>) {
  const all = Object.values(columns)
  return gather(
    async (messages: MessageToWrite[]): Promise<MessageWritten[]> => {
      const { rows } = await pool.query<WrittenRow>({ name, text, values: valuesOf(all, messages) })
      return rows.map((row) =>
        row.wire_id !== null
          ? { written: true, wireEntryId: row.wire_id, scoreId: row.score_id }
          : { written: false, why: !row.on_target ? 'points_changed' : row.is_fresh ? 'overtaken' : 'nonce_used' },
      )
    },
    {
      most: 64,
      // Few at a time: while they are being committed the next one grows, so that a commit is shared by as many as there are.
      atOnce: 3,
      longestWaitMs: LONGEST_WAIT_MS,
      longestHoldMs: LONGEST_HOLD_MS,
      isHeldUp: isLocked,
      heldBy: (message) => message.assignmentId ?? undefined,
      keysOf: (message) => [
        ...(message.nonce ? [`nonce ${message.registrationId} ${message.nonce.value}`] : []),
        ...(message.score || message.visit ? [`work ${message.assignmentId} ${message.personId}`] : []),
      ],
      splitOn: (error) => !isUnavailable(error),
    },
  )
}

/** Messages as columns; null where none has one. */
function valuesOf(columns: readonly ColumnOf[], messages: readonly MessageToWrite[]): (unknown[] | null)[] {
  return columns.map(({ type, of }) => {
    const encode = type === 'json' ? storableJson : storable
    let isEmpty = true
    const values = messages.map((message) => {
      const value = of(message)
      if (value === null || value === undefined) return null
      isEmpty = false
      return encode(value)
    })
    return isEmpty ? null : values
  })
}

/** What PostgreSQL's text cannot hold: U+0000 and halves of surrogate pairs. Whatever was sent can be kept: what cannot be stored is shown as U+FFFD. */
function storable(value: unknown): unknown {
  if (value instanceof Date) return value.toISOString()
  if (typeof value !== 'string') return value
  const text = value.includes('\0') ? value.replaceAll('\0', '\ufffd') : value
  return text.toWellFormed()
}

/** The same, as JSON escapes it. */
const UNSTORABLE = /\\u0000|\\ud[89a-f]/i

function storableJson(value: unknown): string {
  const text = JSON.stringify(value)
  if (!UNSTORABLE.test(text)) return text
  return JSON.stringify(value, (_, part: unknown) => (typeof part === 'string' ? storable(part) : part))
}
