import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Who is mailed what needs them, and how often. */
export class Digests1770000000000 implements MigrationInterface {
  name = 'Digests1770000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table digest (
        person_id text primary key references person on delete cascade,
        every text not null check (every in ('day', 'week')),
        next_at timestamptz not null,
        sent_at timestamptz,
        -- Of what the last one said, so that the same is not mailed day after day.
        fingerprint bytea,
        failure text
      );
      create index digest_due on digest (next_at);
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table digest`)
  }
}
