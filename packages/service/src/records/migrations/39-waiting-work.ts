import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Work that waits for a person to grade it is found without looking through all results. */
export class WaitingWork1802000000000 implements MigrationInterface {
  name = 'WaitingWork1802000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`create index result_waiting on result (heard_at) where grading = 'PendingManual'`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index result_waiting`)
  }
}
