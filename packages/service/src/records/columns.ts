import { Refusal, type ToolState } from '@bathyscribe/contract'
import type { TwinFacts } from '@bathyscribe/core/scores'
import type { EntityManager } from 'typeorm'
import type { AssignmentState } from './entities/courses.js'
import { plannedOnce } from './planned-once.js'

/** A column of the gradebook as the tool of LTI 1.3 sees it that fills it. */
export interface ColumnRow13 {
  id: string
  title: string
  points: string
  state: AssignmentState
  mergedInto: string | null
  /** The link that it belongs to; null for one that stands for itself. */
  resourceLinkId: string | null
  resourceId: string | null
  tag: string | null
  opensAt: Date | null
  dueAt: Date | null
  released: boolean
  reviewable: boolean
  reviewUrl: string | null
  reviewCustom: Record<string, string>
  reviewLabel: string | null
  reviewStatuses: string[] | null
}

export interface TwinRow extends TwinFacts {
  slug: string
  state: AssignmentState
  tool: { id: string; slug: string; name: string; state: ToolState }
}

export interface ResultRow {
  personId: string
  subject: string
  points: string | null
  outOf: string
  comment: string | null
  /** Who gave what stands, as the tool names them; null where an instructor's own word stands. */
  scoredBy: string | null
}

/** What a tool says that its column is. */
export interface SaidOfColumn {
  saidResourceId: string | null
  saidTag: string | null
  reviewable: boolean
  reviewUrl: string | null
  reviewCustom: Record<string, string>
  reviewLabel: string | null
  reviewStatuses: string[] | null
}

const COLUMN = `
select a.id, a.title, a.points, a.state, a.merged_into as "mergedInto", case when a.state in ('column', 'merged') then a.tied_to else a.resource_link_id end as "resourceLinkId",
  coalesce(a.said_resource_id, a.content->'column'->>'resourceId') as "resourceId", coalesce(a.said_tag, a.content->'column'->>'tag') as tag,
  a.opens_at as "opensAt", a.due_at as "dueAt", a.released, a.reviewable, a.review_url as "reviewUrl", a.review_custom as "reviewCustom",
  a.review_label as "reviewLabel", a.review_statuses as "reviewStatuses"
from assignment a`

/** Columns of the gradebook, those that tools made by themselves included. */
export class ColumnRecords {
  constructor(private readonly manager: EntityManager) {}

  /** A column that a tool may see. @throws Refusal for any other */
  async one(courseId: string, registrationId: string, id: string): Promise<ColumnRow13> {
    const [found] = await this.manager.query<ColumnRow13[]>(
      `${COLUMN} where a.id = $1 and a.course_id = $2 and a.registration_id = $3 and a.state <> 'deleted'`,
      [id, courseId, registrationId],
    )
    if (!found) throw new Refusal('line_item.not_found', id.slice(0, 60))
    return found
  }

  /** The columns of a tool in a course, by identifier; those that another stands for are not among them. */
  ofTool(
    courseId: string,
    registrationId: string,
    filter: {
      resourceLinkId?: string | undefined
      resourceId?: string | undefined
      tag?: string | undefined
      after?: string | undefined
      limit: number
    },
  ): Promise<ColumnRow13[]> {
    return this.manager.query(
      `${COLUMN} where a.course_id = $1 and a.registration_id = $2 and a.state in ('draft', 'published', 'column')
         and ($3::text is null or case when a.state = 'column' then a.tied_to else a.resource_link_id end = $3)
         and ($4::text is null or coalesce(a.said_resource_id, a.content->'column'->>'resourceId') = $4)
         and ($5::text is null or coalesce(a.said_tag, a.content->'column'->>'tag') = $5)
         and ($6::text is null or a.id > $6) order by a.id limit $7`,
      [
        courseId,
        registrationId,
        filter.resourceLinkId ?? null,
        filter.resourceId ?? null,
        filter.tag ?? null,
        filter.after ?? null,
        filter.limit,
      ],
    )
  }

  async count(courseId: string, registrationId: string): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from assignment where course_id = $1 and registration_id = $2 and state in ('column', 'merged')`,
      [courseId, registrationId],
    )
    return row!.n
  }

  /** Whether a resource link of a course leads into a tool. */
  async hasLink(courseId: string, registrationId: string, resourceLinkId: string): Promise<boolean> {
    const [row] = await this.manager.query<{ there: boolean }[]>(
      `select exists (select 1 from assignment where course_id = $1 and registration_id = $2 and resource_link_id = $3 and state in ('draft', 'published'))
         or exists (select 1 from unit_item where course_id = $1 and registration_id = $2 and resource_link_id = $3)
         or exists (select 1 from menu_entry where course_id = $1 and registration_id = $2 and resource_link_id = $3) as there`,
      [courseId, registrationId, resourceLinkId],
    )
    return row!.there
  }

  async setSaid(id: string, said: SaidOfColumn): Promise<void> {
    await this.manager.query(
      `update assignment set said_resource_id = $2, said_tag = $3, reviewable = $4, review_url = $5, review_custom = $6,
         review_label = $7, review_statuses = $8 where id = $1`,
      [
        id,
        said.saidResourceId,
        said.saidTag,
        said.reviewable,
        said.reviewUrl,
        JSON.stringify(said.reviewCustom),
        said.reviewLabel,
        said.reviewStatuses,
      ],
    )
  }

  async remove(id: string, at: Date): Promise<void> {
    await this.manager.query(
      `update assignment set state = 'deleted', state_before = 'column', deleted_at = $2, revision = revision + 1 where id = $1 and state = 'column'`,
      [id, at],
    )
  }

  /** What stands for everybody in a column. */
  standings(
    columnId: string,
  ): Promise<{ personId: string; points: string | null; overridden: boolean; exempt: boolean }[]> {
    return this.manager.query(
      `select person_id as "personId", points, overridden, exempt from result where assignment_id = $1`,
      [columnId],
    )
  }

  /** What tells which columns of a course are for the same work. */
  twinFacts(courseId: string): Promise<TwinRow[]> {
    return this.manager.query(
      plannedOnce(`select a.id, a.slug, a.title, a.points, a.state, a.registration_id as "registrationId",
         coalesce(a.said_resource_id, a.content->'column'->>'resourceId') as "resourceId",
         case when a.state = 'column' then a.tied_to else a.resource_link_id end as "linkId",
         json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state) as tool,
         coalesce((select array_agg(r.person_id) from result r where r.assignment_id = a.id and r.standing is not null), '{}') as scored
       from assignment a join registration t on t.id = a.registration_id
       where a.course_id = $1 and a.state in ('draft', 'published', 'column')
         and exists (select 1 from assignment m where m.course_id = $1 and m.registration_id = a.registration_id and m.state = 'column')
       order by a.created_at, a.position, a.id`),
      [courseId],
    )
  }

  /** How many entries the trails of columns have, those of merged ones included. */
  async trailLength(columnIds: readonly string[]): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from score s join assignment a on a.id = s.assignment_id where a.id = any($1) or a.merged_into = any($1)`,
      [columnIds],
    )
    return row!.n
  }

  async setMerged(id: string, into: string): Promise<void> {
    await this.manager.query(
      `update assignment set state = 'merged', merged_into = $2, revision = revision + 1 where id = $1`,
      [id, into],
    )
  }

  async setUnmerged(id: string): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `update assignment set state = 'column', merged_into = null, revision = revision + 1 where id = $1 and state = 'merged'`,
      [id],
    )
    return count === 1
  }

  /** What stands for the people of a column, by person. */
  results(
    columnId: string,
    filter: { userId?: string | undefined; after?: string | undefined; limit: number },
  ): Promise<ResultRow[]> {
    return this.manager.query(
      `select r.person_id as "personId", p.subject, r.standing as points, a.points as "outOf", coalesce(r.override_comment, r.comment) as comment,
         case when not r.overridden then (select s.scored_by from score s where s.id = r.score_id) end as "scoredBy"
       from result r join assignment a on a.id = r.assignment_id join person p on p.id = r.person_id
       join enrolment e on e.course_id = a.course_id and e.person_id = p.id
       where r.assignment_id = $1 and (r.score_id is not null or r.overridden) and not r.exempt and ($2::text is null or p.subject = $2)
         and ($3::text is null or r.person_id > $3) order by r.person_id limit $4`,
      [columnId, filter.userId ?? null, filter.after ?? null, filter.limit],
    )
  }
}
