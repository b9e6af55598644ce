import { Refusal } from '@bathyscribe/contract'
import type { Evidence, Said } from '@bathyscribe/core/checks'
import { In, type EntityManager } from 'typeorm'
import { judged } from './proven.js'
import { SUMMARY, toFacts, type AssignmentSummary, type SummaryRow } from './assignment-summary.js'
import { AssignmentRecord } from './entities/courses.js'
import { codeKey } from './courses.js'
import { oneOrAny, plannedOnce } from './planned-once.js'
import { likePattern } from './paging.js'
import { noteEvidence, signsInJson, type EvidenceKind, type Sign } from './evidence.js'
import { IS_FOR } from './statements/audience.js'

export interface DueRow {
  assignment: { id: string; slug: string; title: string }
  course: { id: string; code: string; title: string; timeZone: string }
  dueAt: Date
  closesAt: Date | null
  points: string
  opened: boolean
  handedIn: boolean
}

/** An assignment as a search finds it. */
export interface FoundAssignmentRow {
  id: string
  slug: string
  title: string
  state: 'draft' | 'published'
  toolName: string
  course: { id: string; code: string; title: string }
}

const SUMMARY_OF_ONE = plannedOnce(`${SUMMARY} where a.id = $1`)
const NOTE_EVIDENCE = plannedOnce(noteEvidence('$1, kind, $2, $3, $4, $5, said from json_to_recordset($6::json)'))

export class AssignmentRecords {
  constructor(private readonly manager: EntityManager) {}

  /** By identifier, or by `COURSE-CODE/short-name`. @throws Refusal when there is none. */
  async byRef(ref: string): Promise<AssignmentRecord> {
    const slash = ref.indexOf('/')
    const found =
      slash < 0
        ? await this.manager.findOneBy(AssignmentRecord, { id: ref })
        : await this.manager
            .createQueryBuilder(AssignmentRecord, 'a')
            .where('a.slug = :slug and a.course_id = (select id from course where code_key = :key or id = :id)', {
              slug: ref.slice(slash + 1).toLowerCase(),
              key: codeKey(ref.slice(0, slash)),
              id: ref.slice(0, slash),
            })
            .getOne()
    if (!found) throw new Refusal('assignment.not_found', ref.slice(0, 200))
    return found
  }

  async slugsLike(courseId: string, start: string): Promise<string[]> {
    const rows = await this.manager.query<{ slug: string }[]>(
      `select slug from assignment where course_id = $1 and (slug = $2 or slug like $2 || '-%')`,
      [courseId, start],
    )
    return rows.map((row) => row.slug)
  }

  async insert(assignment: AssignmentRecord): Promise<void> {
    await this.manager.insert(AssignmentRecord, assignment)
  }

  /** Inserts many in one statement. They were made in the same moment; that they stand in this order is kept. */
  async insertAll(assignments: readonly AssignmentRecord[]): Promise<void> {
    const inOrder = assignments.map((one, position) => ({ ...one, position }))
    for (let i = 0; i < inOrder.length; i += 500) await this.manager.insert(AssignmentRecord, inOrder.slice(i, i + 500))
  }

  /** Changes many rows in one statement, each as it is given here in full. */
  async updateAll(assignments: readonly AssignmentRecord[]): Promise<void> {
    if (assignments.length === 0) return
    const rows = assignments.map((one) => ({
      id: one.id, revision: one.revision, title: one.title, instructions: one.instructions, points: one.points, counted: one.counted,
      category_id: one.categoryId, opens_at: one.opensAt, due_at: one.dueAt, closes_at: one.closesAt, attempts: one.attempts,
      for_everyone: one.forEveryone, document_target: one.documentTarget, launch_url: one.launchUrl, custom_parameters: one.customParameters,
      state: one.state, published_at: one.publishedAt, updated_at: one.updatedAt, settings_changed_at: one.settingsChangedAt,
    })) // oxfmt-ignore
    const changed = await this.manager.query<[{ id: string }[], number]>(
      `update assignment a set revision = a.revision + 1, title = x.title, instructions = x.instructions, points = x.points, counted = x.counted,
         category_id = x.category_id, opens_at = x.opens_at, due_at = x.due_at, closes_at = x.closes_at, attempts = x.attempts,
         for_everyone = x.for_everyone, document_target = x.document_target, launch_url = x.launch_url, custom_parameters = x.custom_parameters,
         state = x.state, published_at = x.published_at, updated_at = x.updated_at, settings_changed_at = x.settings_changed_at
       from json_to_recordset($1::json) as x(id text, revision integer, title text, instructions text, points numeric, counted boolean, category_id text,
         opens_at timestamptz, due_at timestamptz, closes_at timestamptz, attempts integer, for_everyone boolean, document_target text,
         launch_url text, custom_parameters jsonb, state text, published_at timestamptz, updated_at timestamptz, settings_changed_at timestamptz)
       where a.id = x.id and a.revision = x.revision returning a.id`,
      [JSON.stringify(rows)],
    )
    if (changed[1] !== assignments.length) throw new Refusal('record.changed_meanwhile')
  }

  /** Says whom assignments are for. What was said before is forgotten. */
  async setAudiences(
    audiences: readonly { assignmentId: string; groups: readonly string[]; people: readonly string[] }[],
  ): Promise<void> {
    const ids = audiences.map((one) => one.assignmentId)
    await this.manager.query(`delete from assignment_group where assignment_id = any($1)`, [ids])
    await this.manager.query(`delete from assignment_person where assignment_id = any($1)`, [ids])
    const pairs = (of: 'groups' | 'people') =>
      audiences.flatMap((one) => one[of].map((id) => [one.assignmentId, id] as const))
    for (const [of, table] of [
      ['groups', 'assignment_group'],
      ['people', 'assignment_person'],
    ] as const) {
      const all = pairs(of)
      if (all.length > 0)
        await this.manager.query(
          `insert into ${table} select * from unnest($1::text[], $2::text[]) on conflict do nothing`,
          [all.map(([id]) => id), all.map(([, id]) => id)],
        )
    }
  }

  /** Those of a course as they stand in the records, for tables. */
  ofCourse(courseId: string): Promise<AssignmentRecord[]> {
    return this.manager.find(AssignmentRecord, { where: { courseId, state: In(['draft', 'published']) } })
  }

  /** All short names of a course, taken ones of deleted assignments included. */
  async slugs(courseId: string): Promise<string[]> {
    const rows = await this.manager.query<{ slug: string }[]>(`select slug from assignment where course_id = $1`, [
      courseId,
    ])
    return rows.map((row) => row.slug)
  }

  /** Those deleted before `before`, for good, with everything that hangs on them. @returns how many went */
  async purge(before: Date): Promise<number> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `delete from assignment where state = 'deleted' and deleted_at < $1`,
      [before],
    )
    return count
  }

  /** For good, with everything that hangs on it: only for one without scores. */
  async remove(id: string): Promise<void> {
    await this.manager.delete(AssignmentRecord, { id })
  }

  async resultCount(assignmentId: string): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from result where assignment_id = $1 and (score_id is not null or overridden)`,
      [assignmentId],
    )
    return row!.n
  }

  /** Whether learners of the person's courses have something due, soonest first. */
  due(personId: string, now: Date, limit: number): Promise<DueRow[]> {
    return this.manager.query(
      `select json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment,
         json_build_object('id', c.id, 'code', c.code, 'title', c.title, 'timeZone', c.time_zone) as course, a.due_at as "dueAt", a.closes_at as "closesAt", a.points,
         v.person_id is not null as opened, coalesce(res.score_id is not null or res.activity in ('Submitted', 'Completed'), false) as "handedIn"
       from enrolment e join course c on c.id = e.course_id join assignment a on a.course_id = c.id
       left join unit_item i on i.assignment_id = a.id left join unit u on u.id = i.unit_id
       left join visit v on v.assignment_id = a.id and v.person_id = e.person_id
       left join result res on res.assignment_id = a.id and res.person_id = e.person_id
       where e.person_id = $1 and e.role = 'learner' and e.state = 'active' and c.state = 'open' and a.state = 'published' and a.due_at > $2
         and (u.id is null or u.published) and (a.opens_at is null or a.opens_at <= $2)
         and ${IS_FOR('$1')}
       order by a.due_at, a.id limit $3`,
      [personId, now, limit],
    )
  }

  /** Which of a course's assignments, or only of one, are for a person, and how often the person has handed in. */
  async mine(
    courseId: string,
    personId: string,
    assignmentId?: string,
  ): Promise<Map<string, { isFor: boolean; handedIn: number }>> {
    const rows = await this.manager.query<{ id: string; isFor: boolean; handedIn: number }[]>(
      `select a.id, ${IS_FOR('$2')} as "isFor",
         coalesce(s.n, 0) as "handedIn"
       from assignment a left join (select assignment_id, count(*)::int as n from score where person_id = $2 and outcome = 'accepted' and operation = 'replace' and set_aside_by is null
         and assignment_id in (select id from assignment where course_id = $1) group by 1) s on s.assignment_id = a.id
       where a.course_id = $1 and a.state in ('draft', 'published') and ($3::text is null or a.id = $3)`,
      [courseId, personId, assignmentId ?? null],
    )
    return new Map(rows.map(({ id, ...mine }) => [id, mine]))
  }

  /** Locks an assignment against scores on their way, so that results can be recomputed under it. */
  async lock(id: string): Promise<AssignmentRecord> {
    return this.manager.findOneOrFail(AssignmentRecord, { where: { id }, lock: { mode: 'pessimistic_write' } })
  }

  /** The same for many, in one statement and always in one order, so that two never wait for each other. */
  async lockAll(ids: readonly string[]): Promise<void> {
    if (ids.length === 0) return
    const { which, ids: asked } = oneOrAny(ids)
    await this.manager.query(plannedOnce(`select id from assignment where id ${which} order by id for update`), [asked])
  }

  async update(id: string, revision: number, change: Partial<AssignmentRecord>): Promise<void> {
    const done = await this.manager.update(AssignmentRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  /**
   * Assignments by a part of their title, those that begin with it first. Who teaches a course finds all of it, its learners what they can open there.
   * @param seesAll true for administrators
   */
  find(personId: string, seesAll: boolean, asked: { search: string; limit: number }): Promise<FoundAssignmentRow[]> {
    return this.manager.query(
      `select a.id, a.slug, a.title, a.state, t.name as "toolName", json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course
       from assignment a join course c on c.id = a.course_id and c.state <> 'deleted' join registration t on t.id = a.registration_id
       left join enrolment e on e.course_id = c.id and e.person_id = $1 and e.state = 'active'
       left join unit_item i on i.assignment_id = a.id left join unit u on u.id = i.unit_id
       where a.title ilike $3 and a.state in ('draft', 'published') and ($2::boolean or e.role in ('instructor', 'teaching_assistant')
         or e.role is not null and a.state = 'published' and (u.id is null or u.published) and ${IS_FOR('$1')})
       order by position(lower($4) in lower(a.title)), lower(a.title), c.code_key, a.id limit $5`,
      [personId, seesAll, likePattern(asked.search), asked.search, asked.limit],
    )
  }

  async summariesOfCourse(courseId: string): Promise<AssignmentSummary[]> {
    return this.summaries(
      `where a.course_id = $1 and a.state in ('draft', 'published') order by a.created_at, a.position, a.id limit 1000`,
      [courseId],
    )
  }

  async summary(id: string): Promise<AssignmentSummary> {
    const [found] = await this.manager.query<SummaryRow[]>(SUMMARY_OF_ONE, [id])
    if (!found) throw new Refusal('assignment.not_found')
    return withFacts(found)
  }

  /** How many assignments are published, how many of them are not proven all the way, and the latest changed of those. */
  async proofOfPublished(
    courseIds: readonly string[] | null,
    limit: number,
  ): Promise<{ published: number; unproven: number; first: AssignmentSummary[] }> {
    const [row] = await this.manager.query<[{ published: number; unproven: number; ids: string[] }]>(
      `with judged as materialized (${judged(courseIds !== null)})
       select count(*)::int as published, count(*) filter (where not proven)::int as unproven,
         coalesce((select array_agg(x.id order by x.updated_at desc, x.id) from (select * from judged where not proven order by updated_at desc, id limit $1) x), '{}') as ids
       from judged`,
      courseIds === null ? [limit] : [limit, courseIds],
    )
    const first = row.ids.length === 0 ? [] : await this.summaries(`where a.id = any($1) order by a.updated_at desc, a.id`, [row.ids]) // oxfmt-ignore
    return { published: row.published, unproven: row.unproven, first }
  }

  /** Notes the last sign of one kind that a launch works or not. */
  async noteLaunch(assignmentId: string, kind: EvidenceKind, evidence: Evidence, said: Said | null): Promise<void> {
    await this.noteAll(assignmentId, evidence, [[kind, said]])
  }

  /** Notes what one and the same event says of several things. One statement. */
  async noteAll(assignmentId: string, evidence: Evidence, signs: readonly Sign[]): Promise<void> {
    if (signs.length === 0) return
    await this.manager.query(NOTE_EVIDENCE, [
      assignmentId,
      evidence.at,
      evidence.kind,
      evidence.id,
      evidence.person,
      signsInJson(signs),
    ])
  }

  private async summaries(rest: string, values: unknown[]): Promise<AssignmentSummary[]> {
    const rows = await this.manager.query<SummaryRow[]>(`${SUMMARY} ${rest}`, values)
    return rows.map(withFacts)
  }
}

const withFacts = (row: SummaryRow): AssignmentSummary => ({ ...row, facts: toFacts(row) })
