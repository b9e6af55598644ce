import type { MigrationInterface, QueryRunner } from 'typeorm'

const PEOPLE = `
  create table person (
    id text primary key,
    username text not null unique,
    given_name text not null default '',
    family_name text not null default '',
    full_name text not null,
    email text,
    sourced_id text,
    subject text not null unique,
    site_role text not null default 'none' check (site_role in ('administrator', 'none')),
    password_hash text,
    is_test_learner boolean not null default false,
    closed_at timestamptz,
    created_at timestamptz not null
  );
  create index person_by_name on person (full_name, id);

  create table session (
    id text primary key,
    token_hash bytea not null unique,
    person_id text not null references person on delete cascade,
    created_at timestamptz not null,
    last_seen_at timestamptz not null,
    expires_at timestamptz not null,
    user_agent text not null default ''
  );
  create index session_by_person on session (person_id);

  create table api_token (
    id text primary key,
    token_hash bytea not null unique,
    person_id text not null references person on delete cascade,
    name text not null,
    scopes text[] not null,
    created_at timestamptz not null,
    expires_at timestamptz not null,
    last_used_at timestamptz,
    revoked_at timestamptz
  );
  create index api_token_by_person on api_token (person_id);

  create table setup_code (
    code_hash bytea primary key,
    created_at timestamptz not null
  );
`

const COURSES = `
  create table course (
    id text primary key,
    code text not null,
    code_key text not null unique,
    title text not null,
    term text not null default '',
    time_zone text not null default 'UTC',
    sourced_id text,
    created_at timestamptz not null
  );

  create table category (
    id text primary key,
    course_id text not null references course on delete cascade,
    name text not null,
    position integer not null default 0,
    unique (course_id, name)
  );

  create table enrolment (
    course_id text not null references course on delete cascade,
    person_id text not null references person on delete cascade,
    role text not null check (role in ('instructor', 'teaching_assistant', 'learner', 'test_learner')),
    state text not null default 'active' check (state in ('active', 'dropped')),
    since timestamptz not null,
    dropped_at timestamptz,
    primary key (course_id, person_id)
  );
  create index enrolment_by_person on enrolment (person_id);
  create unique index one_test_learner on enrolment (course_id) where role = 'test_learner';
`

const TOOLS = `
  create table registration (
    id text primary key,
    slug text not null unique,
    name text not null,
    course_id text references course on delete cascade,
    state text not null check (state in ('draft', 'enabled', 'suspended', 'retired')),
    consumer_key text not null,
    secret_sealed bytea,
    secret_set_at timestamptz,
    launch_url text,
    signature_method text not null check (signature_method in ('HMAC-SHA1', 'HMAC-SHA256')),
    disclosure text not null check (disclosure in ('opaque', 'name', 'email', 'name_and_email')),
    document_target text not null check (document_target in ('frame', 'window')),
    custom_parameters jsonb not null default '{}',
    sounding_parameters jsonb not null default '{}',
    note text not null default '',
    revision integer not null default 1,
    created_at timestamptz not null,
    updated_at timestamptz not null
  );
  create index registration_by_key on registration (consumer_key);
  create index registration_by_course on registration (course_id);

  create table assignment (
    id text primary key,
    course_id text not null references course on delete cascade,
    registration_id text not null references registration,
    slug text not null,
    title text not null,
    instructions text not null default '',
    points numeric not null check (points >= 0),
    category_id text references category on delete set null,
    state text not null check (state in ('draft', 'published')),
    document_target text not null check (document_target in ('frame', 'window')),
    launch_url text,
    custom_parameters jsonb not null default '{}',
    resource_link_id text not null unique,
    revision integer not null default 1,
    position integer not null default 0,
    published_at timestamptz,
    created_at timestamptz not null,
    updated_at timestamptz not null,
    settings_changed_at timestamptz not null,
    unique (course_id, slug)
  );
  create index assignment_by_registration on assignment (registration_id);

  -- Who opened what: one row a person and link, so that "never opened" is known without the wire log, which expires.
`

const LAUNCHES = `
  create table visit (
    assignment_id text not null references assignment on delete cascade,
    person_id text not null,
    first_at timestamptz not null,
    last_at timestamptz not null,
    launches integer not null,
    last_wire_id bigint not null,
    primary key (assignment_id, person_id)
  ) with (fillfactor = 70);

  -- The last plain sign of each kind that a launch works or not.
  create table launch_evidence (
    assignment_id text not null references assignment on delete cascade,
    kind text not null check (kind in ('proof', 'failure', 'complaint')),
    at timestamptz not null,
    evidence_kind text not null check (evidence_kind in ('wire', 'sounding')),
    evidence_id text not null,
    person_name text,
    statement text not null default '',
    primary key (assignment_id, kind)
  );

  create table nonce (
    registration_id text not null,
    nonce text not null,
    expires_at timestamptz not null,
    primary key (registration_id, nonce)
  );
  create index nonce_expiry on nonce using brin (expires_at);

  -- No foreign keys: entries outlive what they speak of, and are written on the busiest path.
  create sequence wire_entry_id;
  create table wire_entry (
    id bigint primary key default nextval('wire_entry_id'),
    at timestamptz not null,
    kind text not null,
    direction text not null,
    outcome text not null,
    code text,
    detail text,
    statement text not null,
    registration_id text,
    course_id text,
    assignment_id text,
    person_id text,
    sounding_id text,
    duration_ms real not null,
    request json not null,
    response json
  );
  -- Entries are two to three kilobytes: lz4 costs a fraction of the default compression on the busiest path.
  alter table wire_entry alter column request set compression lz4, alter column response set compression lz4;
  create index wire_by_assignment on wire_entry (assignment_id, id);
  create index wire_by_course on wire_entry (course_id, id);
  create index wire_refused on wire_entry (id) where outcome <> 'accepted';
  create index wire_by_time on wire_entry using brin (at);

  create sequence score_id;
`

const SCORES = `
  create table score (
    id bigint primary key default nextval('score_id'),
    assignment_id text not null references assignment on delete cascade,
    person_id text not null,
    at timestamptz not null,
    operation text not null check (operation in ('replace', 'delete')),
    outcome text not null check (outcome in ('accepted', 'refused')),
    code text,
    sent text,
    fraction numeric,
    points numeric,
    out_of numeric not null,
    result_data json,
    wire_entry_id bigint not null
  );
  create index score_trail on score (assignment_id, person_id, id);
  create index score_refused on score (assignment_id, id) where outcome = 'refused';
  create index score_by_time on score using brin (at);

  -- Derived from the trail; score_id is the entry it stands by.
  create table result (
    assignment_id text not null references assignment on delete cascade,
    person_id text not null,
    sent text,
    fraction numeric,
    points numeric,
    score_id bigint not null,
    at timestamptz not null,
    primary key (assignment_id, person_id)
  ) with (fillfactor = 70);
`

const SOUNDINGS = `
  create table sounding (
    id text primary key,
    assignment_id text not null references assignment on delete cascade,
    person_id text references person on delete set null,
    state text not null check (state in ('running', 'done', 'interrupted')),
    verdict text check (verdict in ('pass', 'warn', 'fail', 'skipped')),
    cause text,
    started_at timestamptz not null,
    ended_at timestamptz
  );
  create index sounding_by_assignment on sounding (assignment_id, started_at desc);
  create index sounding_by_start on sounding (started_at desc, id desc);
  create unique index one_running_sounding on sounding (assignment_id) where state = 'running';

  create table sounding_finding (
    sounding_id text not null references sounding on delete cascade,
    position integer not null,
    stage text not null,
    check_name text not null,
    verdict text not null,
    statement text not null,
    cause text,
    remedy text,
    wire_entry_id bigint,
    duration_ms real not null,
    primary key (sounding_id, position)
  );
`

const AUDIT = `
  create table audit_entry (
    id bigint generated always as identity primary key,
    at timestamptz not null,
    person_id text,
    via text not null,
    action text not null,
    subject text not null,
    course_id text,
    before jsonb,
    after jsonb
  );
`

/** The records of the first line: people, courses, registrations, assignments, launches, scores, soundings, wire log, audit log. */
export class FirstLine1764000000000 implements MigrationInterface {
  name = 'FirstLine1764000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const part of [PEOPLE, COURSES, TOOLS, LAUNCHES, SCORES, SOUNDINGS, AUDIT]) await runner.query(part)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop table audit_entry, sounding_finding, sounding, result, score, wire_entry, nonce, launch_evidence, visit,
        assignment, registration, enrolment, category, course, setup_code, api_token, session, person;
      drop sequence wire_entry_id, score_id
    `)
  }
}
