import type { ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { serialOf, toPage, type Page } from './paging.js'

export interface ColumnRow {
  id: string
  slug: string
  title: string
  points: string
  category: string | null
  state: 'draft' | 'published'
  tool: { id: string; slug: string; name: string; state: ToolState }
  lastScoreAt: Date | null
  scored: number
}
export interface GradebookPersonRow {
  id: string
  fullName: string
  username: string
  role: string
  state: 'active' | 'dropped'
}
/** What is known of one person in one assignment: a visit, a result, a refusal, or several of them. */
export interface CellRow {
  assignmentId: string
  personId: string
  openedAt: Date | null
  sent: string | null
  points: string | null
  hasResult: boolean
  resultAt: Date | null
  refusedAt: Date | null
}
export interface TrailRow {
  id: string
  at: Date
  operation: 'replace' | 'delete'
  outcome: 'accepted' | 'refused'
  code: string | null
  sent: string | null
  points: string | null
  outOf: string
  wireEntryId: string
  resultData: { kind: 'text' | 'url'; value: string } | null
  counts: boolean
}
export interface StandingRow {
  sent: string | null
  fraction: string | null
  points: string | null
  at: Date
  scoreId: string
  /** When the tool says that it was made; null where it does not say. */
  sentAt: Date | null
}

const CELLS = `
select coalesce(v.assignment_id, r.assignment_id, f.assignment_id) as "assignmentId", coalesce(v.person_id, r.person_id, f.person_id) as "personId",
  v.first_at as "openedAt", r.sent, r.points, r.score_id is not null as "hasResult", r.at as "resultAt", f.at as "refusedAt"
from (select * from visit where assignment_id = any($1) and ($2::text is null or person_id = $2)) v
full join (select * from result where assignment_id = any($1) and ($2::text is null or person_id = $2)) r
  using (assignment_id, person_id)
full join (select assignment_id, person_id, max(at) as at from score
  where assignment_id = any($1) and outcome = 'refused' and ($2::text is null or person_id = $2) group by 1, 2) f
  using (assignment_id, person_id)`

export class ScoreRecords {
  constructor(private readonly manager: EntityManager) {}

  columns(courseId: string): Promise<ColumnRow[]> {
    return this.manager.query(
      `select a.id, a.slug, a.title, a.points, k.name as category, a.state,
         json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state) as tool,
         (select max(r.at) from result r where r.assignment_id = a.id) as "lastScoreAt",
         (select count(*)::int from result r join enrolment e on e.course_id = a.course_id and e.person_id = r.person_id and e.role = 'learner'
           where r.assignment_id = a.id and r.points is not null) as scored
       from assignment a join registration t on t.id = a.registration_id left join category k on k.id = a.category_id
       where a.course_id = $1 and a.state <> 'deleted' order by a.position, a.created_at, a.id limit 500`,
      [courseId],
    )
  }

  people(courseId: string, testLearner: boolean): Promise<GradebookPersonRow[]> {
    return this.manager.query(
      `select p.id, p.full_name as "fullName", p.username, e.role, e.state from enrolment e join person p on p.id = e.person_id
       where e.course_id = $1 and (e.role = 'learner' or ($2 and e.role = 'test_learner'))
       order by e.role desc, p.full_name, p.id limit 2000`,
      [courseId, testLearner],
    )
  }

  cells(assignmentIds: readonly string[], personId: string | null = null): Promise<CellRow[]> {
    return this.manager.query(CELLS, [assignmentIds, personId])
  }

  async trail(
    assignmentId: string,
    personId: string,
    limit: number,
    cursor: string | undefined,
  ): Promise<Page<TrailRow>> {
    const rows = await this.manager.query<TrailRow[]>(
      `select s.id::text as id, s.at, s.operation, s.outcome, s.code, s.sent, s.points, s.out_of as "outOf", s.wire_entry_id::text as "wireEntryId",
         s.result_data as "resultData", r.score_id is not null as counts
       from score s left join result r on r.assignment_id = s.assignment_id and r.person_id = s.person_id and r.score_id = s.id
       where s.assignment_id = $1 and s.person_id = $2 and ($3::bigint is null or s.id < $3) order by s.id desc limit $4`,
      [assignmentId, personId, serialOf(cursor) ?? null, limit + 1],
    )
    return toPage(rows, limit, (last) => [last.id])
  }

  async standing(assignmentId: string, personId: string): Promise<StandingRow | undefined> {
    const [row] = await this.manager.query<StandingRow[]>(
      `select sent, fraction, points, at, score_id::text as "scoreId", sent_at as "sentAt" from result where assignment_id = $1 and person_id = $2`,
      [assignmentId, personId],
    )
    return row
  }

  /** All results of an assignment, for recomputing under its lock. */
  standings(assignmentId: string): Promise<{ personId: string; fraction: string | null }[]> {
    return this.manager.query(`select person_id as "personId", fraction from result where assignment_id = $1`, [
      assignmentId,
    ])
  }

  async setPoints(assignmentId: string, results: { personId: string; points: string | null }[]): Promise<void> {
    await this.manager.query(
      `update result r set points = x.points from unnest($2::text[], $3::numeric[]) as x(person_id, points)
       where r.assignment_id = $1 and r.person_id = x.person_id`,
      [assignmentId, results.map((one) => one.personId), results.map((one) => one.points)],
    )
  }

  /** Accepted scores an hour, for hours that had any. */
  perHour(since: Date, courseIds: readonly string[] | null): Promise<{ hour: Date; scores: number }[]> {
    return this.manager.query(
      `select date_trunc('hour', s.at) as hour, count(*)::int as scores from score s
       where s.at >= $1 and s.outcome = 'accepted'
         and ($2::text[] is null or s.assignment_id in (select id from assignment where course_id = any($2)))
       group by 1 order by 1`,
      [since, courseIds],
    )
  }
}
