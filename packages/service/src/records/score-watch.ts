import type { ToolState } from '@bathyscribe/contract'
import type { EntityManager } from 'typeorm'

export interface ToolRow {
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
    // Of a whole site, what was heard of these days leaves nearly every tool aside at once; only the rest is looked at closely.
    return this.manager.query(
      `with heard as materialized (
         select distinct b.registration_id, b.course_id from score s join assignment b on b.id = s.assignment_id
         where $3::text[] is null and s.at >= $1 and s.outcome = 'accepted' and s.by_person_id is null and s.set_aside_by is null
       ), quiet as materialized (
         select distinct a.registration_id, a.course_id from assignment a join registration t on t.id = a.registration_id join course c on c.id = a.course_id
         where a.state = 'published' and t.state = 'enabled' and c.state = 'open' and 'scores' = any(t.features) and ($3::text[] is null or a.course_id = any($3))
           and not exists (select 1 from heard h where h.registration_id = a.registration_id and h.course_id = a.course_id)
           and (select max(v.last_at) from visit v where v.assignment_id = a.id) >= $2
       ), silent as (
         select q.registration_id, q.course_id, s.at as last_score, l.at as last_launch from quiet q
         join lateral (select max(r.heard_at) as at from assignment b join result r on r.assignment_id = b.id
           where b.registration_id = q.registration_id and b.course_id = q.course_id) s on s.at < $1
         join lateral (select max(n.last_at) as at from assignment a cross join lateral (
             select v.last_at from visit v join enrolment e on e.course_id = a.course_id and e.person_id = v.person_id and e.role = 'learner'
             where v.assignment_id = a.id order by v.last_at desc limit 1) n
           where a.registration_id = q.registration_id and a.course_id = q.course_id and a.state = 'published') l on l.at >= $2 and l.at > s.at + interval '1 day'
       )
       select ${tool} as tool, ${course} as course, x.last_launch as "lastLaunchAt", x.last_score as "lastScoreAt", x.launches
       from (select s.*,
           (select sum(v.launches)::int from assignment a join visit v on v.assignment_id = a.id
             join enrolment e on e.course_id = a.course_id and e.person_id = v.person_id and e.role = 'learner'
             where a.registration_id = s.registration_id and a.course_id = s.course_id and a.state = 'published') as launches
         from silent s join registration t on t.id = s.registration_id order by s.last_score, t.name, s.course_id limit 20) x
       join registration t on t.id = x.registration_id join course c on c.id = x.course_id
       order by x.last_score, t.name, x.course_id`,
      [quietSince, enteredSince, courseIds],
    )
  }
}
