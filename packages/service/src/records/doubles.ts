import type { EntityManager } from 'typeorm'

/** A launch as it was sent, of whatever version. */
export interface SentLaunchRow {
  id: string
  at: Date
  personId: string
  assignmentId: string | null
  courseId: string | null
  /** Names and values of a form, and the claims of LTI 1.3 as JSON. */
  parameters: [string, string][] | null
  body: string | null
}

const SENT = `select w.id::text as id, w.at, w.person_id as "personId", w.assignment_id as "assignmentId", w.course_id as "courseId", w.request->'parameters' as parameters,
  w.request->>'body' as body from wire_entry w where w.kind = 'launch' and w.direction = 'sent' and w.outcome = 'accepted' and w.sounding_id is null`

/** Accounts that several people seem to share, and taking them apart. */
export class DoubleRecords {
  constructor(private readonly manager: EntityManager) {}

  /** The number of the newest entry. */
  async newest(): Promise<string> {
    const [row] = await this.manager.query<{ id: string | null }[]>(`select max(id)::text as id from wire_entry`)
    return row?.id ?? '0'
  }

  /** Launches among the entries from `from` on, but before `before`, newest first. */
  between(from: string, before: string, limit: number): Promise<SentLaunchRow[]> {
    return this.manager.query(
      `${SENT} and w.person_id is not null and w.id >= $1::bigint and w.id < $2::bigint order by w.id desc limit $3`,
      [from, before, limit],
    )
  }

  /** All launches of one person that the wire log still has. */
  launchesOf(personId: string): Promise<SentLaunchRow[]> {
    return this.manager.query(`${SENT} and w.person_id = $1 order by w.id`, [personId])
  }

  /** The trail of one person, in all courses that the person is in or was in. */
  trailOf(personId: string): Promise<{ id: string; assignmentId: string; wireEntryId: string | null }[]> {
    return this.manager.query(
      `select s.id::text as id, s.assignment_id as "assignmentId", s.wire_entry_id::text as "wireEntryId" from enrolment e
       join assignment a on a.course_id = e.course_id join score s on s.assignment_id = a.id and s.person_id = e.person_id where e.person_id = $1 order by s.id`,
      [personId],
    )
  }

  /** Until the end of the transaction nobody else takes this account apart. */
  async lock(personId: string): Promise<void> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtext('part ' || $1))`, [personId])
  }

  /** Courses by their codes. */
  codesOf(courseIds: readonly string[]): Promise<{ id: string; code: string }[]> {
    return this.manager.query(`select id, code from course where id = any($1) order by code`, [courseIds])
  }

  /** Columns in which these assignments count: themselves, or those that they were merged into. */
  async columnsOf(assignmentIds: readonly string[]): Promise<string[]> {
    const rows = await this.manager.query<{ id: string }[]>(
      `select distinct coalesce(merged_into, id) as id from assignment where id = any($1) order by 1`,
      [assignmentIds],
    )
    return rows.map((one) => one.id)
  }

  /** Gives launches and scores to another account, with their wire entries and visits, and puts that account into their courses, in the same role. */
  async give(part: {
    from: string
    to: string
    launches: readonly { wireEntryId: string; assignmentId: string | null; courseId: string | null; at: Date }[]
    scores: readonly { id: string; wireEntryId: string | null }[]
  }): Promise<void> {
    const { from, to, launches, scores } = part
    const entries = [...launches, ...scores].flatMap((one) => one.wireEntryId ?? [])
    await this.manager.query(`update wire_entry set person_id = $2 where id = any($3::bigint[]) and person_id = $1`, [from, to, entries]) // oxfmt-ignore
    await this.manager.query(`update score set person_id = $2 where id = any($3::bigint[]) and person_id = $1`, [from, to, scores.map((one) => one.id)]) // oxfmt-ignore
    const linked = launches.filter((one) => one.assignmentId !== null)
    const visits = [linked.map((one) => one.assignmentId), linked.map((one) => one.at), linked.map((one) => one.wireEntryId)] // oxfmt-ignore
    await this.manager.query(
      `insert into visit (assignment_id, person_id, first_at, last_at, launches, last_wire_id)
       select x.link, $1, min(x.at), max(x.at), count(*), max(x.entry) from unnest($2::text[], $3::timestamptz[], $4::bigint[]) as x(link, at, entry)
       where exists (select 1 from assignment a where a.id = x.link) group by x.link`,
      [to, ...visits],
    )
    // What the wire log has forgotten stays with the first account.
    await this.manager.query(
      `with given as (select x.link, count(*) as n from unnest($2::text[]) as x(link) group by 1),
         gone as (delete from visit v using given g where v.person_id = $1 and v.assignment_id = g.link and v.launches <= g.n)
       update visit v set launches = v.launches - g.n, last_at = coalesce(g.at, v.first_at), last_wire_id = coalesce(g.entry, v.last_wire_id)
       from (select g.*, max(w.at) as at, max(w.id) as entry from given g
         left join wire_entry w on w.person_id = $1 and w.assignment_id = g.link and w.kind = 'launch' and w.outcome = 'accepted' group by g.link, g.n) g
       where v.person_id = $1 and v.assignment_id = g.link and v.launches > g.n`,
      [from, visits[0]],
    )
    await this.manager.query(
      `insert into enrolment (course_id, person_id, role, state, since, dropped_at)
       select course_id, $2, role, state, since, dropped_at from enrolment where person_id = $1 and course_id = any($3) on conflict do nothing`,
      [from, to, [...new Set(launches.flatMap((one) => one.courseId ?? []))]],
    )
  }
}
