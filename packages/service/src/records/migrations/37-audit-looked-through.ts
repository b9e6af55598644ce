import type { MigrationInterface, QueryRunner } from 'typeorm'

/** The audit is looked through by person and by course, newest first. */
export class AuditLookedThrough1800000000000 implements MigrationInterface {
  name = 'AuditLookedThrough1800000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create index audit_by_person on audit_entry (person_id, id);
      create index audit_by_course on audit_entry (course_id, id) where course_id is not null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop index audit_by_person, audit_by_course`)
  }
}
