import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Other points, or another way of counting, of a column that has scores: a line of the gradebook's history, whoever made it. */
export class ColumnChanges1783000000000 implements MigrationInterface {
  name = 'ColumnChanges1783000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table column_change (
        id bigint generated always as identity primary key,
        assignment_id text not null references assignment on delete cascade,
        at timestamptz not null,
        xact xid8 not null,
        points_before numeric not null,
        points_after numeric not null,
        counting_before text not null,
        counting_after text not null,
        results integer not null
      );
      create index column_change_by_assignment on column_change (assignment_id, at);

      create function note_column_change() returns trigger language plpgsql as $$
      declare n integer;
      begin
        select count(*) into n from result where assignment_id = new.id and score_id is not null;
        if n > 0 then
          insert into column_change (assignment_id, at, xact, points_before, points_after, counting_before, counting_after, results)
          values (new.id, case when new.updated_at is distinct from old.updated_at then new.updated_at else clock_timestamp() end, pg_current_xact_id(),
            old.points, new.points, old.counting, new.counting, n);
        end if;
        return null;
      end $$;
      create trigger assignment_column_change after update of points, counting on assignment for each row
        when (old.points is distinct from new.points or old.counting is distinct from new.counting) execute function note_column_change();
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(
      `drop trigger assignment_column_change on assignment; drop function note_column_change(); drop table column_change`,
    )
  }
}
