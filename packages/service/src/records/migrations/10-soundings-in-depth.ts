import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Soundings that go deeper, look through a browser, wait for people, expect something, and leave nothing behind. */
export class SoundingsInDepth1773000000000 implements MigrationInterface {
  name = 'SoundingsInDepth1773000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table sounding
        add column depth text not null default 'plain' check (depth in ('plain', 'deep')),
        add column follower text not null default 'http' check (follower in ('http', 'browser')),
        -- A learner in whose name it goes where the tool refuses test learners.
        add column pilot_id text references person on delete set null,
        -- Minutes that it may wait for a person to do the work, and until when it does; what they are to do.
        add column wait_minutes integer not null default 0 check (wait_minutes between 0 and 60),
        add column waits_until timestamptz,
        add column waits_for text;
      create table sounding_picture (
        id text primary key,
        sounding_id text not null references sounding on delete cascade,
        at timestamptz not null,
        media_type text not null,
        bytes bytea not null
      );
      create index sounding_picture_of on sounding_picture (sounding_id);
      create index sounding_picture_by_time on sounding_picture (at);
      alter table sounding_finding add column picture_id text;

      alter table sweep
        add column depth text not null default 'plain' check (depth in ('plain', 'deep')),
        add column follower text not null default 'http' check (follower in ('http', 'browser'));

      -- What a sounding left in a trail counts for nothing; which sounding it was.
      alter table score add column set_aside_by text;
      -- A sounding's score is proof although it does not stay.
      alter table launch_evidence drop constraint launch_evidence_kind_check,
        add constraint launch_evidence_kind_check check (kind in ('proof', 'failure', 'complaint', 'scored', 'recorded'));

      -- What a link is expected to do, checked by every sounding.
      create table expectation (
        assignment_id text primary key references assignment on delete cascade,
        answers_within_ms integer check (answers_within_ms between 1 and 120000),
        contains text,
        score_from numeric check (score_from between 0 and 1),
        score_to numeric check (score_to between 0 and 1),
        members_from integer check (members_from >= 0),
        set_at timestamptz not null,
        person_id text references person on delete set null,
        -- The sounding that it was learned from.
        learned_from text
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop table expectation;
      delete from launch_evidence where kind in ('scored', 'recorded');
      alter table launch_evidence drop constraint launch_evidence_kind_check,
        add constraint launch_evidence_kind_check check (kind in ('proof', 'failure', 'complaint'));
      alter table score drop column set_aside_by;
      alter table sweep drop column depth, drop column follower;
      alter table sounding_finding drop column picture_id;
      drop table sounding_picture;
      alter table sounding drop column depth, drop column follower, drop column pilot_id, drop column wait_minutes, drop column waits_until, drop column waits_for
    `)
  }
}
