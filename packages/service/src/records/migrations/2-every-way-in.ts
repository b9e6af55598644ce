import type { MigrationInterface, QueryRunner } from 'typeorm'

const REGISTRATIONS = `
  alter table registration
    drop constraint registration_state_check,
    add constraint registration_state_check check (state in ('draft', 'waiting', 'enabled', 'suspended', 'retired', 'deleted')),
    alter column consumer_key drop not null,
    add column version text not null default '1.1' check (version in ('1.1', '1.3')),
    add column description text not null default '',
    add column likeness text not null default '',
    add column client_id text unique,
    add column configuration_url text,
    add column initiation_url text,
    add column redirect_uris text[] not null default '{}',
    add column keyset_url text,
    add column public_keys jsonb,
    add column scopes text[] not null default '{}',
    add column features text[] not null default '{scores}',
    add column placements jsonb not null default '[]',
    add column offer text not null default 'all' check (offer in ('all', 'named', 'none')),
    add column keys_per_course boolean not null default false,
    add column template_id text references registration,
    add column first_entry text not null default 'none' check (first_entry in ('none', 'course', 'link')),
    add column scores_while_suspended boolean not null default true,
    add column metadata jsonb,
    add column proposal jsonb,
    add column management_hash bytea unique,
    add column state_before text,
    add column deleted_at timestamptz,
    add column replaced_by_id text references registration;
  update registration set likeness = lower(regexp_replace(regexp_replace(name, '\\([^)]*\\)', '', 'g'), '[^[:alnum:]]', '', 'g')),
    placements = '[{"place":"assignment","label":null,"launchUrl":null,"audience":"everyone","target":"frame"}]';
  create index registration_by_likeness on registration (likeness);
  create index registration_by_name on registration (lower(name), id);

  -- Which courses a tool of the institution is offered to, when not to all.
`

const PLACES = `
  create table tool_offer (
    registration_id text not null references registration on delete cascade,
    course_id text not null references course on delete cascade,
    primary key (registration_id, course_id)
  );
  create index tool_offer_by_course on tool_offer (course_id);

  -- Which tools an instructor has added to a course.
  create table course_tool (
    course_id text not null references course on delete cascade,
    registration_id text not null references registration on delete cascade,
    person_id text,
    added_at timestamptz not null,
    primary key (course_id, registration_id)
  );
  insert into course_tool (course_id, registration_id, person_id, added_at)
  select course_id, registration_id, null, min(created_at) from assignment group by 1, 2;

  -- LTI 1.3 deployments: one for the institution, more for single courses where that is wanted.
  create table deployment (
    id text primary key,
    registration_id text not null references registration on delete cascade,
    course_id text references course on delete cascade,
    label text not null default '',
    created_at timestamptz not null,
    unique nulls not distinct (registration_id, course_id)
  );

  create table menu_entry (
    id text primary key,
    course_id text not null references course on delete cascade,
    registration_id text not null references registration,
    label text not null,
    launch_url text,
    custom_parameters jsonb not null default '{}',
    document_target text not null check (document_target in ('frame', 'window')),
    audience text not null check (audience in ('everyone', 'instructors')),
    shown boolean not null default true,
    position integer not null,
    resource_link_id text not null unique,
    revision integer not null default 1,
    created_at timestamptz not null,
    updated_at timestamptz not null
  );
  create index menu_entry_by_course on menu_entry (course_id, position);
  create index menu_entry_by_registration on menu_entry (registration_id);

  -- Who on the teaching side opened a tool first, in a course ('') or at one of its links.
  create table first_entry (
    registration_id text not null references registration on delete cascade,
    course_id text not null references course on delete cascade,
    link_id text not null,
    person_id text not null,
    at timestamptz not null,
    primary key (registration_id, course_id, link_id)
  );

  -- Secrets beside the one that launches are signed with: the next one, and earlier ones still taken for a while.
`

const KEYS = `
  create table other_secret (
    id text primary key,
    registration_id text not null references registration on delete cascade,
    sealed bytea not null,
    role text not null check (role in ('next', 'previous')),
    set_at timestamptz not null,
    ends_at timestamptz
  );
  create unique index one_next_secret on other_secret (registration_id) where role = 'next';
  create index other_secret_by_registration on other_secret (registration_id);

  -- How often each key was used and when last; written gathered, some seconds later.
  create table key_use (
    registration_id text not null,
    key text not null,
    uses bigint not null,
    last_at timestamptz not null,
    primary key (registration_id, key)
  ) with (fillfactor = 70);

  create table platform_key (
    kid text primary key,
    sealed bytea not null,
    public_key jsonb not null,
    state text not null check (state in ('next', 'current', 'previous')),
    made_at timestamptz not null,
    current_since timestamptz,
    ends_at timestamptz
  );
  create unique index one_current_key on platform_key (state) where state in ('next', 'current');

  -- What a tool's keyset last held, so that it is fetched once per cache time and shown to people.
  create table tool_keyset (
    registration_id text primary key references registration on delete cascade,
    url text not null,
    keys jsonb,
    read_at timestamptz not null,
    failure text,
    reads bigint not null default 1
  );

  -- Registration tokens: used once, within the hour.
  create table invitation (
    id text primary key,
    token_hash bytea not null unique,
    address text not null,
    course_id text references course on delete cascade,
    person_id text not null references person on delete cascade,
    made_at timestamptz not null,
    expires_at timestamptz not null,
    used_at timestamptz,
    registration_id text references registration on delete set null
  );

  alter table wire_entry add column menu_entry_id text;
  create index wire_by_registration on wire_entry (registration_id, id);
`

/** Every way a tool is handed over: LTI 1.3, offers, placements, the course's menu, first entries, keys over time. */
export class EveryWayIn1765000000000 implements MigrationInterface {
  name = 'EveryWayIn1765000000000'

  async up(runner: QueryRunner): Promise<void> {
    for (const part of [REGISTRATIONS, PLACES, KEYS]) await runner.query(part)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`
      drop index wire_by_registration, registration_by_likeness, registration_by_name;
      alter table wire_entry drop column menu_entry_id;
      drop table invitation, tool_keyset, platform_key, key_use, other_secret, first_entry, menu_entry, deployment, course_tool, tool_offer;
      delete from registration where version <> '1.1' or state in ('waiting', 'deleted');
      alter table registration
        drop constraint registration_state_check,
        add constraint registration_state_check check (state in ('draft', 'enabled', 'suspended', 'retired')),
        alter column consumer_key set not null,
        drop column version, drop column description, drop column likeness, drop column client_id, drop column configuration_url, drop column initiation_url,
        drop column redirect_uris, drop column keyset_url, drop column public_keys, drop column scopes, drop column features,
        drop column placements, drop column offer, drop column keys_per_course, drop column template_id, drop column first_entry,
        drop column scores_while_suspended, drop column metadata, drop column proposal, drop column management_hash,
        drop column state_before, drop column deleted_at, drop column replaced_by_id
    `)
  }
}
