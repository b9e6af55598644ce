import type { MigrationInterface, QueryRunner } from 'typeorm'

const COURSES = `
  alter table course
    add column shown_decimals integer not null default 0 check (shown_decimals between 0 and 4),
    add column missing_counts boolean not null default false;
  -- Percent of the total. As long as no category of a course has one, points are added up.
  alter table category add column weight numeric check (weight >= 0 and weight <= 100);
  alter table registration add column roster_test_learner boolean not null default false;

  alter table assignment
    add column counting text not null default 'latest' check (counting in ('latest', 'best', 'first', 'mean')),
    -- column: made by a tool, not an assignment of ours. merged: another stands for it, its trail counts there, and scores for it go there.
    drop constraint assignment_state_check,
    add constraint assignment_state_check check (state in ('draft', 'published', 'deleted', 'column', 'merged')),
    add column merged_into text references assignment,
    -- The link that a tool's own column belongs to.
    add column tied_to text,
    add column said_resource_id text,
    add column said_tag text,
    add column released boolean not null default true,
    add column review_url text,
    add column review_custom jsonb not null default '{}',
    add column reviewable boolean not null default false;
  create index assignment_tied on assignment (tied_to) where tied_to is not null;
  create index assignment_merged on assignment (merged_into) where merged_into is not null;
`

const SCORES = `
  alter table score
    drop constraint score_operation_check,
    add constraint score_operation_check check (operation in ('replace', 'delete', 'progress', 'override', 'lift', 'exempt', 'count')),
    alter column wire_entry_id drop not null,
    add column activity text,
    add column grading text,
    add column comment text,
    add column submitted_at timestamptz,
    -- What "sent" is out of: 1 in LTI 1.x, the tool's own maximum in AGS.
    add column sent_out_of text,
    -- The result's points before it, to see what changed by it.
    add column points_before numeric,
    -- Whose act it was, when not a tool's, and what it was done by: the file of a reconciliation.
    add column by_person_id text,
    add column evidence text;
  create index score_by_wire_entry on score (wire_entry_id);

  alter table result
    alter column score_id drop not null,
    alter column at drop not null,
    add column sent_out_of text,
    add column last_operation text not null default 'replace',
    add column counting text not null default 'latest',
    add column last_id bigint,
    add column out_of numeric,
    add column attempts integer not null default 0,
    add column counted integer not null default 0,
    add column sum numeric not null default 0,
    add column activity text,
    add column grading text,
    add column heard_at timestamptz,
    add column comment text,
    add column submitted_at timestamptz,
    add column overridden boolean not null default false,
    add column override_points numeric,
    add column override_comment text,
    add column override_at timestamptz,
    add column exempt boolean not null default false,
    -- What stands in the gradebook, whoever said it.
    add column standing numeric generated always as
      (case when exempt then null when overridden then override_points else points end) stored;
  update score set sent_out_of = '1' where sent is not null;
  update result r set sent_out_of = case when r.sent is null then null else '1' end, last_id = r.score_id, heard_at = r.at, out_of = a.points,
    attempts = t.attempts, counted = case when r.fraction is null then 0 else t.attempts end, sum = case when r.fraction is null then 0 else t.sum end,
    last_operation = case when r.fraction is null then 'delete' else 'replace' end
  from assignment a, (select assignment_id, person_id, count(*) filter (where operation = 'replace')::int as attempts, coalesce(sum(fraction), 0) as sum
    from score where outcome = 'accepted' group by 1, 2) t
  where a.id = r.assignment_id and t.assignment_id = r.assignment_id and t.person_id = r.person_id;
  update result set last_id = 0 where last_id is null;
  alter table result alter column last_id set not null;
`

const COUNTING = `
  -- Whether a new entry becomes the one that a result stands by: the same as in core/scores/counting, there for whole trails.
  create function takes_over(counting text, operation text, standing numeric, fraction numeric) returns boolean immutable language sql as
    $$ select operation = 'delete' or (operation = 'replace' and
      (standing is null or counting in ('latest', 'mean') or (counting = 'best' and fraction > standing))) $$;
  create function mean_of(sum numeric, counted integer) returns numeric immutable language sql as
    $$ select trim_scale(round(sum / counted::numeric(60, 50), 30)) $$;
  create function points_of(fraction numeric, points numeric) returns numeric immutable language sql as
    $$ select trim_scale(case when scale(fraction) >= 25 then round(fraction * points, 15) else fraction * points end) $$;
`

const ROSTERS = `
  -- Which transaction last touched a person's place in a course: what a tool has not heard of yet.
  alter table enrolment add column changed bigint not null default (pg_current_xact_id()::text::bigint);
  create function note_enrolment_change() returns trigger language plpgsql as
    $$ begin new.changed := pg_current_xact_id()::text::bigint; return new; end $$;
  create trigger enrolment_changes before insert or update on enrolment for each row execute function note_enrolment_change();
  alter table person add column changed bigint not null default (pg_current_xact_id()::text::bigint);
  create function note_person_change() returns trigger language plpgsql as
    $$ begin new.changed := pg_current_xact_id()::text::bigint; return new; end $$;
  create trigger person_changes before update of given_name, family_name, full_name, email, sourced_id, closed_at on person
    for each row execute function note_person_change();
  create index enrolment_by_course on enrolment (course_id, person_id);

  -- What each tool last read of each course's roster.
  create table roster_reading (
    registration_id text not null references registration on delete cascade,
    course_id text not null references course on delete cascade,
    at timestamptz not null,
    watermark bigint not null,
    members integer not null,
    primary key (registration_id, course_id)
  );
`

/** Which score counts, what tools say of work on its way, the instructor's own word, columns made by tools, rosters that tools keep in step with. */
export class ScoresAndRosters1767000000000 implements MigrationInterface {
  name = 'ScoresAndRosters1767000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const part of [COURSES, SCORES, COUNTING, ROSTERS]) await runner.query(part)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop table roster_reading;
      drop trigger person_changes on person;
      drop trigger enrolment_changes on enrolment;
      drop function note_person_change(), note_enrolment_change(), points_of(numeric, numeric), mean_of(numeric, integer), takes_over(text, text, numeric, numeric);
      drop index enrolment_by_course;
      alter table person drop column changed;
      alter table enrolment drop column changed;
      delete from result where score_id is null;
      alter table result drop column standing;
      alter table result alter column score_id set not null, alter column at set not null,
        drop column sent_out_of, drop column last_operation, drop column counting, drop column last_id, drop column out_of, drop column attempts, drop column counted, drop column sum,
        drop column activity, drop column grading, drop column heard_at, drop column comment, drop column submitted_at, drop column overridden,
        drop column override_points, drop column override_comment, drop column override_at, drop column exempt;
      delete from score where operation not in ('replace', 'delete') or wire_entry_id is null;
      drop index score_by_wire_entry;
      alter table score drop constraint score_operation_check, add constraint score_operation_check check (operation in ('replace', 'delete')),
        alter column wire_entry_id set not null, drop column activity, drop column grading, drop column comment, drop column submitted_at,
        drop column sent_out_of, drop column points_before, drop column by_person_id, drop column evidence;
      update assignment set merged_into = null;
      delete from assignment where state in ('column', 'merged') or state_before in ('column', 'merged');
      drop index assignment_merged, assignment_tied;
      alter table assignment drop constraint assignment_state_check,
        add constraint assignment_state_check check (state in ('draft', 'published', 'deleted')), drop column counting, drop column merged_into, drop column tied_to, drop column said_resource_id, drop column said_tag,
        drop column released, drop column review_url, drop column review_custom, drop column reviewable;
      alter table registration drop column roster_test_learner;
      alter table category drop column weight;
      alter table course drop column shown_decimals, drop column missing_counts
    `)
  }
}
