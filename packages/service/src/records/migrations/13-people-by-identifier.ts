import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What a roster calls a person is kept, so that the same person is recognised by it, and nobody by a user name that was made up. */
export class PeopleByIdentifier1776000000000 implements MigrationInterface {
  name = 'PeopleByIdentifier1776000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table person add column roster_name text unique;
      create index person_by_email on person (lower(email)) where email is not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index person_by_email;
      alter table person drop column roster_name;
    `)
  }
}
