import type { ExportReading } from '@bathyscribe/core/reconciliation'
import type { EntityManager } from 'typeorm'

/** Somebody of the course with everything that the trail of one column says. */
export interface ReconciledPersonRow {
  id: string
  fullName: string
  username: string
  subject: string
  sourcedId: string | null
  email: string | null
  state: 'active' | 'dropped'
  standing: string | null
  derived: string | null
  overridden: boolean
  exempt: boolean
  grading: string | null
  openedAt: Date | null
  received: { at: string; points: string | null }[]
  refused: { at: string; code: string; sent: string | null } | null
}
export interface ReadingRow {
  reading: ExportReading
  maximum: string | null
}

export class ReconciliationRecords {
  constructor(private readonly manager: EntityManager) {}

  async reading(registrationId: string, heads: string): Promise<ReadingRow | undefined> {
    const [row] = await this.manager.query<ReadingRow[]>(
      `select reading, maximum from export_reading where registration_id = $1 and heads = $2`,
      [registrationId, heads],
    )
    return row
  }

  async remember(
    row: ReadingRow & { registrationId: string; heads: string; personId: string; at: Date },
  ): Promise<void> {
    await this.manager.query(
      `insert into export_reading (registration_id, heads, reading, maximum, person_id, at) values ($1, $2, $3, $4, $5, $6)
       on conflict (registration_id, heads) do update set reading = excluded.reading, maximum = excluded.maximum, person_id = excluded.person_id, at = excluded.at`,
      [row.registrationId, row.heads, JSON.stringify(row.reading), row.maximum, row.personId, row.at],
    )
  }

  /** The learners of a column's course. One query, the trails in it. */
  people(columnId: string): Promise<ReconciledPersonRow[]> {
    return this.manager.query(
      `with trail as (
         select s.person_id,
           coalesce(json_agg(json_build_object('at', s.at, 'points', points_of(s.fraction, c.points)::text) order by coalesce(s.sent_at, s.at), s.id)
             filter (where s.outcome = 'accepted' and s.operation in ('replace', 'delete')), '[]') as received,
           (array_agg(json_build_object('at', s.at, 'code', s.code, 'sent', s.sent) order by s.id desc) filter (where s.outcome = 'refused'))[1] as refused
         from assignment c join assignment a on a.id = c.id or a.merged_into = c.id join score s on s.assignment_id = a.id
         where c.id = $1 and s.set_aside_by is null group by 1
       )
       select p.id, p.full_name as "fullName", p.username, p.subject, p.sourced_id as "sourcedId", p.email, e.state, r.standing, r.points as derived,
         coalesce(r.overridden, false) as overridden, coalesce(r.exempt, false) as exempt, r.grading, v.first_at as "openedAt",
         coalesce(t.received, '[]') as received, t.refused
       from assignment c join enrolment e on e.course_id = c.course_id and e.role = 'learner' join person p on p.id = e.person_id
       left join result r on r.assignment_id = c.id and r.person_id = p.id
       left join visit v on v.assignment_id = c.id and v.person_id = p.id
       left join trail t on t.person_id = p.id
       where c.id = $1 order by p.full_name, p.id`,
      [columnId],
    )
  }
}
