import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Whether what was told of refused messages was right, said by people or by the next message of the link; kept when the messages are gone. */
export class Verdicts1797000000000 implements MigrationInterface {
  name = 'Verdicts1797000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table diagnosis_verdict (
        wire_entry_id bigint not null,
        -- As it was told; “none” where nothing was.
        code text not null,
        sentence text,
        verdict text not null check (verdict in ('right', 'wrong')),
        was text,
        by_itself boolean not null,
        person_id text references person on delete set null,
        at timestamptz not null,
        -- What a person says goes before what showed by itself, and may be taken back.
        primary key (wire_entry_id, code, by_itself)
      );
      create index diagnosis_verdict_wrong on diagnosis_verdict (at) where verdict = 'wrong' and code <> 'none';
      create table diagnosis_look (
        code text primary key,
        at timestamptz not null,
        person_id text references person on delete set null
      );
      -- The newest explained refusal of each link and kind, until the next message of that link has come.
      create table diagnosis_waiting (
        registration_id text not null references registration on delete cascade,
        assignment_id text references assignment on delete cascade,
        kind text not null,
        wire_entry_id bigint not null,
        at timestamptz not null,
        -- Entries up to this one were looked through.
        looked_to bigint not null,
        unique nulls not distinct (registration_id, assignment_id, kind)
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table diagnosis_verdict, diagnosis_look, diagnosis_waiting`)
  }
}
