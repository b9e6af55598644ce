import type { MigrationInterface, QueryRunner } from 'typeorm'

/** What addresses were when a tool's domain moved, one by one, so that it can be taken back. */
export class AddressMoves1791000000000 implements MigrationInterface {
  name = 'AddressMoves1791000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table address_move (
        id text primary key,
        registration_id text not null references registration on delete cascade,
        course_id text references course on delete cascade,
        from_url text not null,
        to_url text not null,
        at timestamptz not null,
        person_id text references person on delete set null,
        -- The fields of the registration that it changed.
        registration_before jsonb not null,
        registration_after jsonb not null,
        undone_at timestamptz
      );
      create index address_move_by_registration on address_move (registration_id, at);
      create table address_move_link (
        move_id text not null references address_move on delete cascade,
        kind text not null check (kind in ('assignment', 'menu_entry', 'unit_item')),
        link_id text not null,
        field text not null check (field in ('launch_url', 'review_url')),
        before text not null,
        after text not null,
        primary key (move_id, kind, link_id, field)
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table address_move_link; drop table address_move`)
  }
}
