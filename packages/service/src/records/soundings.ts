import { Refusal, type ToolState } from '@bathyscribe/contract'
import type { Finding, Verdict } from '@bathyscribe/core/checks'
import type { EntityManager } from 'typeorm'
import { violatedKey } from './database.js'
import { SoundingRecord } from './entities/soundings.js'
import { momentOf, readCursor, toPage, type Page } from './paging.js'

export interface SoundingSummary {
  id: string
  state: 'running' | 'done' | 'interrupted'
  verdict: Verdict | null
  cause: string | null
  startedAt: Date
  endedAt: Date | null
  assignment: { id: string; slug: string; title: string }
  course: { id: string; code: string; title: string }
  tool: { id: string; slug: string; name: string; state: ToolState }
  by: { id: string; fullName: string; username: string } | null
  stages: Pick<Finding, 'stage' | 'verdict'>[]
}

const SUMMARY = `
select s.id, s.state, s.verdict, s.cause, s.started_at as "startedAt", s.ended_at as "endedAt",
  json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment,
  json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course,
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as by,
  coalesce((select json_agg(json_build_object('stage', f.stage, 'verdict', f.verdict) order by f.position)
    from sounding_finding f where f.sounding_id = s.id), '[]') as stages
from sounding s join assignment a on a.id = s.assignment_id join course c on c.id = a.course_id
join registration r on r.id = a.registration_id left join person p on p.id = s.person_id`

export class SoundingRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Starts a sounding. @throws Refusal when one of the same assignment is running: the database decides. */
  async start(sounding: SoundingRecord): Promise<void> {
    try {
      await this.manager.insert(SoundingRecord, sounding)
    } catch (error) {
      if (violatedKey(error) === 'one_running_sounding') throw new Refusal('sounding.already_running')
      throw error
    }
  }

  async addFinding(soundingId: string, position: number, finding: Finding): Promise<void> {
    await this.manager.query(
      `insert into sounding_finding (sounding_id, position, stage, check_name, verdict, statement, cause, remedy, wire_entry_id, duration_ms)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
      [
        soundingId,
        position,
        finding.stage,
        finding.check,
        finding.verdict,
        finding.statement,
        finding.cause,
        finding.remedy,
        finding.wireEntryId,
        finding.durationMs,
      ],
    )
  }

  async end(id: string, verdict: Verdict, cause: string | null, at: Date): Promise<void> {
    await this.manager.update(SoundingRecord, { id, state: 'running' }, { state: 'done', verdict, cause, endedAt: at })
  }

  /** Ends soundings that no process can still be at: their service was stopped in the middle. */
  async interruptOlderThan(startedBefore: Date, at: Date): Promise<number> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `update sounding set state = 'interrupted', ended_at = $2, cause = 'The service was stopped in the middle; run it again.'
       where state = 'running' and started_at < $1`,
      [startedBefore, at],
    )
    return count
  }

  async interrupt(id: string, at: Date, cause: string): Promise<void> {
    await this.manager.update(SoundingRecord, { id, state: 'running' }, { state: 'interrupted', endedAt: at, cause })
  }

  async summary(id: string): Promise<SoundingSummary> {
    const [row] = await this.manager.query<SoundingSummary[]>(`${SUMMARY} where s.id = $1`, [id])
    if (!row) throw new Refusal('sounding.not_found', id)
    return row
  }

  findings(id: string): Promise<Finding[]> {
    return this.manager.query(
      `select stage, check_name as "check", verdict, statement, cause, remedy, wire_entry_id::text as "wireEntryId", duration_ms as "durationMs"
       from sounding_finding where sounding_id = $1 order by position`,
      [id],
    )
  }

  async list(
    courseIds: readonly string[] | null,
    options: {
      assignmentId?: string | undefined
      courseId?: string | undefined
      verdict?: string | undefined
      limit: number
      cursor?: string | undefined
    },
  ): Promise<Page<SoundingSummary>> {
    const after = readCursor(options.cursor, 2)
    const rows = await this.manager.query<SoundingSummary[]>(
      `${SUMMARY} where ($1::text[] is null or a.course_id = any($1)) and ($2::text is null or a.id = $2)
        and ($3::text is null or a.course_id = $3) and ($4::text is null or s.verdict = $4)
        and ($5::timestamptz is null or (s.started_at, s.id) < ($5, $6)) order by s.started_at desc, s.id desc limit $7`,
      [
        courseIds,
        options.assignmentId ?? null,
        options.courseId ?? null,
        options.verdict ?? null,
        after ? momentOf(after[0]!) : null,
        after?.[1] ?? null,
        options.limit + 1,
      ],
    )
    return toPage(rows, options.limit, (last) => [last.startedAt.toISOString(), last.id])
  }

  /** The newest sounding of each assignment, where it did not pass. */
  lastFailing(courseIds: readonly string[] | null, limit: number): Promise<SoundingSummary[]> {
    return this.manager.query(
      `${SUMMARY} where ($1::text[] is null or a.course_id = any($1)) and s.verdict in ('fail', 'warn')
        and not exists (select 1 from sounding n where n.assignment_id = s.assignment_id and n.started_at > s.started_at and n.state = 'done')
       order by s.started_at desc limit $2`,
      [courseIds, limit],
    )
  }
}
