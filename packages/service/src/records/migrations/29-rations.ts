import type { MigrationInterface, QueryRunner } from 'typeorm'

/** How often dear calls were made lately, counted for all processes together. Each process may print a set-up code of its own. */
export class Rations1792000000000 implements MigrationInterface {
  name = 'Rations1792000000000'

  async up(runner: QueryRunner): Promise<void> {
    // What was counted is over in a minute: a crash may lose it.
    await runner.query(`
      create unlogged table ration (
        key text primary key,
        uses integer not null,
        ends_at timestamptz not null
      );
      create index ration_by_end on ration (ends_at);
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table ration`)
  }
}
