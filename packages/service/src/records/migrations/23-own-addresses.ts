import type { MigrationInterface, QueryRunner } from 'typeorm'

/** The public addresses under which this service was run: tools keep the one that they were told. */
export class OwnAddresses1786000000000 implements MigrationInterface {
  name = 'OwnAddresses1786000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `create table own_address (url text primary key, first_at timestamptz not null, last_at timestamptz not null)`,
    )
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table own_address`)
  }
}
