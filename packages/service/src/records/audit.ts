import type { EntityManager } from 'typeorm'
import { serialOf, toPage, type Page } from './paging.js'

export interface AuditRow {
  id: string
  at: Date
  person: { id: string; fullName: string; username: string } | null
  via: string
  action: string
  subject: string
  course: { id: string; code: string; title: string } | null
  before: unknown
  after: unknown
}

export interface NewAuditEntry {
  at: Date
  personId: string | null
  via: string
  action: string
  subject: string
  courseId?: string | null
  /** Never secrets: callers mask them. */
  before?: unknown
  after?: unknown
}

export class AuditRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Notes what changes nothing, such as a sign-in that was refused. What was changed is added where it is done: `AuditOfDone`. */
  note(entry: NewAuditEntry): Promise<void> {
    return this.write(entry)
  }

  protected async write(entry: NewAuditEntry): Promise<void> {
    await this.manager.query(
      `insert into audit_entry (at, person_id, via, action, subject, course_id, before, after) values ($1, $2, $3, $4, $5, $6, $7, $8)`,
      [
        entry.at,
        entry.personId,
        entry.via,
        entry.action,
        entry.subject,
        entry.courseId ?? null,
        entry.before === undefined ? null : JSON.stringify(entry.before),
        entry.after === undefined ? null : JSON.stringify(entry.after),
      ],
    )
  }

  async list(limit: number, cursor: string | undefined): Promise<Page<AuditRow>> {
    const rows = await this.manager.query<AuditRow[]>(
      `select x.id::text as id, x.at, x.via, x.action, x.subject, x.before, x.after,
         case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as person,
         case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course
       from audit_entry x left join person p on p.id = x.person_id left join course c on c.id = x.course_id
       where ($1::bigint is null or x.id < $1) order by x.id desc limit $2`,
      [serialOf(cursor) ?? null, limit + 1],
    )
    return toPage(rows, limit, (last) => [last.id])
  }
}

/** The audit inside a transaction: what is done there is added there, so that neither stands without the other. */
export class AuditOfDone extends AuditRecords {
  add(entry: NewAuditEntry): Promise<void> {
    return this.write(entry)
  }
}
