import type { ToolState, TrailEntry } from '@bathyscribe/contract'
import type { Counting, Derived, TrailStep } from '@bathyscribe/core/scores'
import type { EntityManager } from 'typeorm'
import { serialOf, toPage, type Page } from './paging.js'
import { oneOrAny, plannedOnce } from './planned-once.js'

export interface ColumnRow {
  id: string
  slug: string
  title: string
  points: string
  category: { id: string; name: string } | null
  counted: boolean
  counting: Counting
  state: 'draft' | 'published' | 'column'
  released: boolean
  reviewable: boolean
  dueAt: Date | null
  tool: { id: string; slug: string; name: string; state: ToolState }
  lastScoreAt: Date | null
  scored: number
  waiting: number
  refused: number
  merged: { id: string; slug: string; title: string }[]
}
export interface GradebookPersonRow {
  id: string
  fullName: string
  username: string
  role: string
  state: 'active' | 'dropped'
  /** How many there are, however many are read. */
  inAll: number
}
/** What is known of one person in one column: a visit, a result, a refusal, or several of them. */
export interface CellRow {
  assignmentId: string
  personId: string
  openedAt: Date | null
  sent: string | null
  sentOutOf: string | null
  points: string | null
  hasResult: boolean
  resultAt: Date | null
  refusedAt: Date | null
  overridden: boolean
  exempt: boolean
  activity: string | null
  grading: string | null
  heardAt: Date | null
  comment: string | null
  submittedAt: Date | null
  attempts: number
}
export interface TrailRow {
  id: string
  at: Date
  operation: TrailEntry['operation']
  outcome: 'accepted' | 'refused'
  code: string | null
  sent: string | null
  sentOutOf: string | null
  sentAt: Date | null
  activity: string | null
  grading: string | null
  points: string | null
  outOf: string
  pointsBefore: string | null
  comment: string | null
  wireEntryId: string | null
  by: { id: string; fullName: string; username: string } | null
  evidence: string | null
  handedIn: { kind: 'text' | 'url'; value: string } | null
  mergedFrom: string | null
  /** The sounding that left it, or `reset` for a rehearsal that was cleared; it is not used. */
  setAsideBy: string | null
  counts: boolean
}
/** What a tool said of a person's score, as far as a sounding looks at it. */
export type SentScore = Pick<TrailRow, 'id' | 'outcome' | 'code' | 'sent' | 'sentOutOf' | 'comment' | 'wireEntryId'>
export interface StandingRow {
  sent: string | null
  sentOutOf: string | null
  fraction: string | null
  points: string | null
  standing: string | null
  overridden: boolean
  exempt: boolean
  counting: Counting
  counted: number
  overrideComment: string | null
  at: Date | null
  /** The entry it stands by; null when there is none. */
  scoreId: string | null
  /** When the tool says that the last thing it said was made; null where it does not say. */
  sentAt: Date | null
}

/** What a trail came to, as it is kept. */
export interface DerivedRow extends Derived {
  assignmentId: string
  personId: string
  points: string | null
  outOf: string
  counting: Counting
  at: Date | null
  lastId: string
  lastOperation: TrailStep['operation']
  /** The tool's last words, and when they came. */
  activity: string | null
  grading: string | null
  heardAt: Date
  sentAt: Date | null
  comment: string | null
  submittedAt: Date | null
}

/** What a tool sent, as the trail of the column has it that it counts in. */
export interface StepRow extends TrailStep {
  assignmentId: string
  personId: string
  at: Date
  sentAt: Date | null
  activity: string | null
  grading: string | null
  comment: string | null
  submittedAt: Date | null
  /** How the column counts, and what it is out of. */
  counting: Counting
  columnPoints: string
}

const MS = (column: string) => `(extract(epoch from ${column}) * 1000)::float8`
// Times as numbers: the driver takes longer to read thirty thousand dates than PostgreSQL to find them.
const CELLS = `
select coalesce(v.assignment_id, r.assignment_id, f.assignment_id) as "assignmentId", coalesce(v.person_id, r.person_id, f.person_id) as "personId",
  ${MS('v.first_at')} as "openedAt", r.sent, r.sent_out_of as "sentOutOf", r.standing as points, coalesce(r.score_id is not null, false) as "hasResult",
  ${MS('case when r.overridden then r.override_at else r.at end')} as "resultAt", ${MS('f.at')} as "refusedAt", coalesce(r.overridden, false) as overridden,
  coalesce(r.exempt, false) as exempt, r.activity, r.grading, ${MS('r.heard_at')} as "heardAt", coalesce(r.override_comment, r.comment) as comment,
  ${MS('r.submitted_at')} as "submittedAt", coalesce(r.attempts, 0) as attempts
from (select * from visit where assignment_id = any($1) and ($2::text[] is null or person_id = any($2))) v
full join (select * from result where assignment_id = any($1) and ($2::text[] is null or person_id = any($2))) r
  using (assignment_id, person_id)
full join (select assignment_id, person_id, max(at) as at from score
  where assignment_id = any($1) and outcome = 'refused' and ($2::text[] is null or person_id = any($2)) group by 1, 2) f
  using (assignment_id, person_id)`
const CELL_TIMES = ['openedAt', 'resultAt', 'refusedAt', 'heardAt', 'submittedAt'] as const
type TimedCell = Omit<CellRow, (typeof CELL_TIMES)[number]> & Record<(typeof CELL_TIMES)[number], number | Date | null>

const BY = `case when b.id is null then null else json_build_object('id', b.id, 'fullName', b.full_name, 'username', b.username) end as by`
const ENTRY = `s.id::text as id, s.at, s.operation, s.outcome, s.code, s.sent, s.sent_out_of as "sentOutOf", s.sent_at as "sentAt", s.activity, s.grading, s.points,
  s.out_of as "outOf", s.points_before as "pointsBefore", s.comment, s.wire_entry_id::text as "wireEntryId", s.evidence, s.handed_in as "handedIn", s.set_aside_by as "setAsideBy", ${BY}`

// A column, and those that were merged into it; of each the trail of one person from its end, so that no more is read than wanted.
const COLUMNS = `(select id from assignment where id = $1 union all select id from assignment where merged_into = $1)`
const END_OF_TRAIL = plannedOnce(`
select s.id::text as id from ${COLUMNS} a join lateral (
  select s.id from score s where s.assignment_id = a.id and s.person_id = $2 order by s.id desc limit 1) s on true
order by s.id desc limit 1`)
const NEWEST_SINCE = plannedOnce(`
select s.id::text as id, s.outcome, s.code, s.sent, s.sent_out_of as "sentOutOf", s.comment, s.wire_entry_id::text as "wireEntryId" from ${COLUMNS} a join lateral (
  select * from score s where s.assignment_id = a.id and s.person_id = $2 and s.id > $3::bigint and s.operation <> 'progress' and s.by_person_id is null
  order by s.id desc limit 1) s on true
order by s.id desc limit 1`)

export class ScoreRecords {
  constructor(private readonly manager: EntityManager) {}

  columns(courseId: string): Promise<ColumnRow[]> {
    return this.manager.query(
      `select a.id, a.slug, a.title, a.points, case when k.id is null then null else json_build_object('id', k.id, 'name', k.name) end as category, a.counted, a.counting,
         a.state, a.released, a.reviewable, a.due_at as "dueAt",
         json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state) as tool,
         n."lastScoreAt", coalesce(n.scored, 0) as scored, coalesce(n.waiting, 0) as waiting,
         (select count(*)::int from score s where s.assignment_id = a.id and s.outcome = 'refused' and s.id > coalesce(n.last_id, 0)) as refused,
         coalesce((select json_agg(json_build_object('id', m.id, 'slug', m.slug, 'title', m.title)) from assignment m where m.merged_into = a.id), '[]') as merged
       from assignment a join registration t on t.id = a.registration_id left join category k on k.id = a.category_id
       left join (select r.assignment_id, max(r.heard_at) as "lastScoreAt", max(r.last_id) as last_id,
           count(*) filter (where r.standing is not null and e.role = 'learner')::int as scored,
           count(*) filter (where r.grading = 'PendingManual' and e.role = 'learner')::int as waiting
         from result r join assignment x on x.id = r.assignment_id join enrolment e on e.course_id = x.course_id and e.person_id = r.person_id
         where x.course_id = $1 group by 1) n on n.assignment_id = a.id
       where a.course_id = $1 and a.state in ('draft', 'published', 'column') order by (a.state = 'column'), a.created_at, a.position, a.id limit 500`,
      [courseId],
    )
  }

  /** Those who have rows in a gradebook, by name; each says how many there are in all. */
  people(courseId: string, testLearner: boolean, first: number): Promise<GradebookPersonRow[]> {
    return this.manager.query(
      `select p.id, p.full_name as "fullName", p.username, e.role, e.state, count(*) over ()::int as "inAll" from enrolment e join person p on p.id = e.person_id
       where e.course_id = $1 and (e.role = 'learner' or ($2 and e.role = 'test_learner'))
       order by e.role desc, p.full_name, p.id limit $3`,
      [courseId, testLearner, first],
    )
  }

  /** @param people of whom; of everybody unless given */
  async cells(assignmentIds: readonly string[], people: readonly string[] | null = null): Promise<CellRow[]> {
    const rows = await this.manager.query<TimedCell[]>(CELLS, [assignmentIds, people])
    for (const row of rows) for (const time of CELL_TIMES) if (row[time] !== null) row[time] = new Date(row[time])
    return rows as CellRow[]
  }

  async trail(
    assignmentId: string,
    personId: string,
    limit: number,
    cursor: string | undefined,
  ): Promise<Page<TrailRow>> {
    const rows = await this.manager.query<TrailRow[]>(
      `select ${ENTRY}, coalesce(case when r.overridden then s.operation = 'override' and s.at = r.override_at else r.score_id = s.id end, false) as counts, case when a.merged_into is not null then a.title end as "mergedFrom"
       from assignment a join score s on s.assignment_id = a.id left join person b on b.id = s.by_person_id
       left join result r on r.assignment_id = $1 and r.person_id = s.person_id
       where (a.id = $1 or a.merged_into = $1) and s.person_id = $2 and ($3::bigint is null or s.id < $3) order by s.id desc limit $4`,
      [assignmentId, personId, serialOf(cursor) ?? null, limit + 1],
    )
    return toPage(rows, limit, (last) => [last.id])
  }

  /** The newest thing that a tool said of a person's score in a column since an entry of the trail; words on progress are none. @param since the entry; null: ever */
  async newestSince(columnId: string, personId: string, since: string | null): Promise<SentScore | undefined> {
    const [row] = await this.manager.query<SentScore[]>(NEWEST_SINCE, [columnId, personId, since ?? '0'])
    return row
  }

  /** Where a person's trail of a column ends; null where there is none yet. */
  async endOfTrail(columnId: string, personId: string): Promise<string | null> {
    const [row] = await this.manager.query<{ id: string }[]>(END_OF_TRAIL, [columnId, personId])
    return row?.id ?? null
  }

  async standing(assignmentId: string, personId: string): Promise<StandingRow | undefined> {
    const [row] = await this.manager.query<StandingRow[]>(
      plannedOnce(
        `select sent, sent_out_of as "sentOutOf", fraction, points, standing, overridden, exempt, counting, counted, override_comment as "overrideComment", at,
           score_id::text as "scoreId", sent_at as "sentAt" from result where assignment_id = $1 and person_id = $2`,
      ),
      [assignmentId, personId],
    )
    return row
  }

  /** What tools sent to columns, and to those merged into them, oldest first by person; of one person only where one is named. */
  steps(columnIds: readonly string[], personId: string | null = null): Promise<StepRow[]> {
    const { which, ids } = oneOrAny(columnIds)
    const asked = (ofOne: string) =>
      `select coalesce(a.merged_into, a.id) as "assignmentId", s.person_id as "personId", s.id::text as id, s.at, s.operation, s.fraction::text as fraction, s.sent,
         s.sent_out_of as "sentOutOf", s.sent_at as "sentAt", s.activity, s.grading, s.comment, s.submitted_at as "submittedAt", c.counting, c.points as "columnPoints"
       from assignment a join assignment c on c.id = coalesce(a.merged_into, a.id) join score s on s.assignment_id = a.id
       where (a.id ${which} and a.merged_into is null or a.merged_into ${which})
         and s.outcome = 'accepted' and s.operation in ('replace', 'delete', 'progress') and s.set_aside_by is null ${ofOne}
       order by s.person_id, coalesce(s.sent_at, s.at), s.id`
    return personId === null
      ? this.manager.query(asked(''), [ids])
      : this.manager.query(plannedOnce(asked('and s.person_id = $2')), [ids, personId])
  }

  /** Marks what came for a person since an entry as left by a sounding. @returns how many entries that were */
  async setAside(mark: {
    assignmentId: string
    personId: string
    since: string | null
    soundingId: string
  }): Promise<number> {
    const [, count] = await this.manager.query<[unknown, number]>(
      plannedOnce(
        `update score s set set_aside_by = $4 from assignment a where a.id = s.assignment_id and (a.id = $1 or a.merged_into = $1) and s.person_id = $2
           and s.id > coalesce($3::bigint, 0) and s.by_person_id is null and s.outcome = 'accepted' and s.operation in ('replace', 'delete', 'progress') and s.set_aside_by is null`,
      ),
      [mark.assignmentId, mark.personId, mark.since, mark.soundingId],
    )
    return count
  }

  /** Scores that a tool sent since then for a person to columns of its own in a course: those of a link, and those of none. */
  elsewhere(link: {
    courseId: string
    resourceLinkId: string
    registrationId: string
    personId: string
    since: Date
  }): Promise<
    {
      title: string
      tiedTo: string | null
      sent: string | null
      sentOutOf: string | null
      wireEntryId: string | null
    }[]
  > {
    return this.manager.query(
      plannedOnce(
        `select a.title, a.tied_to as "tiedTo", s.sent, s.sent_out_of as "sentOutOf", s.wire_entry_id::text as "wireEntryId" from assignment a
         join lateral (select * from score s where s.assignment_id = a.id and s.person_id = $4 and s.at >= $5 order by s.id desc limit 5) s on true
         where a.course_id = $1 and a.registration_id = $3 and (a.tied_to = $2 or a.tied_to is null) and a.state = 'column' order by s.id desc limit 5`,
      ),
      [link.courseId, link.resourceLinkId, link.registrationId, link.personId, link.since],
    )
  }

  /** Sets what was derived, and clears the derived part of everybody else in these columns; of one person only where one is named. */
  async setDerived(
    columnIds: readonly string[],
    rows: readonly DerivedRow[],
    personId: string | null = null,
  ): Promise<void> {
    const { which, ids } = oneOrAny(columnIds)
    const asked = (ofOne: string) =>
      `with given as (
         select * from json_to_recordset($2::json) as x("assignmentId" text, "personId" text, fraction numeric, points numeric, sent text, "sentOutOf" text, "scoreId" bigint,
           attempts integer, counted integer, sum numeric, "outOf" numeric, counting text, at timestamptz, "lastId" bigint, "lastOperation" text,
           activity text, grading text, "heardAt" timestamptz, "sentAt" timestamptz, comment text, "submittedAt" timestamptz)
       ), cleared as (
         update result r set fraction = null, points = null, sent = null, sent_out_of = null, score_id = null, at = null, attempts = 0, counted = 0, sum = 0, sent_at = null,
           activity = null, grading = null, heard_at = null, comment = null, submitted_at = null
         where r.assignment_id ${which} ${ofOne} and not exists (select 1 from given x where x."assignmentId" = r.assignment_id and x."personId" = r.person_id)
       )
       insert into result as r (assignment_id, person_id, fraction, points, sent, sent_out_of, score_id, at, attempts, counted, sum, out_of, counting, last_id, last_operation,
         activity, grading, heard_at, sent_at, comment, submitted_at)
       select "assignmentId", "personId", fraction, points, sent, "sentOutOf", "scoreId", at, attempts, counted, sum, "outOf", counting, "lastId", "lastOperation",
         activity, grading, "heardAt", "sentAt", comment, "submittedAt"
       from given
       on conflict (assignment_id, person_id) do update set fraction = excluded.fraction, points = excluded.points, sent = excluded.sent, sent_out_of = excluded.sent_out_of,
         score_id = excluded.score_id, at = excluded.at, attempts = excluded.attempts, counted = excluded.counted, sum = excluded.sum, out_of = excluded.out_of,
         counting = excluded.counting, last_id = excluded.last_id, last_operation = excluded.last_operation, activity = excluded.activity, grading = excluded.grading,
         heard_at = excluded.heard_at, sent_at = excluded.sent_at, comment = excluded.comment, submitted_at = excluded.submitted_at`
    const given = [ids, JSON.stringify(rows)]
    await (personId === null
      ? this.manager.query(asked(''), given)
      : this.manager.query(plannedOnce(asked('and r.person_id = $3')), [...given, personId]))
  }

  /** The instructor's own word: the trail's entry and the result, in one statement. The caller holds the column's lock. */
  async actByHand(act: {
    assignmentId: string
    personId: string
    at: Date
    byPersonId: string
    operation: 'override' | 'lift' | 'exempt' | 'count'
    points: string | null
    comment: string | null
    outOf: string
    evidence: string | null
  }): Promise<void> {
    await this.manager.query(
      `with entry as (
         insert into score (assignment_id, person_id, at, operation, outcome, points, out_of, points_before, comment, by_person_id, evidence)
         values ($1, $2, $3, $4, 'accepted', $5, $6, (select standing from result where assignment_id = $1 and person_id = $2), $7, $8, $9) returning id
       )
       insert into result as r (assignment_id, person_id, last_id, last_operation, out_of, overridden, override_points, override_comment, override_at, exempt)
       select $1, $2, id, 'progress', $6, $4 = 'override', $5, $7, case when $4 = 'override' then $3::timestamptz end, $4 = 'exempt' from entry
       on conflict (assignment_id, person_id) do update set last_id = excluded.last_id,
         overridden = case $4 when 'override' then true when 'lift' then false else r.overridden end,
         override_points = case $4 when 'override' then excluded.override_points when 'lift' then null else r.override_points end,
         override_comment = case $4 when 'override' then excluded.override_comment when 'lift' then null else r.override_comment end,
         override_at = case $4 when 'override' then excluded.override_at when 'lift' then null else r.override_at end,
         exempt = case $4 when 'exempt' then true when 'count' then false else r.exempt end`,
      [
        act.assignmentId,
        act.personId,
        act.at,
        act.operation,
        act.points,
        act.outOf,
        act.comment,
        act.byPersonId,
        act.evidence,
      ],
    )
  }

  /** Accepted scores an hour, for hours that had any. */
  perHour(since: Date, courseIds: readonly string[] | null): Promise<{ hour: Date; scores: number }[]> {
    const counts = `s.at >= $1 and s.outcome = 'accepted' and s.by_person_id is null and s.set_aside_by is null`
    // Of some courses by their own trails: what others' tools send in a day is not looked through for them.
    const lately =
      courseIds === null
        ? `score s where ${counts}`
        : `assignment a cross join lateral (select s.at from score s where s.assignment_id = a.id and ${counts} offset 0) s where a.course_id = any($2)`
    return this.manager.query(
      `select date_trunc('hour', s.at) as hour, count(*)::int as scores from ${lately} group by 1 order by 1`,
      courseIds === null ? [since] : [since, courseIds],
    )
  }
}
