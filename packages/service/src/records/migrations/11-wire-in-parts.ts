import type { MigrationInterface, QueryRunner } from 'typeorm'
import { makeWireParts, WIRE_PART } from '../wire-partitions.js'

const INDEXES = ['by_assignment', 'by_course', 'by_registration', 'by_time'] as const

/** Wire entries lie in parts by their number. What is there already becomes the first part as it is: nothing is copied. */
export class WireInParts1774000000000 implements MigrationInterface {
  name = 'WireInParts1774000000000'

  async up(runner: QueryRunner): Promise<void> {
    const [{ last }] = (await runner.query(`select last_value::text as last from wire_entry_id`)) as [{ last: string }]
    const first = (BigInt(last) / BigInt(WIRE_PART) + 1n) * BigInt(WIRE_PART)
    await runner.query(`
      -- A part that goes takes its explanations with it by a statement of its own.
      alter table diagnosis drop constraint diagnosis_wire_entry_id_fkey;
      alter table wire_entry rename to wire_entry_0;
      alter index wire_entry_pkey rename to wire_entry_0_pkey;
      alter index wire_refused rename to wire_0_refused;
      ${INDEXES.map((name) => `alter index wire_${name} rename to wire_0_${name};`).join('\n')}
      create table wire_entry (like wire_entry_0 including defaults including storage including compression) partition by range (id);
      alter table wire_entry add primary key (id);
      create index wire_by_assignment on wire_entry (assignment_id, id);
      create index wire_by_course on wire_entry (course_id, id);
      create index wire_by_registration on wire_entry (registration_id, id);
      create index wire_refused on wire_entry (id) where outcome <> 'accepted';
      create index wire_by_time on wire_entry using brin (at);
      alter table wire_entry attach partition wire_entry_0 for values from (minvalue) to (${first});
    `)
    await makeWireParts(runner, first)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table wire_entry_whole (like wire_entry including defaults including storage including compression);
      insert into wire_entry_whole select * from wire_entry;
      drop table wire_entry;
      alter table wire_entry_whole rename to wire_entry;
      alter table wire_entry add constraint wire_entry_pkey primary key (id);
      create index wire_by_assignment on wire_entry (assignment_id, id);
      create index wire_by_course on wire_entry (course_id, id);
      create index wire_by_registration on wire_entry (registration_id, id);
      create index wire_refused on wire_entry (id) where outcome <> 'accepted';
      create index wire_by_time on wire_entry using brin (at);
      delete from diagnosis d where not exists (select 1 from wire_entry w where w.id = d.wire_entry_id);
      alter table diagnosis add constraint diagnosis_wire_entry_id_fkey foreign key (wire_entry_id) references wire_entry on delete cascade
    `)
  }
}
