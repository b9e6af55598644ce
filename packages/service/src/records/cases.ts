import type { CaseRow } from '@bathyscribe/contract'
import type { ProvenUnder } from '@bathyscribe/core/checks'
import type { EntityManager } from 'typeorm'
import { placeOf, toPage, type LearnerPlace, type Page } from './paging.js'
import { MADE_BY } from './proven.js'
import { RELEASED_TO } from './statements/audience.js'

/** Whose case it is. */
export interface CaseKey {
  assignmentId: string
  personId: string
}
export interface CaseStateRow {
  state: 'open' | 'closed'
  since: Date
}
export interface CaseEventRow {
  id: string
  at: Date
  kind: 'said' | 'opened' | 'closed' | 'letter' | 'reminder'
  by: string | null
  subject: string
  text: string
  sentTo: 'learner' | 'support' | null
  sentBy: 'mail' | 'page' | null
  address: string | null
  isWaiting: boolean
  sentAt: Date | null
  failure: string | null
  readAt: Date | null
}
/** What is written down of a case. */
export interface NewCaseEvent extends CaseKey {
  at: Date
  kind: CaseEventRow['kind']
  byPersonId: string
  subject?: string
  text: string
  sentTo?: CaseEventRow['sentTo']
  sentBy?: CaseEventRow['sentBy']
  address?: string | null
}
export interface RemindableRow {
  person: { id: string; fullName: string; username: string }
  email: string | null
  remindedAt: Date | null
}
export interface CaseMail extends CaseKey {
  id: string
  courseId: string
  /** Null where there is no address any more. */
  to: string | null
  /** Of who wrote it. */
  replyTo: string | null
  subject: string
  text: string
  tries: number
}
export interface UnclaimedRow {
  id: string
  courseId: string | null
  at: Date
  code: string | null
  statement: string
  isTheirs: boolean
}
export interface NoteRow {
  id: string
  at: Date
  subject: string
  text: string
  by: string | null
  assignment: { id: string; slug: string; title: string }
  course: { id: string; code: string; title: string }
}

/** Messages of a tool that are looked through, the newest. */
const LOOKED_THROUGH = 20_000

/** Cases of learners, and what learners and support were written. */
export class CaseRecords {
  constructor(private readonly manager: EntityManager) {}

  async state({ assignmentId, personId }: CaseKey): Promise<CaseStateRow | undefined> {
    const [row] = await this.manager.query<CaseStateRow[]>(
      `select state, since from learner_case where assignment_id = $1 and person_id = $2`,
      [assignmentId, personId],
    )
    return row
  }

  /** Sets the state. @returns false when it was that already */
  async set({ assignmentId, personId }: CaseKey, state: CaseStateRow['state'], at: Date): Promise<boolean> {
    const rows = await this.manager.query<unknown[]>(
      `insert into learner_case as c (assignment_id, person_id, state, since) values ($1, $2, $3, $4)
       on conflict (assignment_id, person_id) do update set state = excluded.state, since = excluded.since where c.state <> excluded.state returning 1 as done`,
      [assignmentId, personId, state, at],
    )
    return rows.length > 0
  }

  /** Writes down what happened; what goes by mail waits to be sent. One statement for any number. */
  async add(events: readonly NewCaseEvent[]): Promise<void> {
    await this.manager.query(
      `insert into case_event (assignment_id, person_id, at, kind, by_person_id, subject, text, sent_to, sent_by, address, try_at)
       select "assignmentId", "personId", at, kind, "byPersonId", coalesce(subject, ''), text, "sentTo", "sentBy", address, case when "sentBy" = 'mail' then at end
       from json_to_recordset($1::json) as x("assignmentId" text, "personId" text, at timestamptz, kind text, "byPersonId" text, subject text, text text, "sentTo" text, "sentBy" text, address text)`,
      [JSON.stringify(events)],
    )
  }

  /** How often somebody has said since then that a score is missing, of whatever assignment. */
  async timesSaid(personId: string, since: Date): Promise<number> {
    const [row] = await this.manager.query<[{ n: number }]>(
      `select count(*)::int as n from case_event where person_id = $1 and kind = 'said' and at >= $2`,
      [personId, since],
    )
    return row.n
  }

  events({ assignmentId, personId }: CaseKey, limit: number): Promise<CaseEventRow[]> {
    return this.manager.query(
      `select e.id::text as id, e.at, e.kind, p.full_name as by, e.subject, e.text, e.sent_to as "sentTo", e.sent_by as "sentBy", e.address, e.try_at is not null as "isWaiting",
         e.sent_at as "sentAt", e.failure, e.read_at as "readAt"
       from case_event e left join person p on p.id = e.by_person_id where e.assignment_id = $1 and e.person_id = $2 order by e.id desc limit $3`,
      [assignmentId, personId, limit],
    )
  }

  /** @param courseIds those whose cases may be seen; null for all */
  async list(
    courseIds: readonly string[] | null,
    asked: { state: CaseStateRow['state']; limit: number; after?: LearnerPlace | undefined },
  ): Promise<Page<Omit<CaseRow, 'since'> & { since: Date }>> {
    const rows = await this.manager.query<(Omit<CaseRow, 'since'> & { since: Date })[]>(
      `select json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as person, json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment,
         json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course, json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state) as tool,
         k.state, k.since, (select e.text from case_event e where e.assignment_id = k.assignment_id and e.person_id = k.person_id and e.kind = 'said' order by e.id desc limit 1) as said
       from learner_case k join assignment a on a.id = k.assignment_id join course c on c.id = a.course_id join registration t on t.id = a.registration_id join person p on p.id = k.person_id
       where k.state = $1 and c.state <> 'deleted' and ($2::text[] is null or c.id = any($2))
         and ($3::timestamptz is null or (k.since, k.assignment_id, k.person_id) < ($3::timestamptz, $4::text, $5::text))
       order by k.since desc, k.assignment_id desc, k.person_id desc limit $6`,
      [
        asked.state,
        courseIds,
        asked.after?.since ?? null,
        asked.after?.assignmentId ?? null,
        asked.after?.personId ?? null,
        asked.limit + 1,
      ],
    )
    return toPage(rows, asked.limit, placeOf)
  }

  async countOpen(courseIds: readonly string[] | null): Promise<number> {
    const [row] = await this.manager.query<[{ n: number }]>(
      `select count(*)::int as n from learner_case k join assignment a on a.id = k.assignment_id join course c on c.id = a.course_id
       where k.state = 'open' and c.state <> 'deleted' and ($1::text[] is null or c.id = any($1))`,
      [courseIds],
    )
    return row.n
  }

  /**
   * Refused messages of a link's tool since then that were not taken for anybody's, newest first; `isTheirs`: its body names the person as the tool knows them.
   * Bodies are JSON or XML, so that an identifier in quotation marks or alone in an element is a whole one.
   */
  unclaimed(link: {
    registrationId: string
    assignmentId: string
    subject: string
    since: Date
    limit: number
  }): Promise<UnclaimedRow[]> {
    return this.manager.query(
      `select w.id::text as id, w.course_id as "courseId", w.at, w.code, w.statement, coalesce(position('"' || $5 || '"' in w.request->>'body') > 0 or position('>' || $5 || '<' in w.request->>'body') > 0, false) as "isTheirs"
       from (select * from wire_entry where registration_id = $1 order by id desc limit ${LOOKED_THROUGH}) w
       where w.at >= $3 and w.kind in ('outcome', 'score') and w.direction = 'received' and w.outcome = 'refused' and w.person_id is null
         and w.sounding_id is null and (w.assignment_id is null or w.assignment_id = $2)
       order by w.id desc limit $4`,
      [link.registrationId, link.assignmentId, link.since, link.limit, link.subject],
    )
  }

  /** How many others a tool has sent a score for since then. */
  async othersScored({ assignmentId, personId }: CaseKey, since: Date): Promise<number> {
    const [row] = await this.manager.query<[{ n: number }]>(
      `select count(distinct s.person_id)::int as n from score s join enrolment e on e.person_id = s.person_id and e.role = 'learner'
         join assignment a on a.id = s.assignment_id and a.course_id = e.course_id
       where s.assignment_id = $1 and s.person_id <> $2 and s.at >= $3 and s.outcome = 'accepted' and s.operation = 'replace' and s.by_person_id is null and s.set_aside_by is null`,
      [assignmentId, personId, since],
    )
    return row.n
  }

  /** What was changed of a link or its tool since then, newest first. */
  changes(link: {
    assignmentId: string
    registrationId: string
    since: Date
    limit: number
  }): Promise<{ what: ProvenUnder; at: Date; by: string | null }[]> {
    return this.manager.query(
      `select d.what, d.at, ${MADE_BY} as by
       from (select d.* from proof_change d where d.assignment_id = $1 union all select d.* from proof_change d where d.registration_id = $2) d
       where d.at >= $3 and d.what <> 'points' order by d.at desc, d.id desc limit $4`,
      [link.assignmentId, link.registrationId, link.since, link.limit],
    )
  }

  /** Active learners that an assignment is for and who never opened it, by name. */
  neverOpened(assignmentId: string, limit: number): Promise<RemindableRow[]> {
    return this.manager.query(
      `select json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as person, p.email,
         (select max(e.at) from case_event e where e.assignment_id = a.id and e.person_id = p.id and e.kind = 'reminder') as "remindedAt"
       from assignment a join enrolment n on n.course_id = a.course_id and n.role = 'learner' and n.state = 'active' join person p on p.id = n.person_id and p.closed_at is null
       left join result r on r.assignment_id = a.id and r.person_id = p.id
       where a.id = $1 and (a.for_everyone or ${RELEASED_TO('p.id')}) and not exists (select 1 from visit v where v.assignment_id = a.id and v.person_id = p.id)
         and r.standing is null and r.heard_at is null and not coalesce(r.exempt, false)
       order by p.full_name, p.id limit $2`,
      [assignmentId, limit],
    )
  }

  /** What somebody was told on their pages and has not put away. */
  notes(personId: string, limit: number): Promise<NoteRow[]> {
    return this.manager.query(
      `select e.id::text as id, e.at, e.subject, e.text, b.full_name as by, json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment,
         json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course
       from case_event e join assignment a on a.id = e.assignment_id and a.state = 'published' join course c on c.id = a.course_id and c.state = 'open'
         join enrolment n on n.course_id = c.id and n.person_id = e.person_id and n.state = 'active' left join person b on b.id = e.by_person_id
       where e.person_id = $1 and e.sent_by = 'page' and e.read_at is null order by e.id desc limit $2`,
      [personId, limit],
    )
  }

  /** Where a note of somebody belongs; undefined when there is no such note of theirs. */
  async note(personId: string, id: string): Promise<{ courseId: string; assignmentId: string } | undefined> {
    const [row] = await this.manager.query<{ courseId: string; assignmentId: string }[]>(
      `select a.course_id as "courseId", a.id as "assignmentId" from case_event e join assignment a on a.id = e.assignment_id
       where e.id = $2::bigint and e.person_id = $1 and e.sent_by = 'page'`,
      [personId, id],
    )
    return row
  }

  async putAway(id: string, at: Date): Promise<void> {
    await this.manager.query(`update case_event set read_at = coalesce(read_at, $2) where id = $1::bigint`, [id, at])
  }

  /** Letters to be mailed now, taken until `until`, so that no other process mails them meanwhile. A learner is written to where they are now. */
  async takeToMail(now: Date, until: Date, most: number): Promise<CaseMail[]> {
    const [rows] = await this.manager.query<[CaseMail[], number]>(
      `with taken as (select id from case_event where try_at <= $1 order by try_at, id limit $3 for update skip locked)
       update case_event e set try_at = $2, tries = e.tries + 1 from taken t join case_event w on w.id = t.id left join person b on b.id = w.by_person_id, person p, assignment a
       where t.id = e.id and p.id = e.person_id and a.id = e.assignment_id
       returning e.id::text as id, a.id as "assignmentId", p.id as "personId", a.course_id as "courseId", case when e.sent_to = 'learner' then p.email else e.address end as to, b.email as "replyTo", e.subject, e.text, e.tries::int as tries`,
      [now, until, most],
    )
    return rows
  }

  /** What became of a mail; `tryAt` null: it is out, or given up. */
  async noteMail(
    id: string,
    result: { sentAt: Date | null; failure: string | null; tryAt: Date | null },
  ): Promise<void> {
    await this.manager.query(`update case_event set sent_at = $2, failure = $3, try_at = $4 where id = $1::bigint`, [
      id,
      result.sentAt,
      result.failure,
      result.tryAt,
    ])
  }
}
