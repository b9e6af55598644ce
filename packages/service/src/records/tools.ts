import { Refusal, type ToolState } from '@bathyscribe/contract'
import { lookAlike } from '@bathyscribe/core/links'
import { In, IsNull, type EntityManager } from 'typeorm'
import { DeploymentRecord, RegistrationRecord } from './entities/tools.js'
import { likePattern, readCursor, toPage, type Page } from './paging.js'

type Ref = { id: string; slug: string; name: string; state: ToolState }
type CourseRef = { id: string; code: string; title: string }

/** A registration with where it is used and what was last heard of it. */
export interface ToolSummary extends Omit<RegistrationRecord, 'managementHash'> {
  course: CourseRef | null
  offeredTo: CourseRef[]
  replacedBy: Ref | null
  lookAlikes: Ref[]
  assignments: number
  menuEntries: number
  /** Links in units that return no score. */
  unitItems: number
  courses: number
  lastLaunchAt: Date | null
  lastScoreAt: Date | null
  refusals: number
}

const ref = (alias: string) =>
  `json_build_object('id', ${alias}.id, 'slug', ${alias}.slug, 'name', ${alias}.name, 'state', ${alias}.state)`

const SUMMARY = `
select r.id, r.slug, r.name, r.description, r.likeness, r.course_id as "courseId", r.state, r.version, r.consumer_key as "consumerKey",
  r.secret_sealed as "secretSealed", r.secret_set_at as "secretSetAt", r.launch_url as "launchUrl", r.signature_method as "signatureMethod",
  r.client_id as "clientId", r.configuration_url as "configurationUrl", r.initiation_url as "initiationUrl", r.redirect_uris as "redirectUris", r.keyset_url as "keysetUrl",
  r.public_keys as "publicKeys", r.picker_url as "pickerUrl", r.learner_text as "learnerText", r.exact_titles as "exactTitles", r.frame_permissions as "framePermissions", r.framing, r.scopes, r.features, r.placements, r.offer, r.keys_per_course as "keysPerCourse",
  r.template_id as "templateId", r.first_entry as "firstEntry", r.scores_while_suspended as "scoresWhileSuspended", r.disclosure,
  r.document_target as "documentTarget", r.custom_parameters as "customParameters", r.sounding_parameters as "soundingParameters", r.note,
  r.metadata, r.proposal, r.state_before as "stateBefore", r.deleted_at as "deletedAt", r.replaced_by_id as "replacedById",
  r.revision, r.created_at as "createdAt", r.updated_at as "updatedAt",
  case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course,
  case when r.offer <> 'named' then '[]' else coalesce((select json_agg(json_build_object('id', oc.id, 'code', oc.code, 'title', oc.title)
    order by oc.code_key) from tool_offer o join course oc on oc.id = o.course_id where o.registration_id = r.id), '[]') end as "offeredTo",
  (select ${ref('x')} from registration x where x.id = r.replaced_by_id) as "replacedBy",
  coalesce((select json_agg(${ref('x')} order by x.name) from (select * from registration x where x.likeness = r.likeness and x.id <> r.id
    and x.likeness <> '' and x.state in ('draft', 'waiting', 'enabled', 'suspended') and (x.course_id is null or x.course_id = r.course_id
    or r.course_id is null) limit 5) x), '[]') as "lookAlikes",
  coalesce(used.assignments, 0) as assignments, coalesce(menu.entries, 0) as "menuEntries",
  (select count(*)::int from unit_item i where i.registration_id = r.id and i.kind = 'tool_link') as "unitItems", coalesce(spread.courses, 0) as courses,
  greatest(used."lastLaunchAt", menu."lastLaunchAt") as "lastLaunchAt", used."lastScoreAt",
  (select count(*)::int from wire_entry w where w.registration_id = r.id and w.outcome <> 'accepted' and w.kind <> 'probe' and w.at > $1) as refusals
from registration r left join course c on c.id = r.course_id
left join lateral (
  select count(*)::int as assignments,
    max((select max(v.last_at) from visit v where v.assignment_id = a.id)) as "lastLaunchAt",
    max((select s.at from result s where s.assignment_id = a.id and s.score_id is not null order by s.score_id desc limit 1)) as "lastScoreAt"
  from assignment a where a.registration_id = r.id and a.state in ('draft', 'published')
) used on true
left join lateral (
  select count(*)::int as entries, (select max(f.at) from first_entry f where f.registration_id = r.id) as "lastLaunchAt"
  from menu_entry m where m.registration_id = r.id
) menu on true
left join lateral (
  select count(*)::int as courses from (select a.course_id from assignment a where a.registration_id = r.id
    union select m.course_id from menu_entry m where m.registration_id = r.id
    union select i.course_id from unit_item i where i.registration_id = r.id and i.kind = 'tool_link') links
) spread on true`

const WEEK_MS = 7 * 24 * 3600_000

/** Which registrations a person may see: all, or those of the institution and of the courses they teach. */
export interface ToolScope {
  seesAll: boolean
  courseIds: readonly string[]
}

/** Whether a course may use a registration, as SQL over `r` and the course's parameter. */
export const usableIn = (courseId: string) => `(r.course_id = ${courseId} or r.course_id is null and (r.offer = 'all'
  or r.offer = 'named' and exists (select 1 from tool_offer o where o.registration_id = r.id and o.course_id = ${courseId})))`

export class ToolRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Keeps a registration as it is until the transaction ends. */
  async hold(id: string): Promise<void> {
    await this.manager.query(`select 1 from registration where id = $1 for share`, [id])
  }

  /** By identifier or short name. @throws Refusal when there is none. */
  async byRef(ref: string): Promise<RegistrationRecord> {
    const tool = await this.manager.findOneBy(RegistrationRecord, [{ id: ref }, { slug: ref.toLowerCase() }])
    if (!tool) throw new Refusal('tool.not_found', ref.slice(0, 120))
    return tool
  }

  async byId(id: string): Promise<RegistrationRecord> {
    return this.manager.findOneByOrFail(RegistrationRecord, { id })
  }

  /** The same, locked against other changes of it. */
  async lock(id: string): Promise<RegistrationRecord> {
    await this.manager.query(`select 1 from registration where id = $1 for no key update`, [id])
    return this.byId(id)
  }

  byKey(consumerKey: string): Promise<RegistrationRecord[]> {
    return this.manager.find(RegistrationRecord, { where: { consumerKey }, order: { createdAt: 'ASC' }, take: 20 })
  }

  byClientId(clientId: string): Promise<RegistrationRecord | null> {
    return this.manager.findOneBy(RegistrationRecord, { clientId })
  }

  byManagementHash(managementHash: Buffer): Promise<RegistrationRecord | null> {
    return this.manager.findOneBy(RegistrationRecord, { managementHash })
  }

  /** Registrations in use that share key, addresses or likeness with what is to be registered. */
  similar(wanted: {
    consumerKey?: string | undefined
    launchUrl?: string | null | undefined
    initiationUrl?: string | null | undefined
    name?: string | undefined
  }): Promise<RegistrationRecord[]> {
    const where = [
      ...(wanted.consumerKey ? [{ consumerKey: wanted.consumerKey }] : []),
      ...(wanted.initiationUrl ? [{ initiationUrl: wanted.initiationUrl }] : []),
      ...(wanted.launchUrl ? [{ launchUrl: wanted.launchUrl }] : []),
      ...(wanted.name ? [{ likeness: lookAlike(wanted.name) }] : []),
    ]
    const inUse = In<ToolState>(['draft', 'waiting', 'enabled', 'suspended'])
    return where.length === 0
      ? Promise.resolve([])
      : this.manager.find(RegistrationRecord, {
          where: where.map((one) => ({ ...one, state: inUse })),
          order: { createdAt: 'ASC' },
          take: 20,
        })
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

  /** Says to which courses a tool is offered, when to named ones. */
  async setOffers(id: string, courseIds: readonly string[]): Promise<void> {
    await this.manager.query(`delete from tool_offer where registration_id = $1`, [id])
    await this.manager.query(
      `insert into tool_offer (registration_id, course_id) select $1, unnest($2::text[]) on conflict do nothing`,
      [id, courseIds],
    )
  }

  /** Whether a course may use it: its own, or one of the institution that is offered to it. */
  async isUsableIn(id: string, courseId: string): Promise<boolean> {
    const [row] = await this.manager.query<{ usable: boolean }[]>(
      `select ${usableIn('$2')} as usable from registration r where r.id = $1`,
      [id, courseId],
    )
    return row?.usable ?? false
  }

  async list(
    scope: ToolScope,
    now: Date,
    options: {
      search?: string | undefined
      courseId?: string | undefined
      state?: ToolState | undefined
      limit: number
      cursor?: string | undefined
    },
  ): Promise<Page<ToolSummary>> {
    const after = readCursor(options.cursor, 2)
    const rows = await this.manager.query<ToolSummary[]>(
      `${SUMMARY} where ($2::boolean or r.course_id is null and r.state not in ('waiting', 'deleted') or r.course_id = any($3))
        and ($4::text is null or ${usableIn('$4')})
        and case when $9::text is null then r.state <> 'deleted' else r.state = $9 end
        and ($5::text is null or r.name ilike $5 or r.slug ilike $5 or r.consumer_key ilike $5 or r.client_id ilike $5 or r.launch_url ilike $5)
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
        options.state ?? null,
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

  /** What waits for an administrator: registrations, and changes that tools propose. */
  async waiting(): Promise<(Ref & { course: CourseRef | null; what: 'registration' | 'change'; since: Date })[]> {
    return this.manager.query(
      `select r.id, r.slug, r.name, r.state, case when r.state = 'waiting' then 'registration' else 'change' end as what, r.updated_at as since,
         case when c.id is null then null else json_build_object('id', c.id, 'code', c.code, 'title', c.title) end as course
       from registration r left join course c on c.id = r.course_id
       where r.state = 'waiting' or r.proposal is not null and r.state in ('enabled', 'suspended') order by r.updated_at limit 50`,
    )
  }

  /** The deployment by which a registration is launched in a course: the course's own before the institution's. */
  async deploymentFor(registrationId: string, courseId: string): Promise<string | undefined> {
    const [row] = await this.manager.query<{ id: string }[]>(
      `select id from deployment where registration_id = $1 and (course_id = $2 or course_id is null) order by course_id nulls last limit 1`,
      [registrationId, courseId],
    )
    return row?.id
  }

  /** Registrations that a course may use. */
  async usable(courseId: string): Promise<RegistrationRecord[]> {
    const rows = await this.manager.query<{ id: string }[]>(
      `select r.id from registration r where r.state in ('enabled', 'suspended') and ${usableIn('$1')} order by lower(r.name), r.id limit 2000`,
      [courseId],
    )
    return this.manager.find(RegistrationRecord, {
      where: { id: In(rows.map((row) => row.id)) },
      order: { name: 'ASC' },
    })
  }

  deployments(registrationId: string): Promise<DeploymentRecord[]> {
    return this.manager.find(DeploymentRecord, { where: { registrationId }, order: { createdAt: 'ASC' } })
  }

  async insertDeployment(deployment: DeploymentRecord): Promise<void> {
    await this.manager.insert(DeploymentRecord, deployment)
  }

  /** The deployment that stands for the whole institution, or for the course that the registration belongs to. */
  async mainDeployment(registrationId: string): Promise<DeploymentRecord | null> {
    return this.manager.findOneBy(DeploymentRecord, { registrationId, courseId: IsNull() })
  }
}
