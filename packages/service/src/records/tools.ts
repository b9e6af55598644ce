import { Refusal } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'
import { RegistrationRecord } from './entities/courses.js'
import { likePattern, readCursor, toPage, type Page } from './paging.js'

/** A registration with where it is used and what was last heard of it. */
export interface ToolSummary extends RegistrationRecord {
  course: { id: string; code: string; title: string } | null
  assignments: number
  courses: number
  lastLaunchAt: Date | null
  lastScoreAt: Date | null
  refusals: number
}

const SUMMARY = `
select r.id, r.slug, r.name, r.course_id as "courseId", r.state, r.consumer_key as "consumerKey", r.secret_sealed as "secretSealed",
  r.secret_set_at as "secretSetAt", r.launch_url as "launchUrl", r.signature_method as "signatureMethod", r.disclosure,
  r.document_target as "documentTarget", r.custom_parameters as "customParameters", r.sounding_parameters as "soundingParameters", r.note,
  r.revision, r.created_at as "createdAt", r.updated_at as "updatedAt",
  case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course,
  coalesce(used.assignments, 0) as assignments, coalesce(used.courses, 0) as courses, used."lastLaunchAt", used."lastScoreAt",
  (select count(*)::int from wire_entry w where w.registration_id = r.id and w.outcome <> 'accepted' and w.kind <> 'probe' and w.at > $1) as refusals
from registration r left join course c on c.id = r.course_id
left join lateral (
  select count(*)::int as assignments, count(distinct a.course_id)::int as courses,
    max((select max(v.last_at) from visit v where v.assignment_id = a.id)) as "lastLaunchAt",
    max((select max(s.at) from result s where s.assignment_id = a.id)) as "lastScoreAt"
  from assignment a where a.registration_id = r.id
) used on true`

const WEEK_MS = 7 * 24 * 3600_000

/** Which registrations a person may see: all, or those of the institution and of the courses they teach. */
export interface ToolScope {
  seesAll: boolean
  courseIds: readonly string[]
}

export class ToolRecords {
  constructor(private readonly manager: EntityManager) {}

  /** By identifier or short name. @throws Refusal when there is none. */
  async byRef(ref: string): Promise<RegistrationRecord> {
    const tool = await this.manager.findOneBy(RegistrationRecord, [{ id: ref }, { slug: ref.toLowerCase() }])
    if (!tool) throw new Refusal('tool.not_found', ref.slice(0, 120))
    return tool
  }

  async byId(id: string): Promise<RegistrationRecord> {
    return this.manager.findOneByOrFail(RegistrationRecord, { id })
  }

  byKey(consumerKey: string): Promise<RegistrationRecord[]> {
    return this.manager.find(RegistrationRecord, { where: { consumerKey }, order: { createdAt: 'ASC' }, take: 20 })
  }

  async slugsLike(start: string): Promise<string[]> {
    const rows = await this.manager.query<{ slug: string }[]>(
      `select slug from registration where slug = $1 or slug like $1 || '-%'`,
      [start],
    )
    return rows.map((row) => row.slug)
  }

  async insert(tool: RegistrationRecord): Promise<void> {
    await this.manager.insert(RegistrationRecord, tool)
  }

  /** Changes a registration that is still at `revision`. @throws Refusal when somebody was faster. */
  async update(id: string, revision: number, change: Partial<RegistrationRecord>): Promise<void> {
    const done = await this.manager.update(RegistrationRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  async list(
    scope: ToolScope,
    now: Date,
    options: { search?: string | undefined; courseId?: string | undefined; limit: number; cursor?: string | undefined },
  ): Promise<Page<ToolSummary>> {
    const after = readCursor(options.cursor, 2)
    const rows = await this.manager.query<ToolSummary[]>(
      `${SUMMARY} where ($2::boolean or r.course_id is null or r.course_id = any($3))
        and ($4::text is null or r.course_id is null or r.course_id = $4)
        and ($5::text is null or r.name ilike $5 or r.slug ilike $5 or r.consumer_key ilike $5 or r.launch_url ilike $5)
        and ($6::text is null or (lower(r.name), r.id) > ($6, $7)) order by lower(r.name), r.id limit $8`,
      [
        new Date(now.getTime() - WEEK_MS),
        scope.seesAll,
        scope.courseIds,
        options.courseId ?? null,
        options.search ? likePattern(options.search) : null,
        after?.[0],
        after?.[1],
        options.limit + 1,
      ],
    )
    return toPage(rows, options.limit, (last) => [last.name.toLowerCase(), last.id])
  }

  async summary(id: string, now: Date): Promise<ToolSummary> {
    const [row] = await this.manager.query<ToolSummary[]>(`${SUMMARY} where r.id = $2`, [
      new Date(now.getTime() - WEEK_MS),
      id,
    ])
    if (!row) throw new Refusal('tool.not_found')
    return row
  }
}
