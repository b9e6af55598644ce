import type { MigrationInterface, QueryRunner } from 'typeorm'

/** The newest result and the last visit of a link are read by an index each: lists and Watch ask for them of thousands of links. */
export class NewestFirst1788000000000 implements MigrationInterface {
  name = 'NewestFirst1788000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create index result_newest on result (assignment_id, score_id desc) where score_id is not null;
      create index visit_newest on visit (assignment_id, last_at desc);
      create index wire_refused_by_tool on wire_entry (registration_id, at) where outcome <> 'accepted';
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index result_newest, visit_newest, wire_refused_by_tool`)
  }
}
