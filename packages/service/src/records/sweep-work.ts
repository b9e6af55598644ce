import { saidOf, type Depth, type Follower, type Said, type Verdict } from '@bathyscribe/core/checks'
import type { LinkChange } from '@bathyscribe/core/sweeps'
import type { EntityManager } from 'typeorm'
import { plannedOnce } from './planned-once.js'

export interface ClaimedLink {
  sweepId: string
  assignmentId: string
  courseId: string
  personId: string | null
  depth: Depth
  follower: Follower
  verdictBefore: Verdict | null
  tookBeforeMs: number | null
}

export interface FailedLink {
  course: string
  title: string
  headline: Said | null
  verdict: Verdict
  change: LinkChange
}

export interface ScheduleRow {
  id: string
  title: string
  scope: Record<string, unknown>
  every: 'day' | 'week'
  hour: number
  mail: boolean
  nextAt: Date
  lastSweep: string | null
  by: { id: string; fullName: string; username: string }
}

const SCHEDULE = `
select d.id, d.title, d.scope, d.every, d.hour, d.mail, d.next_at as "nextAt",
  (select s.id from sweep s where s.schedule_id = d.id order by s.started_at desc limit 1) as "lastSweep",
  json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) as by
from sweep_schedule d join person p on p.id = d.person_id`

// The hosts of a sweep's waiting links are found one after the other, and of each no more links than may be taken: however many wait, a handful of rows is looked at.
const CLAIM = plannedOnce(`
update sweep_link l set state = 'running', worker = $1, beat_at = $2 from (
  select w.* from (
    select s.id as sweep_id, n.assignment_id, s.person_id, s.depth, s.follower, s.started_at, n.position,
      row_number() over (partition by h.host order by s.started_at, n.position) +
        (select count(*) from sweep_link r where r.host = h.host and r.state = 'running') as n
    from sweep s
    cross join lateral (
      with recursive hosts (host) as (
        (select v.host from sweep_link v where v.sweep_id = s.id and v.state = 'waiting' order by v.host limit 1)
        union all
        select (select v.host from sweep_link v where v.sweep_id = s.id and v.state = 'waiting' and v.host > hosts.host order by v.host limit 1)
        from hosts where hosts.host is not null)
      select host from hosts where host is not null) h
    cross join lateral (
      select v.assignment_id, v.position from sweep_link v
      where v.sweep_id = s.id and v.host = h.host and v.state = 'waiting' and (v.not_before is null or v.not_before <= $2)
      order by v.position limit $4::int) n
    where s.state = 'running') w
  where w.n <= $4::int order by w.started_at, w.position limit $3::int) x
where l.sweep_id = x.sweep_id and l.assignment_id = x.assignment_id
returning l.sweep_id as "sweepId", l.assignment_id as "assignmentId", l.course_id as "courseId", x.person_id as "personId", x.depth, x.follower, l.verdict_before as "verdictBefore", l.took_before_ms as "tookBeforeMs"`)

/** How the links of sweeps are worked off by any number of processes, each link by one of them; and the schedules that begin sweeps. */
export class SweepWorkRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Takes waiting links, so many at once of a tool's host and no more, over all processes. To be called inside a transaction. */
  async claim(worker: string, now: Date, limits: { slots: number; perHost: number }): Promise<ClaimedLink[]> {
    await this.manager.query(`select pg_advisory_xact_lock(hashtext('bathyscribe sweep'))`)
    const [rows] = await this.manager.query<[ClaimedLink[], number]>(CLAIM, [worker, now, limits.slots, limits.perHost])
    return rows
  }

  /** Whether there is anything to take, so that idle processes do not queue for the lock every second. */
  async anyWaiting(): Promise<boolean> {
    const [row] = await this.manager.query<{ any: boolean }[]>(
      plannedOnce(
        `select exists (select 1 from sweep_link l join sweep s on s.id = l.sweep_id where l.state = 'waiting' and s.state = 'running') as any`,
      ),
    )
    return row!.any
  }

  /** Says that a process is still at its links. */
  async beat(worker: string, now: Date): Promise<void> {
    await this.manager.query(`update sweep_link set beat_at = $2 where worker = $1 and state = 'running'`, [
      worker,
      now,
    ])
  }

  /** Gives links back whose process has said nothing for a while. @returns the soundings that it left behind */
  async giveBackLost(silentSince: Date): Promise<string[]> {
    const [rows] = await this.manager.query<[{ soundingId: string | null }[], number]>(
      `update sweep_link l set state = 'waiting', worker = null, sounding_id = null from
         (select sweep_id, assignment_id, sounding_id from sweep_link where state = 'running' and beat_at < $1 for update skip locked) x
       where l.sweep_id = x.sweep_id and l.assignment_id = x.assignment_id returning x.sounding_id as "soundingId"`,
      [silentSince],
    )
    return rows.flatMap(({ soundingId }) => (soundingId ? [soundingId] : []))
  }

  async giveBack(link: Pick<ClaimedLink, 'sweepId' | 'assignmentId'>, notBefore: Date | null): Promise<void> {
    await this.manager.query(
      `update sweep_link set state = 'waiting', worker = null, sounding_id = null, not_before = $3 where sweep_id = $1 and assignment_id = $2 and state = 'running'`,
      [link.sweepId, link.assignmentId, notBefore],
    )
  }

  /** @returns whether no link of the sweep waits any more; others may be running */
  async finish(
    link: Pick<ClaimedLink, 'sweepId' | 'assignmentId'>,
    found: {
      state: 'done' | 'left_out'
      verdict: Verdict | null
      headline: Said | null
      change: LinkChange | null
      tookMs: number | null
    },
  ): Promise<boolean> {
    const [rows] = await this.manager.query<[{ others: boolean }[], number]>(
      plannedOnce(
        `update sweep_link set state = $3, verdict = $4, headline = $5, change = $6, took_ms = $7, worker = null where sweep_id = $1 and assignment_id = $2 and state = 'running'
         returning exists (select 1 from sweep_link o where o.sweep_id = $1 and o.state = 'waiting') as others`,
      ),
      [
        link.sweepId,
        link.assignmentId,
        found.state,
        found.verdict,
        found.headline && saidOf(found.headline),
        found.change,
        found.tookMs,
      ],
    )
    return rows[0]?.others !== true
  }

  /** Ends a sweep with its last link. @returns whether it was this call that ended it */
  async endWhenDone(id: string, at: Date): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      plannedOnce(
        `update sweep set state = 'done', ended_at = $2 where id = $1 and state in ('running', 'paused')
           and not exists (select 1 from sweep_link where sweep_id = $1 and state in ('waiting', 'running'))`,
      ),
      [id, at],
    )
    return count === 1
  }

  /** Whom the end of a sweep is mailed to, and what failed in it. */
  async toMail(id: string): Promise<{ personId: string; title: string; failed: FailedLink[] } | undefined> {
    const [row] = await this.manager.query<{ personId: string; title: string; failed: FailedLink[] }[]>(
      `select d.person_id as "personId", s.title, (select json_agg(json_build_object('course', c.code, 'title', a.title, 'headline', l.headline, 'verdict', l.verdict, 'change', l.change) order by l.position)
         from sweep_link l join assignment a on a.id = l.assignment_id join course c on c.id = l.course_id
         where l.sweep_id = s.id and l.verdict = 'fail') as failed
       from sweep s join sweep_schedule d on d.id = s.schedule_id and d.mail where s.id = $1`,
      [id],
    )
    return row
  }

  schedules(personId: string | null): Promise<ScheduleRow[]> {
    return this.manager.query(
      `${SCHEDULE} where $1::text is null or d.person_id = $1 order by d.next_at, d.id limit 500`,
      [personId],
    )
  }

  async addSchedule(
    row: Omit<ScheduleRow, 'lastSweep' | 'by'> & { personId: string; createdAt: Date },
  ): Promise<ScheduleRow> {
    await this.manager.query(
      `insert into sweep_schedule (id, title, scope, every, hour, mail, person_id, next_at, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [
        row.id,
        row.title,
        JSON.stringify(row.scope),
        row.every,
        row.hour,
        row.mail,
        row.personId,
        row.nextAt,
        row.createdAt,
      ],
    )
    const [made] = await this.manager.query<ScheduleRow[]>(`${SCHEDULE} where d.id = $1`, [row.id])
    return made!
  }

  /** @returns whether there was one of theirs */
  async removeSchedule(id: string, personId: string | null): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `delete from sweep_schedule where id = $1 and ($2::text is null or person_id = $2)`,
      [id, personId],
    )
    return count === 1
  }

  /** Takes one schedule that is due and sets its next time, so that no other process begins the same sweep. */
  async takeDue(
    now: Date,
    nextAt: (row: Pick<ScheduleRow, 'every' | 'hour'>) => Date,
  ): Promise<ScheduleRow | undefined> {
    const [due] = await this.manager.query<ScheduleRow[]>(
      `${SCHEDULE} where d.next_at <= $1 order by d.next_at limit 1 for update of d skip locked`,
      [now],
    )
    if (due) await this.manager.query(`update sweep_schedule set next_at = $2 where id = $1`, [due.id, nextAt(due)])
    return due
  }
}
