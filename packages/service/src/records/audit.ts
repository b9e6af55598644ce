import type { EntityManager } from 'typeorm'
import { likePattern, serialOf, toPage, type Page } from './paging.js'

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

/** What is looked for in the audit. */
export interface AuditWanted {
  search?: string | undefined
  personId?: string | undefined
  courseId?: string | undefined
  since?: Date | undefined
  until?: Date | undefined
}

const LISTED = `
select x.id::text as id, x.at, x.via, x.action, x.subject, x.before, x.after,
  case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as person,
  case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course
from audit_entry x left join person p on p.id = x.person_id left join course c on c.id = x.course_id
where ($1::bigint is null or x.id < $1) and ($3::text is null or x.action ilike $3 or x.subject ilike $3)
  and ($4::text is null or x.person_id = $4) and ($5::text is null or x.course_id = $5)
  and ($6::timestamptz is null or x.at >= $6) and ($7::timestamptz is null or x.at < $7)
order by x.id desc limit $2`

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

  async list(wanted: AuditWanted, limit: number, cursor: string | undefined): Promise<Page<AuditRow>> {
    const { search, personId, courseId, since, until } = wanted
    const rows = await this.manager.query<AuditRow[]>(LISTED, [
      serialOf(cursor) ?? null,
      limit + 1,
      search ? likePattern(search) : null,
      personId ?? null,
      courseId ?? null,
      since ?? null,
      until ?? null,
    ])
    return toPage(rows, limit, (last) => [last.id])
  }
}

/** The audit inside a transaction: what is done there is added there, so that neither stands without the other. */
export class AuditOfDone extends AuditRecords {
  add(entry: NewAuditEntry): Promise<void> {
    return this.write(entry)
  }
}
