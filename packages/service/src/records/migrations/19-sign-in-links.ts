import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Links by which people who have no password, or forgot it, set one of their own. One a person: a newer one ends the older. */
export class SignInLinks1782000000000 implements MigrationInterface {
  name = 'SignInLinks1782000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table sign_in_link (
        person_id text primary key references person on delete cascade,
        code_hash bytea not null unique,
        -- The code itself, sealed, for as long as a mail with it waits to be sent.
        code_sealed bytea,
        made_at timestamptz not null,
        expires_at timestamptz not null,
        tries smallint not null default 0,
        try_at timestamptz,
        failure text
      );
      create index sign_in_link_to_mail on sign_in_link (try_at) where code_sealed is not null;
      create index sign_in_link_by_age on sign_in_link (expires_at);
      create index person_without_password on person (id) where password_hash is null and not is_test_learner and closed_at is null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index person_without_password; drop table sign_in_link`)
  }
}
