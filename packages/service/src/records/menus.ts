import { Refusal, type Feature, type LtiVersion, type ToolState } from '@bathyscribe/contract'
import type { FramePermission, Placement } from '@bathyscribe/core/links'
import type { EntityManager } from 'typeorm'
import { MenuEntryRecord } from './entities/tools.js'
import { likePattern, readCursor, toPage, type Page } from './paging.js'
import { usableIn } from './tools.js'

export interface MenuRow extends MenuEntryRecord {
  tool: { id: string; slug: string; name: string; state: ToolState }
  firstEntry: { needed: boolean; at: string | null; by: string | null }
}

export interface CatalogueRow {
  id: string
  slug: string
  name: string
  state: ToolState
  version: LtiVersion
  description: string
  features: Feature[]
  framed: boolean
  framePermissions: FramePermission[]
  placements: Placement[]
  own: boolean
  added: boolean
  links: number
  needsKeys: boolean
  lastProvenAt: Date | null
  lookAlikes: number
}

const MENU = `
select m.id, m.course_id as "courseId", m.registration_id as "registrationId", m.label, m.launch_url as "launchUrl",
  m.custom_parameters as "customParameters", m.document_target as "documentTarget", m.audience, m.shown, m.position,
  m.resource_link_id as "resourceLinkId", m.revision, m.created_at as "createdAt", m.updated_at as "updatedAt",
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  json_build_object('needed', r.first_entry <> 'none', 'at', f.at, 'by', p.full_name) as "firstEntry"
from menu_entry m join registration r on r.id = m.registration_id
left join first_entry f on f.registration_id = r.id and f.course_id = m.course_id
  and f.link_id = case r.first_entry when 'link' then m.id else '' end and r.first_entry <> 'none'
left join person p on p.id = f.person_id`

/** Tools in courses: the catalogue, what was added, the menu, first entries. */
export class MenuRecords {
  constructor(private readonly manager: EntityManager) {}

  /** @param all true for the teaching side; learners see what is shown to everyone, of tools that can be opened */
  list(courseId: string, all: boolean): Promise<MenuRow[]> {
    return this.manager.query(
      `${MENU} where m.course_id = $1 and r.state <> 'deleted' and ($2 or m.shown and m.audience = 'everyone' and r.state in ('enabled', 'suspended'))
       order by m.position, m.id`,
      [courseId, all],
    )
  }

  /** @throws Refusal when the course has no such entry. */
  async show(courseId: string, id: string): Promise<MenuRow> {
    const [row] = await this.manager.query<MenuRow[]>(`${MENU} where m.course_id = $1 and m.id = $2`, [courseId, id])
    if (!row) throw new Refusal('menu.not_found', id)
    return row
  }

  /** Puts an entry at the end of the menu. */
  async insert(entry: Omit<MenuEntryRecord, 'position'>): Promise<void> {
    await this.lock(entry.courseId)
    const [last] = await this.manager.query<{ next: number }[]>(
      `select coalesce(max(position), 0) + 1 as next from menu_entry where course_id = $1`,
      [entry.courseId],
    )
    await this.manager.insert(MenuEntryRecord, { ...entry, position: last!.next })
  }

  /** @throws Refusal when somebody was faster. */
  async update(id: string, revision: number, change: Partial<MenuEntryRecord>): Promise<void> {
    const done = await this.manager.update(MenuEntryRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  /** Puts the entries into another order. @throws Refusal unless exactly the entries that are there are named. */
  async reorder(courseId: string, ids: readonly string[]): Promise<void> {
    await this.lock(courseId)
    const there = await this.manager.query<{ id: string }[]>(
      `select m.id from menu_entry m join registration r on r.id = m.registration_id where m.course_id = $1 and r.state <> 'deleted'`,
      [courseId],
    )
    if (there.length !== ids.length || !there.every(({ id }) => ids.includes(id))) throw new Refusal('menu.order')
    await this.manager.query(
      `update menu_entry m set position = x.n from unnest($2::text[]) with ordinality as x(id, n) where m.id = x.id and m.course_id = $1`,
      [courseId, ids],
    )
  }

  async remove(id: string): Promise<void> {
    await this.manager.delete(MenuEntryRecord, { id })
    await this.manager.query(`delete from first_entry where link_id = $1`, [id])
  }

  /** Two people at one menu take turns. */
  private async lock(courseId: string): Promise<void> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtext('menu ' || $1))`, [courseId])
  }

  /** @returns whether the course did not have it yet */
  async addTool(courseId: string, registrationId: string, personId: string, now: Date): Promise<boolean> {
    const added = await this.manager.query<unknown[]>(
      `insert into course_tool (course_id, registration_id, person_id, added_at) values ($1, $2, $3, $4) on conflict do nothing returning 1`,
      [courseId, registrationId, personId, now],
    )
    return added.length > 0
  }

  /** Several at once, in one statement. */
  async addTools(courseId: string, registrationIds: readonly string[], personId: string, now: Date): Promise<void> {
    await this.manager.query(
      `insert into course_tool (course_id, registration_id, person_id, added_at) select $1, unnest($2::text[]), $3, $4 on conflict do nothing`,
      [courseId, registrationIds, personId, now],
    )
  }

  async removeTool(courseId: string, registrationId: string): Promise<void> {
    await this.manager.query(`delete from course_tool where course_id = $1 and registration_id = $2`, [
      courseId,
      registrationId,
    ])
  }

  async usedIn(
    courseId: string,
    registrationId: string,
  ): Promise<{ published: number; drafts: number; entries: number }> {
    const [row] = await this.manager.query<{ published: number; drafts: number; entries: number }[]>(
      `select (select count(*)::int from assignment where course_id = $1 and registration_id = $2 and state = 'published') as published,
         (select count(*)::int from assignment where course_id = $1 and registration_id = $2 and state = 'draft') as drafts,
         (select count(*)::int from menu_entry where course_id = $1 and registration_id = $2)
           + (select count(*)::int from unit_item where course_id = $1 and registration_id = $2) as entries`,
      [courseId, registrationId],
    )
    return row!
  }

  /** Tools that a course may use, by name, in one query. */
  async catalogue(
    courseId: string,
    options: { search?: string | undefined; limit: number; cursor?: string | undefined },
  ): Promise<Page<CatalogueRow>> {
    const after = readCursor(options.cursor, 2)
    // What costs a look into other tables is looked up for the rows of this page only.
    const rows = await this.manager.query<CatalogueRow[]>(
      `with found as (
         select r.* from registration r
         where r.state = 'enabled' and ${usableIn('$1')}
           and not exists (select 1 from registration own where own.template_id = r.id and own.course_id = $1 and own.state = 'enabled')
           and ($2::text is null or r.name ilike $2 or r.description ilike $2)
           and ($3::text is null or (lower(r.name), r.id) > ($3, $4)) order by lower(r.name), r.id limit $5
       )
       select r.id, r.slug, r.name, r.state, r.version, r.description, r.features, r.document_target = 'frame' as framed, r.frame_permissions as "framePermissions", r.placements,
         r.course_id is not null as own, r.keys_per_course as "needsKeys",
         exists (select 1 from course_tool t where t.course_id = $1 and t.registration_id = r.id) as added,
         (select count(*)::int from assignment a where a.course_id = $1 and a.registration_id = r.id and a.state in ('draft', 'published'))
           + (select count(*)::int from unit_item i where i.course_id = $1 and i.registration_id = r.id)
           + (select count(*)::int from menu_entry m where m.course_id = $1 and m.registration_id = r.id) as links,
         (select max(e.at) from launch_evidence e join assignment a on a.id = e.assignment_id where a.registration_id = r.id and e.kind = 'proof') as "lastProvenAt",
         (select count(*)::int from registration x where x.likeness = r.likeness and x.likeness <> '' and x.id <> r.id and x.state = 'enabled'
           and x.id is distinct from r.template_id and (x.course_id is null or x.course_id = $1)) as "lookAlikes"
       from found r order by lower(r.name), r.id`,
      [
        courseId,
        options.search ? likePattern(options.search) : null,
        after?.[0] ?? null,
        after?.[1] ?? null,
        options.limit + 1,
      ],
    )
    return toPage(rows, options.limit, (last) => [last.name.toLowerCase(), last.id])
  }

  /** Notes that the teaching side has opened it, once. */
  async enter(entry: {
    registrationId: string
    courseId: string
    linkId: string
    personId: string
    at: Date
  }): Promise<void> {
    await this.manager.query(
      `insert into first_entry (registration_id, course_id, link_id, person_id, at) values ($1, $2, $3, $4, $5) on conflict do nothing`,
      [entry.registrationId, entry.courseId, entry.linkId, entry.personId, entry.at],
    )
  }

  /** Whether a link needs a first entry, and who made it when. */
  async entryOf(courseId: string, registrationId: string, linkId: string): Promise<MenuRow['firstEntry']> {
    const [row] = await this.manager.query<{ needed: boolean; at: Date | null; by: string | null }[]>(
      `select r.first_entry <> 'none' as needed, f.at, p.full_name as by from registration r
       left join first_entry f on f.registration_id = r.id and f.course_id = $1 and r.first_entry <> 'none'
         and f.link_id = case r.first_entry when 'link' then $3 else '' end
       left join person p on p.id = f.person_id where r.id = $2`,
      [courseId, registrationId, linkId],
    )
    return { needed: row?.needed ?? false, at: row?.at?.toISOString() ?? null, by: row?.by ?? null }
  }

  async forgetEntries(courseId: string, registrationId: string): Promise<void> {
    await this.manager.query(`delete from first_entry where course_id = $1 and registration_id = $2`, [
      courseId,
      registrationId,
    ])
  }

  /** Links of enabled tools that an instructor must open before learners may, and none has. @param courseIds null for all courses */
  waitingForEntry(courseIds: readonly string[] | null): Promise<
    {
      tool: MenuRow['tool']
      course: { id: string; code: string; title: string }
      label: string
      linkId: string
      kind: 'assignment' | 'menu'
    }[]
  > {
    return this.manager.query(
      `select json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
         json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course, l.label, l.id as "linkId", l.kind
       from (
         select distinct on (course_id, registration_id, per_link) * from (
           select a.id, 'assignment' as kind, a.title as label, a.course_id, a.registration_id, case x.first_entry when 'link' then a.id else '' end as per_link
           from assignment a join registration x on x.id = a.registration_id where x.first_entry <> 'none' and x.state = 'enabled' and a.state = 'published'
           union all
           select m.id, 'menu', m.label, m.course_id, m.registration_id, case x.first_entry when 'link' then m.id else '' end
           from menu_entry m join registration x on x.id = m.registration_id where x.first_entry <> 'none' and x.state = 'enabled' and m.shown
         ) every_link order by course_id, registration_id, per_link, kind desc
       ) l join registration r on r.id = l.registration_id join course c on c.id = l.course_id
       where ($1::text[] is null or l.course_id = any($1))
         and not exists (select 1 from first_entry f where f.registration_id = r.id and f.course_id = c.id and f.link_id = l.per_link)
       order by c.code_key, r.name limit 50`,
      [courseIds],
    )
  }
}
