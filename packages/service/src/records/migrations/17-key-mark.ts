import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Which key file the records were made with is kept beside them, so that another one is found out at the start. */
export class KeyMark1780000000000 implements MigrationInterface {
  name = 'KeyMark1780000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`create table key_mark (id smallint primary key check (id = 1), mark text not null)`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table key_mark`)
  }
}
