import type { MigrationInterface, QueryRunner } from 'typeorm'

/** How tools' exports are read, and what goes on to the records office. */
export class ReconciliationAndOffice1768000000000 implements MigrationInterface {
  name = 'ReconciliationAndOffice1768000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      -- Which column of an export holds what, as it was confirmed once for each kind of file of a tool.
      create table export_reading (
        registration_id text not null references registration on delete cascade,
        heads text not null,
        reading jsonb not null,
        maximum numeric,
        person_id text not null,
        at timestamptz not null,
        primary key (registration_id, heads)
      );

      -- People as student information systems call them; two may share one by mistake of old, so it is not unique.
      create index person_by_sourced_id on person (sourced_id) where sourced_id is not null;

      -- The one records office that results go on to.
      create table records_office (
        id boolean primary key default true check (id),
        url text not null,
        token_url text not null,
        client_id text not null,
        secret_sealed bytea not null,
        paused boolean not null default false,
        every_minutes integer check (every_minutes > 0),
        updated_at timestamptz not null
      );

      -- How a column goes on: only after somebody looked, or by itself.
      alter table assignment add column hand_on text not null default 'review' check (hand_on in ('review', 'scheduled', 'at_once', 'never'));

      -- What the records office was told of each result, and what it answered.
      create table handed_on (
        assignment_id text not null references assignment on delete cascade,
        person_id text not null,
        -- What is to stand there, or stands there: the fingerprint of what was said last.
        fingerprint text not null,
        points numeric,
        state text not null check (state in ('waiting', 'accepted', 'refused')),
        tries integer not null default 0,
        next_at timestamptz,
        answer text not null default '',
        asked_at timestamptz not null,
        answered_at timestamptz,
        primary key (assignment_id, person_id)
      );
      create index handed_on_waiting on handed_on (next_at) where state = 'waiting';
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index person_by_sourced_id;
      drop table handed_on, records_office, export_reading;
      alter table assignment drop column hand_on
    `)
  }
}
