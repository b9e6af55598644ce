import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What a tool says of its column's review and of who gave a score, kept to be given back whole. */
export class SaidInFull1790000000000 implements MigrationInterface {
  name = 'SaidInFull1790000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table assignment add review_label text, add review_statuses text[];
      alter table score add scored_by text;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table assignment drop review_label, drop review_statuses;
      alter table score drop scored_by;
    `)
  }
}
