import type { MigrationInterface, QueryRunner } from 'typeorm'

/** One word for one thing: results are handed on by hand (`manual`), a link that was broken is fixed, and what came beside a score was handed in. */
export class PlainWords1798000000000 implements MigrationInterface {
  name = 'PlainWords1798000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table assignment drop constraint assignment_hand_on_check;
      update assignment set hand_on = 'manual' where hand_on = 'review';
      alter table assignment alter hand_on set default 'manual',
        add constraint assignment_hand_on_check check (hand_on in ('manual', 'scheduled', 'at_once', 'never'));
      update sweep_link set change = 'fixed' where change = 'mended';
      alter table score rename result_data to handed_in;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table score rename handed_in to result_data;
      update sweep_link set change = 'mended' where change = 'fixed';
      alter table assignment drop constraint assignment_hand_on_check;
      update assignment set hand_on = 'review' where hand_on = 'manual';
      alter table assignment alter hand_on set default 'review',
        add constraint assignment_hand_on_check check (hand_on in ('review', 'scheduled', 'at_once', 'never'));
    `)
  }
}
