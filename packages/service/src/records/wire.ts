import type { ProvenUnder } from '@bathyscribe/core/checks'
import { Refusal, type ToolState, type WIRE_KINDS } from '@bathyscribe/contract'
import { availableParallelism } from 'node:os'
import type { EntityManager } from 'typeorm'
import { Turns } from '../workers/turns.js'
import { readerGone } from './abandoned.js'
import { likePattern, serialOf, toPage, type Page } from './paging.js'
import { MADE_BY } from './proven.js'

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
const NAMES = `
left join registration r on r.id = w.registration_id left join course c on c.id = w.course_id
left join assignment a on a.id = w.assignment_id left join person p on p.id = w.person_id`
const JOINS = `from wire_entry w ${NAMES}`

export interface WireFilter {
  registrationId?: string | undefined
  courseId?: string | undefined
  assignmentId?: string | undefined
  personId?: string | undefined
  kind?: string | undefined
  outcome?: string | undefined
  search?: string | undefined
  direction?: 'sent' | 'received' | undefined
  since?: Date | undefined
  limit: number
  cursor?: string | undefined
}

/** Entries that a search looks through, the newest of those that are named otherwise. */
const LOOKED_THROUGH = 50_000
/** Searches of one process at once: each takes a processor for seconds, and half of them are left to launches and scores. */
const SEARCHES_AT_ONCE = Math.max(1, Math.floor(availableParallelism() / 2))
const SEARCHES_WAITING = 20
const searches = new Turns(SEARCHES_AT_ONCE, SEARCHES_WAITING)

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
    add('w.direction = ?', filter.direction)
    add('w.at >= ?', filter.since)
    add('w.id < ?::bigint', serialOf(filter.cursor))
    const narrowed = where.length > 0 ? `where ${where.join(' and ')}` : ''
    let from = `wire_entry w ${narrowed}`
    if (filter.search) {
      // No index leads to words, so only the newest of what is named otherwise are looked through.
      values.push(LOOKED_THROUGH, likePattern(filter.search))
      const [most, pattern] = [`$${values.length - 1}`, `$${values.length}`]
      // Whatever identifier somebody has in hand stands somewhere in what was sent; secrets were masked before.
      from = `(select * from wire_entry w ${narrowed} order by w.id desc limit ${most}) w
        where w.code ilike ${pattern} or w.statement ilike ${pattern} or w.request::text ilike ${pattern}`
    }
    values.push(filter.limit + 1)
    const read = () =>
      this.manager.query<WireRow[]>(
        `${FIELDS} from (select w.* from ${from} order by w.id desc limit $${values.length}) w ${NAMES} order by w.id desc`,
        values,
      )
    const rows = await (filter.search ? searches.take(read, readerGone()) : read())
    return toPage(rows, filter.limit, (last) => [last.id])
  }

  /**
   * The newest received message since then that was refused and was about an assignment: by its tool, or, where it could not be told whose it was, by the address that it was
   * sent to.
   */
  async lastRefusal(about: {
    registrationId: string
    assignmentId: string
    kinds: readonly string[]
    since: Date
  }): Promise<{ id: string; code: string | null; statement: string; otherTool: string | null } | undefined> {
    const [row] = await this.manager.query<
      { id: string; code: string | null; statement: string; otherTool: string | null }[]
    >(
      `select w.id::text as id, w.code, w.statement, case when t.id <> $3 then t.name end as "otherTool" from wire_entry w left join registration t on t.id = w.registration_id
       where w.at >= $1 and w.outcome = 'refused' and w.direction = 'received' and w.kind = any($2)
         and (w.registration_id = $3 and (w.assignment_id is null or w.assignment_id = $4)
           or w.registration_id is distinct from $3 and position('/' || $4 || '/' in w.request->>'url') > 0)
       order by w.id desc limit 1`,
      [about.since, about.kinds, about.registrationId, about.assignmentId],
    )
    return row
  }

  /** The last accepted message of the same kind, direction and link before one; of the same person, if there is one. */
  async lastGoodBefore(id: string): Promise<string | undefined> {
    const [row] = await this.manager.query<{ id: string }[]>(
      `select g.id::text as id from wire_entry w join wire_entry g on g.id < w.id and g.kind = w.kind and g.direction = w.direction and g.outcome = 'accepted'
         and g.registration_id is not distinct from w.registration_id and (w.assignment_id is null or g.assignment_id = w.assignment_id)
       where w.id = $1 order by (g.person_id is not distinct from w.person_id) desc, g.id desc limit 1`,
      [id],
    )
    return row?.id
  }

  /** What was changed of a link or its tool between two messages about it, newest first. */
  changesBetween(earlier: string, later: string): Promise<{ what: ProvenUnder; at: Date; by: string | null }[]> {
    return this.manager.query(
      `with w as (select assignment_id, registration_id, at from wire_entry where id = $2), g as (select at from wire_entry where id = $1)
       select d.what, d.at, ${MADE_BY} as by
       from (select d.* from w join proof_change d on d.assignment_id = w.assignment_id
             union all select d.* from w join proof_change d on d.registration_id = w.registration_id) d
       where d.at > (select at from g) and d.at <= (select at from w) order by d.at desc, d.id desc limit 20`,
      [earlier, later],
    )
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
