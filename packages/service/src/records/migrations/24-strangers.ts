import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Of messages that name nothing we know a sample is kept: counted by the minute over all processes, and not for long. */
export class Strangers1787000000000 implements MigrationInterface {
  name = 'Strangers1787000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table stranger_minute (minute timestamptz primary key, kept integer not null);
      create index wire_by_strangers on wire_entry (at) where registration_id is null and direction = 'received';
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index wire_by_strangers; drop table stranger_minute`)
  }
}
