import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What explains a refused message, found while its secrets were still at hand. */
export class Diagnoses1771000000000 implements MigrationInterface {
  name = 'Diagnoses1771000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table diagnosis (
        wire_entry_id bigint primary key references wire_entry on delete cascade,
        found jsonb not null
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table diagnosis`)
  }
}
