import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Soundings of many links, at once or on schedule. */
export class Sweeps1772000000000 implements MigrationInterface {
  name = 'Sweeps1772000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table sweep_schedule (
        id text primary key,
        title text not null,
        scope jsonb not null,
        every text not null check (every in ('day', 'week')),
        hour integer not null check (hour between 0 and 23),
        mail boolean not null,
        person_id text not null references person on delete cascade,
        next_at timestamptz not null,
        created_at timestamptz not null
      );
      create index sweep_schedule_due on sweep_schedule (next_at);

      create table sweep (
        id text primary key,
        title text not null,
        -- What it goes over, as a text that is the same for the same links: sweeps are compared by it.
        scope_key text not null,
        person_id text references person on delete set null,
        schedule_id text references sweep_schedule on delete set null,
        state text not null check (state in ('running', 'paused', 'done', 'stopped')),
        started_at timestamptz not null,
        ended_at timestamptz,
        before_id text references sweep on delete set null
      );
      create index sweep_by_time on sweep (started_at, id);
      create index sweep_by_scope on sweep (scope_key, started_at) where state = 'done';

      create table sweep_link (
        sweep_id text not null references sweep on delete cascade,
        assignment_id text not null references assignment on delete cascade,
        course_id text not null references course on delete cascade,
        registration_id text not null,
        -- Of the tool: so many at once are sounded there and no more.
        host text not null,
        position integer not null,
        state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'left_out')),
        sounding_id text,
        verdict text,
        cause text,
        change text,
        took_ms real,
        verdict_before text,
        took_before_ms real,
        -- The process that is at it, and when it last said so.
        worker text,
        beat_at timestamptz,
        not_before timestamptz,
        primary key (sweep_id, assignment_id)
      );
      create index sweep_link_waiting on sweep_link (sweep_id, position) where state = 'waiting';
      create index sweep_link_running on sweep_link (host) where state = 'running';
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table sweep_link, sweep, sweep_schedule`)
  }
}
