import { Refusal, type ToolState } from '@bathyscribe/contract'
import type { Depth, Follower, ProvenUnder, Said, Verdict } from '@bathyscribe/core/checks'
import type { LinkChange } from '@bathyscribe/core/sweeps'
import type { EntityManager } from 'typeorm'
import { momentOf, readCursor, toPage, type Page } from './paging.js'
import { plannedOnce } from './planned-once.js'
import { MADE_BY } from './proven.js'

export interface SweepRow {
  id: string
  title: string
  state: 'running' | 'paused' | 'done' | 'stopped'
  startedAt: Date
  endedAt: Date | null
  before: string | null
  scheduled: boolean
  depth: Depth
  follower: Follower
  by: { id: string; fullName: string; username: string } | null
  links: number
  done: number
  verdicts: Record<Verdict, number>
  changes: Partial<Record<LinkChange, number>>
}
export interface SweepLinkRow {
  assignment: { id: string; slug: string; title: string }
  course: { id: string; code: string; title: string }
  tool: { id: string; slug: string; name: string; state: ToolState }
  state: 'waiting' | 'running' | 'done' | 'left_out'
  soundingId: string | null
  verdict: Verdict | null
  /** What is wrong, or why it was left out; null when nothing is. */
  headline: Said | null
  change: LinkChange | null
  tookMs: number | null
  tookBeforeMs: number | null
  changed: ProofChangeRow | null
}
export interface SweepCauseRow {
  headline: Said
  tool: SweepLinkRow['tool']
  links: number
  newly: number
  soundingId: string
  assignment: SweepLinkRow['assignment']
  course: SweepLinkRow['course']
  changed: ProofChangeRow | null
}
/** What a proof hangs on, when it was changed, and by whom where that is known. */
export interface ProofChangeRow {
  what: ProvenUnder
  at: string
  by: string | null
}
export interface LinkToSound {
  assignmentId: string
  courseId: string
  registrationId: string
  host: string
}

// A sweep is seen by those who may see every link of it. $1: the courses that somebody teaches, null for all.
const SEEN = `($1::text[] is null or not exists (select 1 from sweep_link v where v.sweep_id = s.id and v.course_id <> all($1)))`
const SWEEP = `
select s.id, s.title, s.state, s.started_at as "startedAt", s.ended_at as "endedAt", s.before_id as before, s.schedule_id is not null as scheduled, s.depth, s.follower,
  case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as by, n.*
from sweep s left join person p on p.id = s.person_id
cross join lateral (
  select count(*)::int as links, (count(*) filter (where l.state in ('done', 'left_out')))::int as done,
    json_build_object('pass', count(*) filter (where verdict = 'pass'), 'warn', count(*) filter (where verdict = 'warn'), 'fail', count(*) filter (where verdict = 'fail'),
      'skipped', count(*) filter (where verdict = 'skipped' or l.state = 'left_out')) as verdicts,
    json_build_object('newly_broken', count(*) filter (where change = 'newly_broken'), 'still_broken', count(*) filter (where change = 'still_broken'),
      'fixed', count(*) filter (where change = 'fixed'), 'slower', count(*) filter (where change = 'slower'),
      'same', count(*) filter (where change = 'same'), 'first', count(*) filter (where change = 'first')) as changes
  from sweep_link l where l.sweep_id = s.id) n`
const REFS = `
  json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment, json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course,
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool`
// What of a link or its tool was changed since the sweep before, newest first: what a difference may come from.
const CHANGED = `(select json_build_object('what', d.what, 'at', d.at, 'by', ${MADE_BY})
  from (select d.* from proof_change d where d.assignment_id = a.id union all
    select d.* from proof_change d where d.registration_id = r.id and (a.launch_url is null or d.what <> 'tool_launch_address')) d
  where d.at > (select b.started_at from sweep n join sweep b on b.id = n.before_id where n.id = l.sweep_id) and d.at <= coalesce((select ended_at from sweep where id = l.sweep_id), now())
  order by d.at desc, d.id desc limit 1) as changed`
const JOINS = `join assignment a on a.id = l.assignment_id join course c on c.id = l.course_id join registration r on r.id = l.registration_id`

/** Sweeps as they are read; how their links are worked off is in `sweep-work.ts`. */
export class SweepRecords {
  constructor(private readonly manager: EntityManager) {}

  /** The links of a scope, by course and place; those of `courseIds` only. */
  links(scope: {
    courseIds: readonly string[] | null
    courseId: string | null
    registrationId: string | null
    term: string | null
    assignmentIds: readonly string[] | null
    drafts: boolean
    most: number
  }): Promise<LinkToSound[]> {
    return this.manager.query(
      `select a.id as "assignmentId", a.course_id as "courseId", a.registration_id as "registrationId",
         coalesce(substring(lower(coalesce(a.launch_url, r.launch_url, r.initiation_url)) from '^https?://([^/?#]+)'), '') as host
       from assignment a join course c on c.id = a.course_id join registration r on r.id = a.registration_id
       where (a.state = 'published' or $6 and a.state = 'draft') and c.state = 'open' and ($1::text[] is null or a.course_id = any($1)) and ($2::text is null or a.course_id = $2)
         and ($3::text is null or a.registration_id = $3) and ($4::text is null or c.term = $4) and ($5::text[] is null or a.id = any($5))
       order by c.code, a.created_at, a.position, a.id limit $7`,
      [
        scope.courseIds,
        scope.courseId,
        scope.registrationId,
        scope.term,
        scope.assignmentIds,
        scope.drafts,
        scope.most,
      ],
    )
  }

  /** Whether a person has a sweep over the same that is not over yet; asked by one at a time. To be called inside a transaction. */
  async hasRunning(personId: string, scopeKey: string): Promise<boolean> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtextextended($1, 0))`, [`sweep ${personId} ${scopeKey}`])
    const rows = await this.manager.query<unknown[]>(
      `select 1 from sweep where person_id = $1 and scope_key = $2 and schedule_id is null and state in ('running', 'paused') limit 1`,
      [personId, scopeKey],
    )
    return rows.length > 0
  }

  /** Makes a sweep with its links, each beside how it came out the last time. */
  async insert(
    sweep: {
      id: string
      title: string
      scopeKey: string
      personId: string
      scheduleId: string | null
      startedAt: Date
      depth: Depth
      follower: Follower
    },
    links: readonly LinkToSound[],
  ): Promise<void> {
    await this.manager.query(
      `insert into sweep (id, title, scope_key, person_id, schedule_id, state, started_at, depth, follower, before_id) values ($1, $2, $3, $4, $5, 'running', $6, $7, $8,
         (select b.id from sweep b where b.scope_key = $3 and b.state = 'done' order by b.started_at desc limit 1))`,
      [
        sweep.id,
        sweep.title,
        sweep.scopeKey,
        sweep.personId,
        sweep.scheduleId,
        sweep.startedAt,
        sweep.depth,
        sweep.follower,
      ],
    )
    await this.manager.query(
      `insert into sweep_link (sweep_id, assignment_id, course_id, registration_id, host, position, verdict_before, took_before_ms)
       select $1, x.assignment_id, x.course_id, x.registration_id, x.host, x.n, b.verdict, b.took_ms
       from unnest($2::text[], $3::text[], $4::text[], $5::text[]) with ordinality as x(assignment_id, course_id, registration_id, host, n)
       left join sweep_link b on b.assignment_id = x.assignment_id and b.state = 'done' and b.sweep_id = (select before_id from sweep where id = $1)`,
      [
        sweep.id,
        links.map((one) => one.assignmentId),
        links.map((one) => one.courseId),
        links.map((one) => one.registrationId),
        links.map((one) => one.host),
      ],
    )
  }

  /** @throws Refusal when there is none, or none that may be seen */
  async show(id: string, courseIds: readonly string[] | null): Promise<SweepRow> {
    const [row] = await this.manager.query<SweepRow[]>(`${SWEEP} where s.id = $2 and ${SEEN}`, [courseIds, id])
    if (!row) throw new Refusal('sweep.not_found', id)
    return row
  }

  async list(
    courseIds: readonly string[] | null,
    options: { limit: number; cursor?: string | undefined },
  ): Promise<Page<SweepRow>> {
    const after = readCursor(options.cursor, 2)
    const rows = await this.manager.query<SweepRow[]>(
      `${SWEEP} where ${SEEN} and ($2::timestamptz is null or (s.started_at, s.id) < ($2, $3)) order by s.started_at desc, s.id desc limit $4`,
      [courseIds, after ? momentOf(after[0]!) : null, after?.[1] ?? null, options.limit + 1],
    )
    return toPage(rows, options.limit, (last) => [last.startedAt.toISOString(), last.id])
  }

  /** What is wrong, by tool and what was found, with one link as an example. */
  causes(id: string): Promise<SweepCauseRow[]> {
    return this.manager.query(
      plannedOnce(`select g.headline, g.links, g.newly, l.sounding_id as "soundingId", ${REFS}, ${CHANGED}
       from (select headline, registration_id, count(*)::int as links, (count(*) filter (where change = 'newly_broken'))::int as newly, min(position) as first
         from sweep_link where sweep_id = $1 and verdict = 'fail' and sounding_id is not null group by 1, 2) g
       join sweep_link l on l.sweep_id = $1 and l.position = g.first ${JOINS}
       order by g.first`),
      [id],
    )
  }

  /** Links, what needs somebody first: newly broken, broken, warned of, then by place. */
  async linksOf(
    id: string,
    filter: {
      verdict?: string | undefined
      change?: string | undefined
      registrationId?: string | undefined
      limit: number
      cursor?: string | undefined
    },
  ): Promise<Page<SweepLinkRow>> {
    const after = readCursor(filter.cursor, 2)
    const rank = `case when l.change = 'newly_broken' then 0 when l.verdict = 'fail' then 1 when l.verdict = 'warn' then 2 when l.state = 'running' then 3 else 4 end`
    const rows = await this.manager.query<(SweepLinkRow & { rank: number; position: number })[]>(
      `select ${REFS}, ${CHANGED}, l.state, l.sounding_id as "soundingId", l.verdict, l.headline, l.change, l.took_ms as "tookMs", l.took_before_ms as "tookBeforeMs", ${rank} as rank, l.position
       from sweep_link l ${JOINS} where l.sweep_id = $1 and ($2::text is null or l.verdict = $2) and ($3::text is null or l.change = $3)
         and ($4::text is null or l.registration_id = $4) and ($5::int is null or (${rank}, l.position) > ($5, $6::int)) order by rank, l.position limit $7`,
      [
        id,
        filter.verdict ?? null,
        filter.change ?? null,
        filter.registrationId ?? null,
        wholeOf(after?.[0]),
        wholeOf(after?.[1]),
        filter.limit + 1,
      ],
    )
    const page = toPage(rows, filter.limit, (last) => [String(last.rank), String(last.position)])
    return { ...page, items: page.items.map(({ rank: _rank, position: _position, ...link }) => link) }
  }

  /** Moves a sweep between running and paused, or ends it. @returns whether it could still be moved */
  async move(id: string, to: 'running' | 'paused' | 'stopped', at: Date): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `update sweep set state = $2, ended_at = case when $2 = 'stopped' then $3::timestamptz end where id = $1 and state in ('running', 'paused')`,
      [id, to, at],
    )
    return count === 1
  }
}

function wholeOf(text: string | undefined): number | null {
  return text !== undefined && /^\d{1,9}$/.test(text) ? Number(text) : null
}
