import type { MigrationInterface, QueryRunner } from 'typeorm'

/** When the password of a session was given last: what hands out secrets, ways in or rights asks for it anew. */
export class FreshPasswords1789000000000 implements MigrationInterface {
  name = 'FreshPasswords1789000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table session add confirmed_at timestamptz;
      update session set confirmed_at = created_at;
      alter table session alter confirmed_at set not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`alter table session drop confirmed_at`)
  }
}
