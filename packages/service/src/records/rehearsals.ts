import type { ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

export interface RehearsalRow {
  assignment: { id: string; slug: string; title: string }
  tool: { id: string; slug: string; name: string; state: ToolState }
  state: 'draft' | 'published'
  launches: number
  lastAt: Date | null
  points: string | null
  outOf: string
  refusesTestLearners: boolean
  /** An instructor's own points stand. */
  overridden: boolean
  /** Visits, scores and points by hand that still stand. */
  traces: number
}

/** What test learners leave behind. */
export class RehearsalRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Every assignment of a course with what the test learner did there. */
  list(courseId: string, personId: string): Promise<RehearsalRow[]> {
    return this.manager.query(
      `select json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment, json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state) as tool,
         a.state, coalesce(v.launches, 0) as launches, v.last_at as "lastAt", r.standing::text as points, a.points::text as "outOf",
         coalesce((select f.check_name = 'taken' and f.code = 'refuses_test_learner' from sounding s join sounding_finding f on f.sounding_id = s.id
           where s.assignment_id = a.id and s.state = 'done' and f.stage = 'launch_test_learner' order by s.started_at desc, (f.verdict = 'fail') desc limit 1), false) as "refusesTestLearners",
         coalesce(v.launches, 0) + (select count(*)::int from score s where s.assignment_id = a.id and s.person_id = $2 and s.outcome = 'accepted' and s.set_aside_by is null
           and s.by_person_id is null and s.operation in ('replace', 'delete', 'progress')) + coalesce(r.overridden, false)::int as traces,
         coalesce(r.overridden, false) as overridden
       from assignment a join registration t on t.id = a.registration_id left join visit v on v.assignment_id = a.id and v.person_id = $2
       left join result r on r.assignment_id = a.id and r.person_id = $2
       where a.course_id = $1 and a.state in ('draft', 'published') order by a.created_at, a.position, a.id`,
      [courseId, personId],
    )
  }

  /** @returns how many visits that were */
  async forgetVisits(courseId: string, personId: string): Promise<number> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `delete from visit v using assignment a where a.id = v.assignment_id and a.course_id = $1 and v.person_id = $2`,
      [courseId, personId],
    )
    return count
  }
}
