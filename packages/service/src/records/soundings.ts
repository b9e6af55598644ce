import { Refusal, type ToolState } from '@bathyscribe/contract'
import { saidOf, type Depth, type Finding, type Follower, type Said, type Verdict } from '@bathyscribe/core/checks'
import type { EntityManager } from 'typeorm'
import { violatedKey } from './database.js'
import { noteEvidence, signsInJson, type Sign } from './evidence.js'
import type { ExpectationRow } from './expectations.js'
import { momentOf, readCursor, toPage, type Page } from './paging.js'
import { plannedOnce } from './planned-once.js'

export interface StartedSounding {
  id: string
  assignmentId: string
  personId: string
  startedAt: Date
  depth: Depth
  follower: Follower
  pilotId: string | null
  waitMinutes: number
  sweepId: string | null
}

export interface SoundingSummary {
  id: string
  state: 'running' | 'done' | 'interrupted'
  depth: Depth
  follower: Follower
  pilot: { id: string; fullName: string; username: string } | null
  waitMinutes: number
  /** What a person is to do, and until when it is waited for. */
  waiting: { for: string; until: string } | null
  verdict: Verdict | null
  /** What is wrong; null when nothing is. */
  headline: Said | null
  startedAt: Date
  endedAt: Date | null
  assignment: { id: string; slug: string; title: string }
  course: { id: string; code: string; title: string }
  tool: { id: string; slug: string; name: string; state: ToolState }
  by: { id: string; fullName: string; username: string } | null
  stages: Pick<Finding, 'stage' | 'verdict'>[]
}

/** What a sounding has to know of itself while it runs. */
export interface SoundingOnItsWay {
  id: string
  assignmentId: string
  startedAt: Date
  depth: Depth
  follower: Follower
  waitMinutes: number
  pilot: { id: string } | null
  /** The administrator who began it: goes as instructor where the course has none. */
  standIn: string | null
  expected: Pick<ExpectationRow, 'answersWithinMs' | 'contains' | 'scoreFrom' | 'scoreTo' | 'membersFrom'> | null
}

const ON_ITS_WAY = plannedOnce(`
select s.id, s.assignment_id as "assignmentId", s.started_at as "startedAt", s.depth, s.follower, s.wait_minutes as "waitMinutes",
  case when s.pilot_id is not null then json_build_object('id', s.pilot_id) end as pilot,
  (select p.id from person p where p.id = s.person_id and p.site_role = 'administrator' and p.closed_at is null) as "standIn",
  case when x.assignment_id is not null then json_build_object('answersWithinMs', x.answers_within_ms, 'contains', x.contains,
    'scoreFrom', x.score_from::text, 'scoreTo', x.score_to::text, 'membersFrom', x.members_from) end as expected
from sounding s left join expectation x on x.assignment_id = s.assignment_id where s.id = $1`)

const SUMMARY = `
select s.id, s.state, s.verdict, s.headline, s.started_at as "startedAt", s.ended_at as "endedAt", s.depth, s.follower, s.wait_minutes as "waitMinutes",
  case when s.state = 'running' and s.waits_for is not null then json_build_object('for', s.waits_for, 'until', s.waits_until) end as waiting,
  case when q.id is null then null else json_build_object('id', q.id, 'fullName', q.full_name, 'username', q.username) end as pilot,
  json_build_object('id', a.id, 'slug', a.slug, 'title', a.title) as assignment,
  json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course,
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  case when p.id is null then null else json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) end as by,
  coalesce((select json_agg(json_build_object('stage', f.stage, 'verdict', f.verdict) order by f.position)
    from sounding_finding f where f.sounding_id = s.id), '[]') as stages
from sounding s join assignment a on a.id = s.assignment_id join course c on c.id = a.course_id
join registration r on r.id = a.registration_id left join person p on p.id = s.person_id left join person q on q.id = s.pilot_id`

/** $1: the sounding; $2: how many findings it has already; $3: more of them. */
const ADD_FINDINGS = `
insert into sounding_finding (sounding_id, position, stage, check_name, code, verdict, facts, wire_entry_id, picture_id, duration_ms)
select $1, $2::int + n, stage, check_name, code, verdict, facts, wire_entry_id, picture_id, duration_ms
from rows from (json_to_recordset($3::json) as (stage text, "check" text, code text, verdict text, facts jsonb, "wireEntryId" bigint, "pictureId" text,
  "durationMs" real)) with ordinality as x(stage, check_name, code, verdict, facts, wire_entry_id, picture_id, duration_ms, n)`

const ADD = plannedOnce(ADD_FINDINGS)
const START = plannedOnce(`
with started as (
  insert into sounding (id, assignment_id, person_id, state, started_at, depth, follower, pilot_id, wait_minutes) values ($1, $2, $3, 'running', $4, $5, $6, $7, $8))
update sweep_link set sounding_id = $1 where sweep_id = $9 and assignment_id = $2 and state = 'running'`)
const END = plannedOnce(`
with added as (${ADD_FINDINGS}), noted as (${noteEvidence(`$7, kind, $6, 'sounding', $1, null, said from json_to_recordset($8::json)`)})
update sounding set state = 'done', verdict = $4, headline = $5, ended_at = $6 where id = $1 and state = 'running'`)

export class SoundingRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Starts a sounding, of a sweep’s link if one is named. @throws Refusal when one of the same assignment is running: the database decides. */
  async start(one: StartedSounding): Promise<void> {
    try {
      await this.manager.query(START, [
        one.id,
        one.assignmentId,
        one.personId,
        one.startedAt,
        one.depth,
        one.follower,
        one.pilotId,
        one.waitMinutes,
        one.sweepId,
      ])
    } catch (error) {
      if (violatedKey(error) === 'one_running_sounding') throw new Refusal('sounding.already_running')
      throw error
    }
  }

  /** What one stage found, in its order; one statement. @param after how many findings there are already */
  async addFindings(soundingId: string, after: number, findings: readonly Finding[]): Promise<void> {
    await this.manager.query(ADD, [soundingId, after, JSON.stringify(findings)])
  }

  /**
   * Ends a sounding with what was not stored of it yet, and with what it shows of its assignment; one statement.
   * @param last `after`: how many findings there are already
   * @returns whether it was this call that ended it
   */
  async end(
    id: string,
    last: {
      after: number
      findings: readonly Finding[]
      verdict: Verdict
      headline: Said | null
      at: Date
      assignmentId: string
      signs: readonly Sign[]
    },
  ): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(END, [
      id,
      last.after,
      JSON.stringify(last.findings),
      last.verdict,
      last.headline && saidOf(last.headline),
      last.at,
      last.assignmentId,
      signsInJson(last.signs),
    ])
    return count === 1
  }

  /** Ends soundings that no process can still be at: their service was stopped in the middle. */
  async interruptOlderThan(startedBefore: Date, at: Date, headline: Said): Promise<number> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `update sounding set state = 'interrupted', ended_at = $2, headline = $3
       where state = 'running' and greatest(started_at, coalesce(waits_until, started_at)) < $1`,
      [startedBefore, at, saidOf(headline)],
    )
    return count
  }

  /** Notes what a person is to do, and until when it is waited for; null when nothing is waited for any more. */
  async setWaiting(id: string, waiting: { for: string; until: Date } | null): Promise<void> {
    await this.manager.query(
      `update sounding set waits_for = $2, waits_until = coalesce($3, waits_until) where id = $1`,
      [id, waiting?.for ?? null, waiting?.until ?? null],
    )
  }

  /** Whether it still waits for a person: somebody may have let it go on. */
  async isWaiting(id: string): Promise<boolean> {
    const rows = await this.manager.query<unknown[]>(`select 1 from sounding where id = $1 and waits_for is not null`, [
      id,
    ])
    return rows.length > 0
  }

  async addPicture(picture: { id: string; soundingId: string; at: Date; mediaType: string; bytes: Buffer }) {
    await this.manager.query(
      `insert into sounding_picture (id, sounding_id, at, media_type, bytes) values ($1, $2, $3, $4, $5)`,
      [picture.id, picture.soundingId, picture.at, picture.mediaType, picture.bytes],
    )
  }

  /** @throws Refusal when there is none, or none any more */
  async picture(soundingId: string, id: string): Promise<{ mediaType: string; bytes: Buffer }> {
    const [row] = await this.manager.query<{ mediaType: string; bytes: Buffer }[]>(
      `select media_type as "mediaType", bytes from sounding_picture where sounding_id = $1 and id = $2`,
      [soundingId, id],
    )
    if (!row) throw new Refusal('sounding.no_picture', id)
    return row
  }

  async interrupt(id: string, at: Date, headline: Said): Promise<void> {
    await this.manager.query(
      `update sounding set state = 'interrupted', ended_at = $2, headline = $3 where id = $1 and state = 'running'`,
      [id, at, saidOf(headline)],
    )
  }

  async summary(id: string): Promise<SoundingSummary> {
    const [row] = await this.manager.query<SoundingSummary[]>(`${SUMMARY} where s.id = $1`, [id])
    if (!row) throw new Refusal('sounding.not_found', id)
    return row
  }

  /** One that was started, for whoever runs it. */
  async started(id: string): Promise<SoundingOnItsWay> {
    const [row] = await this.manager.query<SoundingOnItsWay[]>(ON_ITS_WAY, [id])
    if (!row) throw new Refusal('sounding.not_found', id)
    return row
  }

  /** What became of one: without a verdict, unless it went all the way. @param now until when it has taken, if it has no end */
  async outcome(id: string, now: Date): Promise<{ verdict: Verdict | null; headline: Said | null; tookMs: number }> {
    const { state, verdict, headline, startedAt, endedAt } = await this.summary(id)
    const tookMs = (endedAt ?? now).getTime() - startedAt.getTime()
    return { verdict: state === 'done' ? verdict : null, headline, tookMs }
  }

  /** The newest of an assignment that found nothing wrong, with its findings. */
  async lastPassed(assignmentId: string): Promise<{ id: string; findings: Finding[] } | undefined> {
    const [row] = await this.manager.query<{ id: string }[]>(
      `select id from sounding where assignment_id = $1 and verdict = 'pass' order by started_at desc limit 1`,
      [assignmentId],
    )
    return row && { id: row.id, findings: await this.findings(row.id) }
  }

  /** The newest of an assignment that passed before another. */
  async passedBefore(assignmentId: string, id: string): Promise<string | undefined> {
    const [row] = await this.manager.query<{ id: string }[]>(
      `select s.id from sounding s where s.assignment_id = $1 and s.id <> $2 and s.verdict = 'pass'
         and s.started_at <= (select started_at from sounding where id = $2) order by s.started_at desc limit 1`,
      [assignmentId, id],
    )
    return row?.id
  }

  findings(id: string): Promise<Finding[]> {
    return this.manager.query(
      `select stage, check_name as "check", code, verdict, facts, wire_entry_id::text as "wireEntryId", picture_id as "pictureId", duration_ms as "durationMs"
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
