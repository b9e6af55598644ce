import type { MigrationInterface, QueryRunner } from 'typeorm'

/**
 * How scores are spread over assignments: about fifty to each. Where nearly all that there are belong to one, as after a pilot, PostgreSQL would take every other assignment for as full,
 * and read all scores to count the few of one (ALTER TABLE: n_distinct; a share of the rows where it is negative).
 */
export class SpreadOfScores1795000000000 implements MigrationInterface {
  name = 'SpreadOfScores1795000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table score alter column assignment_id set (n_distinct = -0.02);
      analyze score (assignment_id);
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table score alter column assignment_id reset (n_distinct);
      analyze score (assignment_id);
    `)
  }
}
