import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Courses are closed and deleted, and come back; nothing in them goes. */
export class CoursesThatEnd1781000000000 implements MigrationInterface {
  name = 'CoursesThatEnd1781000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table course add column state text not null default 'open' check (state in ('open', 'closed', 'deleted')), add column state_since timestamptz;
      create index assignment_by_category on assignment (category_id) where category_id is not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(
      `drop index assignment_by_category; alter table course drop column state, drop column state_since`,
    )
  }
}
