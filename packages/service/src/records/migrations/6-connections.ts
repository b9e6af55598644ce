import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Tools that are not launched but connected: an instructor lets them into courses, and takes that back. */
export class Connections1769000000000 implements MigrationInterface {
  name = 'Connections1769000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table connection (
        id text primary key,
        registration_id text not null references registration on delete cascade,
        person_id text not null references person on delete cascade,
        scopes text[] not null,
        made_at timestamptz not null,
        last_used_at timestamptz,
        revoked_at timestamptz,
        revoked_by text check (revoked_by in ('person', 'administrator', 'tool', 'misuse'))
      );
      create index connection_by_person on connection (person_id, made_at desc);
      create index connection_by_registration on connection (registration_id);

      create table connection_course (
        connection_id text not null references connection on delete cascade,
        course_id text not null references course on delete cascade,
        primary key (connection_id, course_id)
      );
      create index connection_course_by_course on connection_course (course_id);

      -- Authorisation codes (RFC 6749 section 4.1) and refresh tokens (section 6): kept as fingerprints, used once.
      create table connection_grant (
        fingerprint bytea primary key,
        connection_id text not null references connection on delete cascade,
        kind text not null check (kind in ('code', 'refresh')),
        redirect_uri text,
        challenge text,
        expires_at timestamptz not null,
        used_at timestamptz
      );
      create index connection_grant_expiry on connection_grant (expires_at);
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table connection_grant, connection_course, connection`)
  }
}
