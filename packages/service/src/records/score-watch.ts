import type { ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

interface ToolRow {
  id: string
  slug: string
  name: string
  state: ToolState
}
interface Ref {
  id: string
  code: string
  title: string
}
export interface RefusedScoresRow {
  code: string
  tool: ToolRow | null
  count: number
  lastAt: Date
  wireEntryId: string
}
export interface UnscoredColumnRow {
  assignment: { id: string; slug: string; title: string }
  course: Ref
  tool: ToolRow
  dueAt: Date
  learners: number
}
export interface SilentToolRow {
  tool: ToolRow
  course: Ref
  lastLaunchAt: Date
  lastScoreAt: Date | null
  launches: number
}

const tool = `json_build_object('id', t.id, 'slug', t.slug, 'name', t.name, 'state', t.state)`
const course = `json_build_object('id', c.id, 'code', c.code, 'title', c.title)`

/** What about scores needs somebody now. `courseIds` null: everywhere. */
export class ScoreWatchRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Scores refused since a moment, by cause and tool. */
  refused(since: Date, courseIds: readonly string[] | null): Promise<RefusedScoresRow[]> {
    return this.manager.query(
      `select w.code, case when t.id is null then null else ${tool} end as tool, w.n as count, w.last_at as "lastAt", w.last_id::text as "wireEntryId"
       from (select code, registration_id, count(*)::int as n, max(at) as last_at, max(id) as last_id from wire_entry
         where outcome = 'refused' and kind in ('score', 'outcome') and at >= $1 and ($2::text[] is null or course_id = any($2)) and code is not null group by 1, 2) w
       left join registration t on t.id = w.registration_id order by w.n desc, w.last_id desc limit 20`,
      [since, courseIds],
    )
  }

  /** Assignments past due with learners who have worked, or at least entered, and have no score. */
  unscored(now: Date, since: Date, courseIds: readonly string[] | null): Promise<UnscoredColumnRow[]> {
    return this.manager.query(
      `select json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment, ${course} as course, ${tool} as tool, a.due_at as "dueAt", n.learners
       from assignment a join course c on c.id = a.course_id join registration t on t.id = a.registration_id
       join lateral (select count(*)::int as learners from enrolment e left join visit v on v.assignment_id = a.id and v.person_id = e.person_id
         left join result r on r.assignment_id = a.id and r.person_id = e.person_id
         where e.course_id = a.course_id and e.role = 'learner' and e.state = 'active' and (v.person_id is not null or r.activity is not null)
           and r.standing is null and not coalesce(r.exempt, false)) n on n.learners > 0
       where a.state = 'published' and c.state = 'open' and a.due_at < $1 and a.due_at > $2 and ($3::text[] is null or a.course_id = any($3)) and 'scores' = any(t.features)
       order by a.due_at desc, a.id limit 20`,
      [now, since, courseIds],
    )
  }

  /** Tools that people still enter but that have said nothing of scores for days, although they have before. */
  silent(quietSince: Date, enteredSince: Date, courseIds: readonly string[] | null): Promise<SilentToolRow[]> {
    return this.manager.query(
      `select ${tool} as tool, ${course} as course, x.last_launch as "lastLaunchAt", x.last_score as "lastScoreAt", x.launches
       from (select a.registration_id, a.course_id, max(v.last_at) as last_launch, sum(v.launches)::int as launches,
           (select max(r.heard_at) from result r join assignment b on b.id = r.assignment_id where b.registration_id = a.registration_id and b.course_id = a.course_id) as last_score
         from assignment a join visit v on v.assignment_id = a.id join enrolment e on e.course_id = a.course_id and e.person_id = v.person_id and e.role = 'learner'
         where a.state = 'published' and ($3::text[] is null or a.course_id = any($3)) group by 1, 2) x
       join registration t on t.id = x.registration_id join course c on c.id = x.course_id
       where t.state = 'enabled' and c.state = 'open' and 'scores' = any(t.features) and x.last_launch >= $2 and x.last_score < $1 and x.last_launch > x.last_score + interval '1 day'
       order by x.last_score, t.name limit 20`,
      [quietSince, enteredSince, courseIds],
    )
  }
}
