import type { ToolState } from '@bathyscribe/contract'
import type { CourseRole, Disclosure } from '@bathyscribe/core/identity'
import type { Pool } from 'pg'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'

/** Who calls a service of a course, and, where a column and a person are named, these as far as they are the tool's own and of the course. */
export interface CallerRow {
  tool: {
    id: string
    name: string
    state: ToolState
    scoresWhileSuspended: boolean
    scopes: string[]
    disclosure: Disclosure
    rosterTestLearner: boolean
    customParameters: Record<string, string>
  }
  course: {
    id: string
    code: string
    title: string
    sourcedId: string | null
    startsAt: Date | null
    endsAt: Date | null
  }
  /** Whether the tool has a place in the course, or was let into it by the connection. */
  isThere: boolean
  /** The scopes of the connection that the token is for; null where it is for none, or for one that opens nothing here. */
  connectionScopes: string[] | null
  column: ServiceColumn | null
  person: { id: string; fullName: string; role: CourseRole; state: 'active' | 'dropped' } | null
}

/** A column that a tool may fill. */
export interface ServiceColumn {
  /** The one that counts: where it was merged into another, that one. */
  id: string
  /** The one that was named, when another stands for it. */
  sentTo: string | null
  title: string
  points: string
}

export interface CallerQuestion {
  clientId: string
  courseId: string
  connection?: string | undefined
  column?: string | undefined
  subject?: string | undefined
}

const HAS_A_PLACE = `(a.id is not null or exists (select 1 from course_tool t where t.registration_id = r.id and t.course_id = c.id)
    or exists (select 1 from assignment t where t.registration_id = r.id and t.course_id = c.id and t.state <> 'deleted')
    or exists (select 1 from unit_item t where t.registration_id = r.id and t.course_id = c.id)
    or exists (select 1 from menu_entry t where t.registration_id = r.id and t.course_id = c.id))`

/** A connection opens what its person still instructs. */
const CONNECTION = `left join lateral (
  select o.id, o.scopes from connection o join connection_course x on x.connection_id = o.id and x.course_id = c.id join person own on own.id = o.person_id
  where o.id = asked.connection and o.registration_id = r.id and o.revoked_at is null and own.closed_at is null and (own.site_role = 'administrator'
    or exists (select 1 from enrolment e where e.course_id = c.id and e.person_id = own.id and e.role = 'instructor' and e.state = 'active'))
) k on asked.connection is not null`

// As few things to look up as there are to know: this stands before every score.
const find = ({ isThere, scopes, connection }: { isThere: string; scopes: string; connection: string }) => `
select json_build_object('id', r.id, 'name', r.name, 'state', r.state, 'scoresWhileSuspended', r.scores_while_suspended, 'scopes', r.scopes, 'disclosure', r.disclosure, 'rosterTestLearner', r.roster_test_learner,
    'customParameters', r.custom_parameters) as tool,
  json_build_object('id', c.id, 'code', c.code, 'title', c.title, 'sourcedId', c.sourced_id) as course, c.starts_at as "startsAt", c.ends_at as "endsAt",
  ${isThere} as "isThere", ${scopes} as "connectionScopes",
  case when a.id is not null then json_build_object('id', coalesce(into_.id, a.id), 'sentTo', case when into_.id is not null then a.id end,
    'title', coalesce(into_.title, a.title), 'points', coalesce(into_.points, a.points)::text) end as "column",
  case when e.person_id is not null then json_build_object('id', p.id, 'fullName', p.full_name, 'role', e.role, 'state', e.state) end as person
from ${unfolded({ client_id: 'text', course_id: 'text', item: 'text', subject: 'text', connection: 'text' })}
left join registration r on r.client_id = asked.client_id
left join course c on c.id = asked.course_id and c.state <> 'deleted'
${connection}
left join assignment a on a.id = asked.item and a.course_id = c.id and a.registration_id = r.id and a.state <> 'deleted'
left join assignment into_ on into_.id = a.merged_into
left join person p on p.subject = asked.subject
left join enrolment e on e.course_id = c.id and e.person_id = p.id
order by asked.n`

/** Of a column: that it is the tool's own is its place in the course. */
const FIND_BY_COLUMN = find({ isThere: 'a.id is not null', scopes: 'null::text[]', connection: '' })
const FIND = find({
  isThere: `case when asked.connection is not null then k.id is not null else ${HAS_A_PLACE} end`,
  scopes: 'k.scopes',
  connection: CONNECTION,
})

type Row = Omit<CallerRow, 'course' | 'tool'> & {
  tool: CallerRow['tool'] & { id: string | null }
  course: Omit<CallerRow['course'], 'startsAt' | 'endsAt'> & { id: string | null }
  startsAt: Date | null
  endsAt: Date | null
}

/** Finds callers of services, gathered; undefined where tool or course does not exist. */
export function callerFinder(pool: Pool): (asked: CallerQuestion) => Promise<CallerRow | undefined> {
  const byColumn = finderBy(pool, 'find-callers-by-column', FIND_BY_COLUMN)
  const anywhere = finderBy(pool, 'find-callers', FIND)
  return async (asked) => {
    if (asked.column === undefined || asked.connection !== undefined) return anywhere(asked)
    const found = await byColumn(asked)
    // Where there is no such column, what else the tool has in the course decides what is said.
    return found?.column ? found : anywhere(asked)
  }
}

function finderBy(pool: Pool, name: string, text: string): (asked: CallerQuestion) => Promise<CallerRow | undefined> {
  return gather(
    async (asked: CallerQuestion[]) => {
      const { rows } = await pool.query<Row>({
        name,
        text,
        values: [
          asked.map((one) => one.clientId),
          asked.map((one) => one.courseId),
          asked.map((one) => one.column ?? null),
          asked.map((one) => one.subject ?? null),
          asked.map((one) => one.connection ?? null),
        ],
      })
      return rows.map(({ startsAt, endsAt, ...row }) =>
        (row.tool.id as string | null) === null || (row.course.id as string | null) === null
          ? undefined
          : { ...row, course: { ...row.course, startsAt, endsAt } },
      )
    },
    { most: 64, atOnce: 1 },
  )
}
