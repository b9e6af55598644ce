import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What was moved from one registration to another, link by link, so that it can be taken back. */
export class Replacements1784000000000 implements MigrationInterface {
  name = 'Replacements1784000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table tool_replacement (
        id text primary key,
        from_id text not null references registration on delete cascade,
        to_id text not null references registration on delete cascade,
        course_id text references course on delete cascade,
        at timestamptz not null,
        person_id text references person on delete set null,
        state_before text not null,
        undone_at timestamptz
      );
      create index tool_replacement_by_from on tool_replacement (from_id, at);
      create index tool_replacement_by_to on tool_replacement (to_id, at);
      create table tool_replacement_link (
        replacement_id text not null references tool_replacement on delete cascade,
        kind text not null check (kind in ('assignment', 'menu_entry', 'unit_item')),
        link_id text not null,
        primary key (replacement_id, kind, link_id)
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table tool_replacement_link; drop table tool_replacement`)
  }
}
