import { Refusal, type ToolState, type WIRE_KINDS } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { likePattern, serialOf, toPage, type Page } from './paging.js'

type Ref<T extends string> = Record<T, string>

export interface WireRow {
  id: string
  at: Date
  kind: (typeof WIRE_KINDS)[number]
  direction: 'sent' | 'received'
  outcome: 'accepted' | 'refused' | 'failed'
  code: string | null
  statement: string
  courseId: string | null
  tool: (Ref<'id' | 'slug' | 'name'> & { state: ToolState }) | null
  course: Ref<'id' | 'code' | 'title'> | null
  assignment: Ref<'id' | 'slug' | 'title'> | null
  person: Ref<'id' | 'fullName' | 'username'> | null
  soundingId: string | null
  durationMs: number
}
export interface WireDetailRow extends WireRow {
  detail: string | null
  request: { method: string; url: string }
  response: { status: number } | null
}
export interface RefusalGroup {
  code: string
  tool: WireRow['tool']
  count: number
  links: number
  courses: number
  lastAt: Date
  wireEntryId: string
}

const FIELDS = `
select w.id::text as id, w.at, w.kind, w.direction, w.outcome, w.code, w.statement, w.course_id as "courseId", w.sounding_id as "soundingId",
  w.duration_ms as "durationMs",
  case when r.id is null then null else json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) end as tool,
  case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course,
  case when a.id is null then null else json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) end as assignment,
  case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as person`
const JOINS = `
from wire_entry w left join registration r on r.id = w.registration_id left join course c on c.id = w.course_id
left join assignment a on a.id = w.assignment_id left join person p on p.id = w.person_id`

export interface WireFilter {
  registrationId?: string | undefined
  courseId?: string | undefined
  assignmentId?: string | undefined
  personId?: string | undefined
  kind?: string | undefined
  outcome?: string | undefined
  search?: string | undefined
  limit: number
  cursor?: string | undefined
}

export class WireRecords {
  constructor(private readonly manager: EntityManager) {}

  /** @param courseIds the courses whose entries may be seen; null for all entries, those of no course included */
  async list(courseIds: readonly string[] | null, filter: WireFilter): Promise<Page<WireRow>> {
    const values: unknown[] = []
    const where: string[] = []
    const add = (condition: string, value: unknown) => {
      if (value === undefined || value === null) return
      values.push(value)
      where.push(condition.replaceAll('?', `$${values.length}`))
    }
    add('w.course_id = any(?)', courseIds)
    add('w.registration_id = ?', filter.registrationId)
    add('w.course_id = ?', filter.courseId)
    add('w.assignment_id = ?', filter.assignmentId)
    add('w.person_id = ?', filter.personId)
    add('w.kind = ?', filter.kind)
    add('w.outcome = ?', filter.outcome)
    add('(w.code ilike ? or w.statement ilike ?)', filter.search ? likePattern(filter.search) : undefined)
    add('w.id < ?::bigint', serialOf(filter.cursor))
    values.push(filter.limit + 1)
    const rows = await this.manager.query<WireRow[]>(
      `${FIELDS} ${JOINS} ${where.length > 0 ? `where ${where.join(' and ')}` : ''} order by w.id desc limit $${values.length}`,
      values,
    )
    return toPage(rows, filter.limit, (last) => [last.id])
  }

  async show(id: string): Promise<WireDetailRow> {
    const [row] = await this.manager.query<WireDetailRow[]>(
      `${FIELDS}, w.detail, w.request, w.response ${JOINS} where w.id = $1`,
      [id],
    )
    if (!row) throw new Refusal('wire.not_found', id)
    return row
  }

  /** Several of them, the oldest first. */
  showMany(ids: readonly string[]): Promise<WireDetailRow[]> {
    return this.manager.query(
      `${FIELDS}, w.detail, w.request, w.response ${JOINS} where w.id = any($1::bigint[]) order by w.id`,
      [ids],
    )
  }

  /** Messages refused since then, grouped by cause and tool. Soundings' own probes do not count: they are wrong on purpose. */
  refusals(since: Date, courseIds: readonly string[] | null, limit: number): Promise<RefusalGroup[]> {
    return this.manager.query(
      `select w.code, g.tool, w.count, w.links, w.courses, w."lastAt", w."wireEntryId" from (
         select coalesce(code, 'tool') as code, registration_id, count(*)::int as count, count(distinct assignment_id)::int as links,
           count(distinct course_id)::int as courses, max(at) as "lastAt", max(id)::text as "wireEntryId"
         from wire_entry where outcome <> 'accepted' and kind <> 'probe' and at > $1 and ($2::text[] is null or course_id = any($2))
         group by 1, 2 order by max(at) desc limit $3) w
       left join lateral (select json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool
         from registration r where r.id = w.registration_id) g on true
       order by w."lastAt" desc`,
      [since, courseIds, limit],
    )
  }
}
