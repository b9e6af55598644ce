import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Cases of learners whose score is missing, and what learners and support were written. */
export class Cases1801000000000 implements MigrationInterface {
  name = 'Cases1801000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table learner_case (
        assignment_id text not null references assignment on delete cascade,
        person_id text not null references person on delete cascade,
        state text not null check (state in ('open', 'closed')),
        since timestamptz not null,
        primary key (assignment_id, person_id)
      );
      create index learner_case_by_age on learner_case (state, since, assignment_id, person_id);
      create table case_event (
        id bigint generated always as identity primary key,
        assignment_id text not null references assignment on delete cascade,
        -- Whom it is about.
        person_id text not null references person on delete cascade,
        at timestamptz not null,
        kind text not null check (kind in ('said', 'opened', 'closed', 'letter', 'reminder')),
        by_person_id text references person on delete set null,
        subject text not null default '',
        text text not null default '',
        -- To whom and how it was written; null for what was not.
        sent_to text check (sent_to in ('learner', 'support')),
        sent_by text check (sent_by in ('mail', 'page')),
        address text,
        -- When a mail is tried next; null when it is out, or given up.
        try_at timestamptz,
        tries smallint not null default 0,
        sent_at timestamptz,
        failure text,
        read_at timestamptz
      );
      create index case_event_of on case_event (assignment_id, person_id, id);
      create index case_event_by on case_event (by_person_id, id) where by_person_id is not null;
      create index case_event_said on case_event (person_id, at) where kind = 'said';
      create index case_event_to_mail on case_event (try_at) where try_at is not null;
      create index case_event_unread on case_event (person_id, id) where sent_by = 'page' and read_at is null;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table case_event, learner_case`)
  }
}
