import type { CourseRole, SiteRole } from '@bathyscribe/core/identity'
import type { EntityManager } from 'typeorm'
import { IS_FOR } from './statements/audience.js'

/** Somebody of a course, as a roster service gives people out. */
export interface RosterRow {
  id: string
  subject: string
  username: string
  givenName: string
  familyName: string
  fullName: string
  email: string | null
  sourcedId: string | null
  siteRole: SiteRole
  role: CourseRole
  state: 'active' | 'dropped'
  groups: string[]
}

export interface RosterQuestion {
  courseId: string
  registrationId: string
  roles: readonly CourseRole[]
  /** Transaction from which on changes are asked for; then those who left are among them. */
  since: string | null
  /** Identifier of the last person of the page before. */
  after: string | null
  limit: number
  at: Date
  /** Whether the tool reads the whole roster by it, so that it is known what it has heard of. */
  notes: boolean
  /** Only those whom an assignment is for; null for everybody. */
  forAssignment: string | null
}

/** What a link's launches say of its own. */
export interface RosterLink {
  /** Null for links that everybody of the course may open. */
  assignmentId: string | null
  resourceLinkId: string
  title: string
  instructions: string
  customParameters: Record<string, string>
  opensAt: Date | null
  dueAt: Date | null
  closesAt: Date | null
}

const PAGE = `
with mark as (
  select pg_snapshot_xmin(pg_current_snapshot())::text::bigint as mark
), noted as (
  insert into roster_reading (registration_id, course_id, at, watermark, members)
  select $2, $1, $7, mark, (select count(*)::int from enrolment where course_id = $1 and state = 'active') from mark where $8
  on conflict (registration_id, course_id) do update set at = excluded.at, watermark = excluded.watermark, members = excluded.members
)
select p.id, p.subject, p.username, p.given_name as "givenName", p.family_name as "familyName", p.full_name as "fullName", p.email, p.sourced_id as "sourcedId",
  p.site_role as "siteRole", e.role, case when p.closed_at is not null then 'dropped' else e.state end as state,
  coalesce((select array_agg(m.group_id order by m.group_id) from group_member m join course_group g on g.id = m.group_id join group_set s on s.id = g.set_id
    where m.person_id = p.id and s.course_id = $1), '{}') as groups,
  (select mark from mark)::text as mark
from enrolment e join person p on p.id = e.person_id
where e.course_id = $1 and e.role = any($3) and ($5::text is null or e.person_id > $5)
  and ($9::text is null or e.role not in ('learner', 'test_learner') or exists (select 1 from assignment a where a.id = $9 and ${IS_FOR('e.person_id')}))
  and case when $4::bigint is null then e.state = 'active' and p.closed_at is null else e.changed >= $4 or p.changed >= $4 end
order by e.person_id limit $6`

/** What tools read of rosters. */
export class RosterRecords {
  constructor(private readonly manager: EntityManager) {}

  /** One page of a roster, and from where on later changes can be asked for. One statement. */
  async page(question: RosterQuestion): Promise<{ rows: RosterRow[]; mark: string | null }> {
    const { courseId, registrationId, roles, since, after, limit, at, notes, forAssignment } = question
    const rows = await this.manager.query<(RosterRow & { mark: string })[]>(PAGE, [
      courseId,
      registrationId,
      roles,
      since,
      after,
      limit,
      at,
      notes,
      forAssignment,
    ])
    return { rows, mark: rows[0]?.mark ?? null }
  }

  /** How many people a tool may read in a course, and when it last did. */
  async offered(courseId: string, registrationId: string): Promise<{ members: number; lastReadAt: Date | null }> {
    const [row] = await this.manager.query<{ members: number; lastReadAt: Date | null }[]>(
      `select (count(*) filter (where e.role <> 'test_learner' or t.roster_test_learner))::int as members,
         (select at from roster_reading where registration_id = $2 and course_id = $1) as "lastReadAt"
       from enrolment e join person p on p.id = e.person_id join registration t on t.id = $2
       where e.course_id = $1 and e.state = 'active' and p.closed_at is null`,
      [courseId, registrationId],
    )
    return row!
  }

  /** From where on changes can be asked for, when a page is empty. */
  async mark(): Promise<string> {
    const [row] = await this.manager.query<{ mark: string }[]>(
      `select pg_snapshot_xmin(pg_current_snapshot())::text as mark`,
    )
    return row!.mark
  }

  /** A link as rosters by link need it (NRPS 2.0 section 2.2.3). */
  async link(courseId: string, registrationId: string, resourceLinkId: string): Promise<RosterLink | undefined> {
    const ours = 'where course_id = $1 and registration_id = $2 and resource_link_id = $3'
    const [row] = await this.manager.query<RosterLink[]>(
      `select x.id as "assignmentId", $3 as "resourceLinkId", x.title, x.instructions, x.custom_parameters as "customParameters", x.opens_at as "opensAt", x.due_at as "dueAt", x.closes_at as "closesAt"
       from (select id, title, instructions, custom_parameters, opens_at, due_at, closes_at from assignment ${ours} and state in ('draft', 'published')
         union all select null, title, '', custom_parameters, null, null, null from unit_item ${ours}
         union all select null, label, '', custom_parameters, null, null, null from menu_entry ${ours} limit 1) x`,
      [courseId, registrationId, resourceLinkId],
    )
    return row
  }
}
