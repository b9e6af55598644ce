import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What a person did is found by an index, and whether anything can be written is tried on a row of its own. */
export class BoundedReading1778000000000 implements MigrationInterface {
  name = 'BoundedReading1778000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table pulse (id smallint primary key, at timestamptz not null);
      create index wire_by_person on wire_entry (person_id, id) where person_id is not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index wire_by_person; drop table pulse`)
  }
}
