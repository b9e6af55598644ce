import type { MigrationInterface, QueryRunner } from 'typeorm'

const ASSIGNMENTS = `
  alter table course
    add column starts_at timestamptz,
    add column ends_at timestamptz,
    add column welcome text not null default '',
    add column revision integer not null default 1;

  alter table registration
    add column picker_url text,
    add column learner_text text not null default '',
    add column exact_titles text[] not null default '{}',
    add column framing text not null default 'unknown' check (framing in ('unknown', 'allowed', 'refused'));

  alter table assignment
    drop constraint assignment_state_check,
    add constraint assignment_state_check check (state in ('draft', 'published', 'deleted')),
    add column counted boolean not null default true,
    add column opens_at timestamptz,
    add column due_at timestamptz,
    add column closes_at timestamptz,
    add column attempts integer check (attempts > 0),
    add column for_everyone boolean not null default true,
    add column content jsonb,
    add column content_tool_id text references registration,
    add column row_key text,
    add column state_before text,
    add column deleted_at timestamptz;
  -- Instructions are rich text from here on; what was typed as plain text stays what it was.
  update assignment set instructions = '<p>' || replace(replace(replace(replace(instructions, '&', '&amp;'), '<', '&lt;'), '>', '&gt;'), E'\\n', '<br>') || '</p>'
    where instructions <> '';
  create unique index assignment_by_row_key on assignment (course_id, row_key) where row_key is not null and state <> 'deleted';
  create index assignment_by_course on assignment (course_id, position, created_at);
  create index assignment_deleted on assignment (deleted_at) where state = 'deleted';
`

const OUTLINE = `
  create table unit (
    id text primary key,
    course_id text not null references course on delete cascade,
    title text not null,
    published boolean not null,
    position integer not null,
    revision integer not null default 1,
    created_at timestamptz not null,
    updated_at timestamptz not null
  );
  create index unit_by_course on unit (course_id, position);
  create unique index unit_title on unit (course_id, lower(title));

  create table course_file (
    id text primary key,
    course_id text not null references course on delete cascade,
    name text not null,
    media_type text not null,
    bytes bigint not null,
    -- Where its content stands, shared by equal ones: the SHA-256 of it, in hexadecimal.
    content_key text not null,
    person_id text,
    created_at timestamptz not null
  );
  create index course_file_by_course on course_file (course_id, lower(name), id);
  create index course_file_by_content on course_file (content_key);

  -- What stands in units. A tool link without a unit is one that running text shows.
  create table unit_item (
    id text primary key,
    course_id text not null references course on delete cascade,
    unit_id text references unit on delete cascade,
    kind text not null check (kind in ('assignment', 'tool_link', 'page', 'file', 'address', 'heading')),
    title text not null default '',
    published boolean not null default false,
    pinned boolean not null default false,
    position integer not null,
    assignment_id text unique references assignment on delete cascade,
    file_id text references course_file,
    body text not null default '',
    address text,
    registration_id text references registration,
    launch_url text,
    custom_parameters jsonb not null default '{}',
    document_target text not null default 'frame' check (document_target in ('frame', 'window')),
    resource_link_id text unique,
    content jsonb,
    revision integer not null default 1,
    created_at timestamptz not null,
    updated_at timestamptz not null
  );
  create index unit_item_by_unit on unit_item (unit_id, position);
  create index unit_item_by_course on unit_item (course_id);
  create index unit_item_by_registration on unit_item (registration_id);
  create index unit_item_by_file on unit_item (file_id);
`

const GROUPS = `
  create table group_set (
    id text primary key,
    course_id text not null references course on delete cascade,
    name text not null,
    created_at timestamptz not null
  );
  create unique index group_set_name on group_set (course_id, lower(name));
  create table course_group (
    id text primary key,
    set_id text not null references group_set on delete cascade,
    name text not null,
    position integer not null
  );
  create unique index course_group_name on course_group (set_id, lower(name));
  create table group_member (
    group_id text not null references course_group on delete cascade,
    person_id text not null references person on delete cascade,
    primary key (group_id, person_id)
  );
  create index group_member_by_person on group_member (person_id);
  -- Whom an assignment is for, when not for everyone.
  create table assignment_group (
    assignment_id text not null references assignment on delete cascade,
    group_id text not null references course_group,
    primary key (assignment_id, group_id)
  );
  create index assignment_group_by_group on assignment_group (group_id);
  create table assignment_person (
    assignment_id text not null references assignment on delete cascade,
    person_id text not null references person on delete cascade,
    primary key (assignment_id, person_id)
  );

  -- One question to a tool's picker. Its answer is kept the moment it comes, once.
`

const PICKERS = `
  create table picking (
    id text primary key,
    course_id text not null references course on delete cascade,
    registration_id text not null references registration on delete cascade,
    person_id text not null references person on delete cascade,
    purpose text not null check (purpose in ('assignment', 'unit', 'text')),
    assignment_id text references assignment on delete cascade,
    multiple boolean not null,
    state text not null check (state in ('open', 'answered', 'empty', 'failed', 'left')),
    items jsonb not null default '[]',
    problems jsonb not null default '[]',
    said text,
    code text,
    wire_entry_id bigint,
    made_at timestamptz not null,
    expires_at timestamptz not null,
    answered_at timestamptz
  );
  create index picking_by_person on picking (person_id, made_at desc);
  create index picking_expiry on picking (made_at);

  create table preflight_acceptance (
    assignment_id text not null references assignment on delete cascade,
    rule text not null,
    -- What was accepted: when the rule says something else later, that is not accepted yet.
    statement text not null,
    reason text not null,
    person_id text not null,
    at timestamptz not null,
    primary key (assignment_id, rule)
  );

  -- When the tool says that a score was made: only a newer one counts (AGS 2.0 section 3.4.3).
  alter table score add column sent_at timestamptz;
  alter table result add column sent_at timestamptz;

  alter table wire_entry add column unit_item_id text, add column picking_id text;
`

/** Everything that an instructor makes a course of: units and their items, dates, audiences, pickers, groups, files. */
export class AssignmentsInFull1766000000000 implements MigrationInterface {
  name = 'AssignmentsInFull1766000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const part of [ASSIGNMENTS, OUTLINE, GROUPS, PICKERS]) await runner.query(part)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      alter table wire_entry drop column unit_item_id, drop column picking_id;
      alter table score drop column sent_at;
      alter table result drop column sent_at;
      drop table preflight_acceptance, picking, assignment_person, assignment_group, group_member, course_group, group_set, unit_item, course_file, unit;
      drop index assignment_by_row_key, assignment_by_course, assignment_deleted;
      update assignment set instructions = regexp_replace(instructions, '<[^>]*>', '', 'g');
      delete from assignment where state = 'deleted';
      alter table assignment
        drop constraint assignment_state_check,
        add constraint assignment_state_check check (state in ('draft', 'published')),
        drop column counted, drop column opens_at, drop column due_at, drop column closes_at, drop column attempts, drop column for_everyone,
        drop column content, drop column content_tool_id, drop column row_key, drop column state_before, drop column deleted_at;
      alter table registration drop column picker_url, drop column learner_text, drop column exact_titles, drop column framing;
      alter table course drop column starts_at, drop column ends_at, drop column welcome, drop column revision
    `)
  }
}
