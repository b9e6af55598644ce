import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What each new enrolment costs without serving anybody goes: an index equal to the key, and a trigger that wrote what the column's default says. */
export class LeanEnrolments1775000000000 implements MigrationInterface {
  name = 'LeanEnrolments1775000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index enrolment_by_course;
      drop trigger enrolment_changes on enrolment;
      create trigger enrolment_changes before update on enrolment for each row execute function note_enrolment_change();
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop trigger enrolment_changes on enrolment;
      create trigger enrolment_changes before insert or update on enrolment for each row execute function note_enrolment_change();
      create index enrolment_by_course on enrolment (course_id, person_id);
    `)
  }
}
