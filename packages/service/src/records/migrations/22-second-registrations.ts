import type { MigrationInterface, QueryRunner } from 'typeorm'

/** A tool that registers itself a second time is asked for first, and is called as was said. */
export class SecondRegistrations1785000000000 implements MigrationInterface {
  name = 'SecondRegistrations1785000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table invitation add column name text, add column second_reason text,
        add column same_as_id text references registration on delete set null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table invitation drop column name, drop column second_reason, drop column same_as_id`)
  }
}
