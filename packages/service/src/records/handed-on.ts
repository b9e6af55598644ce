import type { HandOn, HandOnTrouble } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

export interface OfficeRow {
  url: string
  tokenUrl: string
  clientId: string
  secretSealed: Buffer
  paused: boolean
  everyMinutes: number | null
  updatedAt: Date
}
/** A result as it is to stand at the records office. */
export interface ToHandOnRow {
  columnId: string
  personId: string
  studentId: string
  points: string | null
  exempt: boolean
  comment: string | null
  at: Date
  fingerprint: string
}
export interface HandedColumnRow {
  id: string
  slug: string
  title: string
  mode: HandOn
  results: number
  accepted: number
  waiting: number
  refused: number
  unsent: number
}
export interface OfficeColumnRow {
  id: string
  title: string
  points: string
  dueAt: Date | null
  changedAt: Date
  category: { id: string; title: string; weight: string | null } | null
  classId: string
}

/** What there is to hand on, with a fingerprint of exactly what the office would be told. Exempt ones are told as such; who has nothing is not told of. */
const CURRENT = `
select a.id as column_id, r.person_id, coalesce(p.sourced_id, p.username) as student_id, r.standing as points, r.exempt, coalesce(r.override_comment, r.comment) as comment,
  coalesce(r.override_at, r.at, r.heard_at, now()) as at,
  md5(concat_ws('|', coalesce(p.sourced_id, p.username), coalesce(r.standing::text, '-'), r.exempt::text, coalesce(r.override_comment, r.comment, ''), a.points::text)) as fingerprint
from assignment a join result r on r.assignment_id = a.id join person p on p.id = r.person_id
join enrolment e on e.course_id = a.course_id and e.person_id = p.id and e.role = 'learner'
where a.state in ('published', 'column') and (r.score_id is not null or r.overridden or r.exempt)`

/** What goes on to the records office, and what it answered. */
export class HandedOnRecords {
  constructor(private readonly manager: EntityManager) {}

  async office(): Promise<OfficeRow | undefined> {
    const [row] = await this.manager.query<OfficeRow[]>(
      `select url, token_url as "tokenUrl", client_id as "clientId", secret_sealed as "secretSealed", paused, every_minutes as "everyMinutes", updated_at as "updatedAt"
       from records_office`,
    )
    return row
  }

  async setOffice(row: OfficeRow): Promise<void> {
    await this.manager.query(
      `insert into records_office (url, token_url, client_id, secret_sealed, paused, every_minutes, updated_at) values ($1, $2, $3, $4, $5, $6, $7)
       on conflict (id) do update set url = excluded.url, token_url = excluded.token_url, client_id = excluded.client_id, secret_sealed = excluded.secret_sealed,
         paused = excluded.paused, every_minutes = excluded.every_minutes, updated_at = excluded.updated_at`,
      [row.url, row.tokenUrl, row.clientId, row.secretSealed, row.paused, row.everyMinutes, row.updatedAt],
    )
  }

  async removeOffice(): Promise<void> {
    await this.manager.query(`delete from records_office`)
  }

  async setMode(columnId: string, mode: HandOn): Promise<void> {
    await this.manager.query(`update assignment set hand_on = $2 where id = $1`, [columnId, mode])
  }

  columns(courseId: string): Promise<HandedColumnRow[]> {
    return this.manager.query(
      `with current as (${CURRENT} and a.course_id = $1)
       select a.id, a.slug, a.title, a.hand_on as mode, count(c.person_id)::int as results,
         count(*) filter (where h.fingerprint = c.fingerprint and h.state = 'accepted')::int as accepted,
         count(*) filter (where h.fingerprint = c.fingerprint and h.state = 'waiting')::int as waiting,
         count(*) filter (where h.fingerprint = c.fingerprint and h.state = 'refused')::int as refused,
         count(*) filter (where c.person_id is not null and h.fingerprint is distinct from c.fingerprint)::int as unsent
       from assignment a left join current c on c.column_id = a.id left join handed_on h on h.assignment_id = a.id and h.person_id = c.person_id
       where a.course_id = $1 and a.state in ('published', 'column') group by a.id order by a.created_at, a.position, a.id`,
      [courseId],
    )
  }

  trouble(courseId: string, limit: number): Promise<(Omit<HandOnTrouble, 'nextAt'> & { nextAt: Date | null })[]> {
    return this.manager.query(
      `select json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as person,
         json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as "column", h.points, h.state, h.tries, h.answer, h.next_at as "nextAt"
       from handed_on h join assignment a on a.id = h.assignment_id join person p on p.id = h.person_id
       where a.course_id = $1 and (h.state = 'refused' or (h.state = 'waiting' and h.tries > 0)) order by h.state, p.full_name, a.title limit $2`,
      [courseId, limit],
    )
  }

  /** Puts what was never sent or has changed into the queue. @returns how many */
  async queue(
    where: { columnIds: readonly string[] } | { mode: 'at_once' | 'scheduled' },
    again: boolean,
    now: Date,
  ): Promise<number> {
    const filter = 'columnIds' in where ? `a.id = any($1) and a.hand_on <> 'never'` : `a.hand_on = $1`
    const [row] = await this.manager.query<{ n: number }[]>(
      `with current as (${CURRENT} and ${filter}), queued as (
         insert into handed_on as h (assignment_id, person_id, fingerprint, points, state, next_at, asked_at)
         select column_id, person_id, fingerprint, points, 'waiting', $2, $2 from current order by column_id, person_id
         on conflict (assignment_id, person_id) do update set fingerprint = excluded.fingerprint, points = excluded.points, state = 'waiting', tries = 0,
           next_at = excluded.next_at, asked_at = excluded.asked_at, answer = ''
         where h.fingerprint <> excluded.fingerprint or (h.state = 'refused' and $3)
         returning 1)
       select count(*)::int as n from queued`,
      ['columnIds' in where ? where.columnIds : where.mode, now, again],
    )
    return row!.n
  }

  /** How many `queue` would put into the queue. */
  async countToQueue(columnIds: readonly string[], again: boolean): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from (${CURRENT} and a.id = any($1) and a.hand_on <> 'never') c
       left join handed_on h on h.assignment_id = c.column_id and h.person_id = c.person_id
       where h.assignment_id is null or h.fingerprint <> c.fingerprint or (h.state = 'refused' and $2)`,
      [columnIds, again],
    )
    return row!.n
  }

  /** How many results columns have. */
  async count(columnIds: readonly string[]): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from (${CURRENT} and a.id = any($1)) c`,
      [columnIds],
    )
    return row!.n
  }

  /** Takes what is due for a while: no other process sends the same meanwhile, and after a crash it is due again. */
  async claim(now: Date, until: Date, limit: number): Promise<(ToHandOnRow & { tries: number })[]> {
    return this.manager.query<(ToHandOnRow & { tries: number })[]>(
      `with due as (
         select h.assignment_id, h.person_id from handed_on h where h.state = 'waiting' and h.next_at <= $1 order by h.next_at, h.assignment_id, h.person_id limit $3
         for update skip locked
       ), claimed as (
         update handed_on h set next_at = $2 from due d where h.assignment_id = d.assignment_id and h.person_id = d.person_id
         returning h.assignment_id, h.person_id, h.tries
       )
       select c.column_id as "columnId", c.person_id as "personId", c.student_id as "studentId", c.points, c.exempt, c.comment, c.at, c.fingerprint, k.tries
       from claimed k join (${CURRENT}) c on c.column_id = k.assignment_id and c.person_id = k.person_id`,
      [now, until, limit],
    )
  }

  /** What the office said of what was sent. What has changed since stays in the queue. */
  async answered(
    rows: readonly {
      columnId: string
      personId: string
      fingerprint: string
      points: string | null
      state: 'waiting' | 'accepted' | 'refused'
      answer: string
      nextAt: Date | null
    }[],
    now: Date,
  ): Promise<void> {
    await this.manager.query(
      `update handed_on h set state = x.state, answer = x.answer, tries = h.tries + 1, next_at = x."nextAt", answered_at = $2, fingerprint = x.fingerprint, points = x.points
       from json_to_recordset($1::json) as x("columnId" text, "personId" text, fingerprint text, points numeric, state text, answer text, "nextAt" timestamptz)
       where h.assignment_id = x."columnId" and h.person_id = x."personId" and h.state = 'waiting'`,
      [JSON.stringify(rows), now],
    )
  }

  /** Columns as a student information system knows them. */
  officeColumns(ids: readonly string[]): Promise<OfficeColumnRow[]> {
    return this.manager.query(
      `select a.id, a.title, a.points, a.due_at as "dueAt", a.updated_at as "changedAt", coalesce(c.sourced_id, c.code_key) as "classId",
         case when k.id is null then null else json_build_object('id', k.id, 'title', k.name, 'weight', k.weight::text) end as category
       from assignment a join course c on c.id = a.course_id left join category k on k.id = a.category_id where a.id = any($1)`,
      [ids],
    )
  }

  /** Everything of a course that could be handed on. */
  async resultsOf(courseId: string): Promise<ToHandOnRow[]> {
    return this.manager.query(
      `select column_id as "columnId", person_id as "personId", student_id as "studentId", points, exempt, comment, at, fingerprint
       from (${CURRENT} and a.course_id = $1) c order by column_id, student_id`,
      [courseId],
    )
  }

  async coursesOf(columnIds: readonly string[]): Promise<string[]> {
    const rows = await this.manager.query<{ id: string }[]>(
      `select distinct course_id as id from assignment where id = any($1)`,
      [columnIds],
    )
    return rows.map((row) => row.id)
  }

  /** How many wait for longer than is good, over all courses. */
  async behind(since: Date): Promise<{ waiting: number; refused: number }> {
    const [row] = await this.manager.query<{ waiting: number; refused: number }[]>(
      `select count(*) filter (where state = 'waiting' and asked_at < $1)::int as waiting, count(*) filter (where state = 'refused')::int as refused from handed_on`,
      [since],
    )
    return row!
  }
}
