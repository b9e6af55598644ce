import type { ScoreEntry, ToolState } from '@bathyscribe/contract'
import type { Counting } from '@bathyscribe/core/scores'
import type { EntityManager } from 'typeorm'
import { likePattern, placeOf, serialOf, toPage, type LearnerPlace, type Page } from './paging.js'
import { MADE_BY } from './proven.js'
import type { TrailRow } from './scores.js'
import { RELEASED_TO } from './statements/audience.js'

type Ref = ScoreEntry['person']
type ColumnRef = ScoreEntry['column']
interface ToolRow {
  id: string
  slug: string
  name: string
  state: ToolState
}
export interface HistoryRow extends Omit<TrailRow, 'counts' | 'mergedFrom' | 'handedIn'> {
  person: Ref
  column: ColumnRef
  tool: ToolRow
}
export interface HistoryQuestion {
  search?: string | undefined
  personId?: string | undefined
  columnId?: string | undefined
  outcome?: 'accepted' | 'refused' | undefined
  by?: 'tool' | 'person' | undefined
  limit: number
  cursor?: string | undefined
}
export interface ColumnChangeRow {
  id: string
  at: Date
  column: ColumnRef
  pointsBefore: string
  pointsAfter: string
  countingBefore: Counting
  countingAfter: Counting
  results: number
  by: string | null
}
export interface BurstRow {
  tool: ToolRow
  from: Date
  to: Date
  scores: number
  changed: number
  columns: ColumnRef[]
  firstId: string
  lastId: string
}
export interface UnscoredRow {
  person: Ref
  state: 'active' | 'dropped'
  isFor: boolean
  openedAt: Date | null
  activity: string | null
  grading: string | null
  heardAt: Date | null
  refusedAt: Date | null
  code: string | null
}

export interface WaitingRow {
  person: Ref
  assignment: ColumnRef
  course: { id: string; code: string; title: string }
  tool: ToolRow
  since: Date
  dueAt: Date | null
  reviewable: boolean
}

/**
 * SQL: whether the work behind a result `r` waits for a person to grade it. The same as core's `stateOf` says one by one; a test holds the two together.
 * What was refused after the tool's last word needs to be looked at first.
 */
const WAITS = `r.grading = 'PendingManual' and r.heard_at is not null and not r.overridden and not r.exempt and (r.at is null or r.heard_at > r.at)
  and not exists (select 1 from score f where f.assignment_id = r.assignment_id and f.person_id = r.person_id and f.outcome = 'refused' and f.at > greatest(r.heard_at, r.at))`
const WAITING = `result r join assignment a on a.id = r.assignment_id and a.state = 'published' join course c on c.id = a.course_id and c.state <> 'deleted'
  join enrolment e on e.course_id = a.course_id and e.person_id = r.person_id and e.role = 'learner' and e.state = 'active'`

const ref = (table: string) =>
  `json_build_object('id', ${table}.id, 'fullName', ${table}.full_name, 'username', ${table}.username)`
const column = `json_build_object('id', a.id, 'slug', a.slug, 'title', a.title)`
const tool = `json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state)`
/** Scores of one tool this close to each other, at least so many, are one event. */
const BURST = { gapSeconds: 120, least: 10 }

/** What happened in gradebooks, over whole courses. */
export class ScoreHistoryRecords {
  constructor(private readonly manager: EntityManager) {}

  async list(courseId: string, asked: HistoryQuestion): Promise<Page<HistoryRow>> {
    const rows = await this.manager.query<HistoryRow[]>(
      `select s.id::text as id, s.at, s.operation, s.outcome, s.code, s.sent, s.sent_out_of as "sentOutOf", s.sent_at as "sentAt", s.activity, s.grading, s.points,
         s.out_of as "outOf", s.points_before as "pointsBefore", s.comment, s.wire_entry_id::text as "wireEntryId", s.evidence, s.set_aside_by as "setAsideBy",
         case when b.id is null then null else ${ref('b')} end as by, ${ref('p')} as person, ${column} as "column", ${tool} as tool
       from assignment a join registration t on t.id = a.registration_id
       -- The trails of the course's own columns: by the newest first the scores of all courses would be walked.
       join lateral (select * from score where assignment_id = a.id and ($7::bigint is null or id < $7) and ($5::text is null or outcome = $5)
         and ($3::text is null or person_id = $3) order by id desc limit (case when $2::text is null and $6::text is null then $8::bigint end)) s on true
       join person p on p.id = s.person_id left join person b on b.id = s.by_person_id
       where a.course_id = $1 and ($2::text is null or p.full_name ilike $2 or a.title ilike $2) and ($3::text is null or s.person_id = $3)
         and ($4::text is null or a.id = $4 or a.merged_into = $4) and ($5::text is null or s.outcome = $5)
         and ($6::text is null or (s.by_person_id is not null) = ($6 = 'person')) and ($7::bigint is null or s.id < $7)
       order by s.id desc limit $8::bigint`,
      [
        courseId,
        asked.search ? likePattern(asked.search) : null,
        asked.personId ?? null,
        asked.columnId ?? null,
        asked.outcome ?? null,
        asked.by ?? null,
        serialOf(asked.cursor) ?? null,
        asked.limit + 1,
      ],
    )
    return toPage(rows, asked.limit, (last) => [last.id])
  }

  /**
   * Other points or another way of counting of columns that had scores, newest first: as far back as the oldest entry that is listed beside them.
   * @param from entry of the trail that is listed last; null as far back as there is anything
   * @param until entry after which the list goes on; null for the beginning
   */
  columnChanges(
    courseId: string,
    asked: { columnId?: string | undefined; from: string | null; until: string | null; limit: number },
  ): Promise<ColumnChangeRow[]> {
    return this.manager.query(
      `select d.id::text, d.at, ${column} as "column", d.points_before::text as "pointsBefore", d.points_after::text as "pointsAfter", d.counting_before as "countingBefore",
         d.counting_after as "countingAfter", d.results, ${MADE_BY} as by
       from assignment a join column_change d on d.assignment_id = a.id
       where a.course_id = $1 and ($2::text is null or a.id = $2) and ($3::bigint is null or d.at >= (select at from score where id = $3))
         and ($4::bigint is null or d.at < (select at from score where id = $4)) order by d.at desc, d.id desc limit $5`,
      [courseId, asked.columnId ?? null, asked.from, asked.until, asked.limit],
    )
  }

  /** Rows of scores of one tool that came close after each other, newest first. */
  bursts(courseId: string, since: Date, limit: number): Promise<BurstRow[]> {
    return this.manager.query(
      `with entries as (
         select s.id, s.at, s.points, s.points_before, a.id as column_id, a.registration_id,
           case when s.at - lag(s.at) over (partition by a.registration_id order by s.id) <= make_interval(secs => $4) then 0 else 1 end as begins
         from score s join assignment a on a.id = s.assignment_id
         where a.course_id = $1 and s.at >= $2 and s.outcome = 'accepted' and s.operation in ('replace', 'delete') and s.set_aside_by is null
       ), rows_of as (select *, sum(begins) over (partition by registration_id order by id) as burst from entries)
       select ${tool} as tool, x."from", x."to", x.scores, x.changed, x."firstId", x."lastId",
         (select json_agg(${column} order by a.title) from assignment a where a.id = any(x.columns)) as columns
       from (select registration_id, min(at) as "from", max(at) as "to", count(*)::int as scores,
           count(*) filter (where points is distinct from points_before)::int as changed, array_agg(distinct column_id) as columns,
           min(id)::text as "firstId", max(id)::text as "lastId"
         from rows_of group by registration_id, burst having count(*) >= $5) x join registration t on t.id = x.registration_id
       order by x."to" desc limit $3`,
      [courseId, since, limit, BURST.gapSeconds, BURST.least],
    )
  }

  /** Work that waits for a person to grade it, the longest first. @param courseIds those whose work may be seen; null for all */
  async waiting(
    courseIds: readonly string[] | null,
    asked: { registrationId?: string | undefined; limit: number; after?: LearnerPlace | undefined },
  ): Promise<Page<WaitingRow>> {
    const rows = await this.manager.query<WaitingRow[]>(
      `select ${ref('p')} as person, ${column} as assignment, json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course, ${tool} as tool, r.heard_at as since,
         a.due_at as "dueAt", a.reviewable
       from ${WAITING} join person p on p.id = r.person_id join registration t on t.id = a.registration_id
       where ${WAITS} and ($1::text[] is null or c.id = any($1)) and ($2::text is null or t.id = $2)
         and ($3::timestamptz is null or (date_trunc('milliseconds', r.heard_at), a.id, p.id) > ($3::timestamptz, $4::text, $5::text))
       order by date_trunc('milliseconds', r.heard_at), a.id, p.id limit $6`,
      [
        courseIds,
        asked.registrationId ?? null,
        asked.after?.since ?? null,
        asked.after?.assignmentId ?? null,
        asked.after?.personId ?? null,
        asked.limit + 1,
      ],
    )
    return toPage(rows, asked.limit, placeOf)
  }

  async countWaiting(courseIds: readonly string[] | null): Promise<number> {
    const [row] = await this.manager.query<[{ n: number }]>(
      `select count(*)::int as n from ${WAITING} where ${WAITS} and ($1::text[] is null or c.id = any($1))`,
      [courseIds],
    )
    return row.n
  }

  /** Active learners whom an assignment is for, by name. */
  learners(assignmentId: string, limit: number): Promise<(Ref & { email: string | null })[]> {
    return this.manager.query(
      `select p.id, p.full_name as "fullName", p.username, p.email from assignment a join enrolment e on e.course_id = a.course_id and e.role = 'learner' and e.state = 'active'
       join person p on p.id = e.person_id where a.id = $1 and (a.for_everyone or ${RELEASED_TO('p.id')}) order by p.full_name, p.id limit $2`,
      [assignmentId, limit],
    )
  }

  /** Learners of a column without a score, with what is known of why. */
  unscored(columnId: string): Promise<UnscoredRow[]> {
    return this.manager.query(
      `select ${ref('p')} as person, e.state, (a.for_everyone or ${RELEASED_TO('p.id')}) as "isFor", v.first_at as "openedAt", r.activity, r.grading,
         r.heard_at as "heardAt", f.at as "refusedAt", f.code
       from assignment a join enrolment e on e.course_id = a.course_id and e.role = 'learner' join person p on p.id = e.person_id
       left join visit v on v.assignment_id = a.id and v.person_id = p.id
       left join result r on r.assignment_id = a.id and r.person_id = p.id
       left join lateral (select s.at, s.code from score s where s.assignment_id = a.id and s.person_id = p.id and s.outcome = 'refused' order by s.id desc limit 1) f on true
       where a.id = $1 and r.standing is null and not coalesce(r.exempt, false) order by p.full_name, p.id limit 2000`,
      [columnId],
    )
  }
}
