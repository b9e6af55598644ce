import type { FirstEntryRule, LtiVersion, ToolState } from '@bathyscribe/contract'
import type { Facts } from '@bathyscribe/core/checks'
import type { Disclosure } from '@bathyscribe/core/identity'
import type { ContentItem } from '@bathyscribe/core/content'
import type { ToolMetadata } from '@bathyscribe/core/lti13'
import type { EntityManager } from 'typeorm'
import { oneOrAny, plannedOnce } from './planned-once.js'

/** A registration as preflight sees it from one course. */
export interface ToolAroundRow {
  id: string
  name: string
  state: ToolState
  version: LtiVersion
  features: string[]
  launchUrl: string | null
  pickerUrl: string | null
  initiationUrl: string | null
  redirectUris: string[]
  configurationUrl: string | null
  likeness: string
  framing: 'unknown' | 'allowed' | 'refused'
  exactTitles: string[]
  disclosure: Disclosure
  metadata: ToolMetadata | null
  customParameters: Record<string, string>
  firstEntry: FirstEntryRule
  used: boolean
  /** Assignments of the course that use it. */
  uses: number
  menuLabel: string | null
  /** Links of which an instructor has been at; `''` stands for the whole course. */
  entered: string[]
}

/** Another assignment of the course, as far as the rules look at it. */
export interface NeighbourRow {
  id: string
  title: string
  registrationId: string
  launchUrl: string | null
  customParameters: Record<string, string>
  content: ContentItem | null
}

export interface AcceptanceRow {
  assignmentId: string
  rule: string
  /** What the rule found when it was accepted. */
  facts: Facts
  reason: string
  by: string
  at: Date
}

/** Other assignments of the course that could be taken for one. */
export interface Doubles {
  sameTitle: number
  /** Titles of some that lead to the same content, in their order. */
  sameContent: string[]
}

/** A course as preflight looks at it. */
export interface CourseAround {
  startsAt: Date | null
  endsAt: Date | null
  learners: number
}

/** More are counted, not named. */
const DOUBLES_NAMED = 3

const COURSE = `c.starts_at as "startsAt", c.ends_at as "endsAt",
  (select count(*)::int from enrolment e where e.course_id = c.id and e.role = 'learner' and e.state = 'active') as learners`

// As the index `assignment_by_content` has it.
const LEADS_TO = (launchUrl: string, custom: string, resource: string) =>
  `md5(coalesce(${launchUrl}, '') || ' ' || ${custom}::text || ' ' || ${resource})`

const OTHERS = `from assignment a where a.course_id = c.id and a.state in ('draft', 'published') and a.id is distinct from $2`
const AROUND = plannedOnce(`
select ${COURSE}, (select count(*)::int ${OTHERS} and lower(a.title) = lower($3)) as "sameTitle",
  array(select a.title ${OTHERS} and a.registration_id = $4
    and ${LEADS_TO('a.launch_url', 'a.custom_parameters', `coalesce(a.content->'column'->>'resourceId', '')`)} = ${LEADS_TO('$5::text', '$6::jsonb', '$7::text')} order by a.created_at, a.position, a.id limit ${DOUBLES_NAMED}) as "sameContent",
  exists (select 1 from assignment a where a.course_id = c.id and a.registration_id = $4 and a.state = 'column') as "toolMakesColumns"
from course c where c.id = $1`)

const TOOL = `
select r.id, r.name, r.state, r.version, r.features, r.launch_url as "launchUrl", r.picker_url as "pickerUrl", r.initiation_url as "initiationUrl",
  r.redirect_uris as "redirectUris", r.configuration_url as "configurationUrl", r.likeness, r.framing, r.exact_titles as "exactTitles", r.disclosure,
  r.metadata, r.custom_parameters as "customParameters", r.first_entry as "firstEntry",
  exists (select 1 from key_use k where k.registration_id = r.id)
    or exists (select 1 from launch_evidence l join assignment a on a.id = l.assignment_id where a.registration_id = r.id) as used,
  (select m.label from menu_entry m where m.registration_id = r.id and m.course_id = $1 and m.shown and m.audience = 'everyone' limit 1) as "menuLabel",
  array(select f.link_id from first_entry f where f.registration_id = r.id and f.course_id = $1) as entered,
  (select count(*)::int from assignment a where a.course_id = $1 and a.registration_id = r.id and a.state in ('draft', 'published')) as uses
from registration r`

/** What stands around assignments: read in a few queries for a whole course, or for one of its assignments alone. */
export class PreflightRecords {
  constructor(private readonly manager: EntityManager) {}

  async course(courseId: string): Promise<CourseAround> {
    const [row] = await this.manager.query<CourseAround[]>(
      plannedOnce(`select ${COURSE} from course c where c.id = $1`),
      [courseId],
    )
    return row!
  }

  /** Registrations that a course's links use, and those named. */
  tools(courseId: string, ids: readonly string[]): Promise<ToolAroundRow[]> {
    return this.manager.query(
      `${TOOL} where r.id = any($2) or r.id in (select registration_id from assignment where course_id = $1 and state in ('draft', 'published')) order by r.id`,
      [courseId, ids],
    )
  }

  /** One registration, and those that could be taken for it. */
  toolAndAlike(courseId: string, id: string): Promise<ToolAroundRow[]> {
    return this.manager.query(
      plannedOnce(
        `${TOOL} where r.id = $2 or r.likeness <> '' and r.likeness = (select likeness from registration where id = $2) order by r.id`,
      ),
      [courseId, id],
    )
  }

  /** The assignments of a course, in their order. */
  neighbours(courseId: string): Promise<NeighbourRow[]> {
    return this.manager.query(
      `select id, title, registration_id as "registrationId", launch_url as "launchUrl", custom_parameters as "customParameters", content
       from assignment where course_id = $1 and state in ('draft', 'published') order by created_at, position, id`,
      [courseId],
    )
  }

  /**
   * What stands around one assignment, whatever its course holds beside.
   * @param one `resourceId`: null where it says nothing of its content, and has no double in that
   */
  async around(
    courseId: string,
    one: Omit<NeighbourRow, 'id' | 'content'> & { id: string | null; resourceId: string | null },
  ): Promise<CourseAround & Doubles & { toolMakesColumns: boolean }> {
    const [row] = await this.manager.query<(CourseAround & Doubles & { toolMakesColumns: boolean })[]>(AROUND, [
      courseId,
      one.id,
      one.title,
      one.registrationId,
      one.launchUrl,
      JSON.stringify(one.customParameters),
      one.resourceId,
    ])
    return row!
  }

  acceptances(assignmentIds: readonly string[]): Promise<AcceptanceRow[]> {
    const { which, ids } = oneOrAny(assignmentIds)
    return this.manager.query(
      plannedOnce(
        `select x.assignment_id as "assignmentId", x.rule, x.facts, x.reason, p.full_name as by, x.at from preflight_acceptance x
         join person p on p.id = x.person_id where x.assignment_id ${which}`,
      ),
      [ids],
    )
  }

  async accept(one: {
    assignmentId: string
    rule: string
    facts: Facts
    reason: string
    personId: string
    at: Date
  }): Promise<void> {
    await this.manager.query(
      `insert into preflight_acceptance (assignment_id, rule, facts, reason, person_id, at) values ($1, $2, $3, $4, $5, $6)
       on conflict (assignment_id, rule) do update set facts = excluded.facts, reason = excluded.reason, person_id = excluded.person_id, at = excluded.at`,
      [one.assignmentId, one.rule, one.facts, one.reason, one.personId, one.at],
    )
  }

  /** What was accepted before facts were kept, by its words of then. */
  acceptancesInWords(): Promise<{ assignmentId: string; rule: string; statement: string }[]> {
    return this.manager.query(
      `select x.assignment_id as "assignmentId", x.rule, x.statement from preflight_acceptance x join assignment a on a.id = x.assignment_id
       where x.facts is null and a.state in ('draft', 'published') for update of x`,
    )
  }

  async giveFacts(assignmentId: string, rule: string, facts: Facts): Promise<void> {
    await this.manager.query(
      `update preflight_acceptance set facts = $3, statement = null where assignment_id = $1 and rule = $2`,
      [assignmentId, rule, facts],
    )
  }

  async dropAcceptancesInWords(): Promise<void> {
    await this.manager.query(`delete from preflight_acceptance where facts is null`)
  }

  /** What a tool's pages said of frames. */
  async noteFraming(registrationId: string, framing: 'allowed' | 'refused'): Promise<void> {
    await this.manager.query(`update registration set framing = $2 where id = $1 and framing <> $2`, [
      registrationId,
      framing,
    ])
  }
}
