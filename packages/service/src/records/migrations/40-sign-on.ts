import type { MigrationInterface, QueryRunner } from 'typeorm'

/** People sign in by accounts of an identity provider (OpenID Connect). */
export class SignOn1803000000000 implements MigrationInterface {
  name = 'SignOn1803000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table identity_provider (
        id text primary key,
        handle text not null constraint identity_provider_handle unique,
        name text not null,
        issuer text not null constraint identity_provider_issuer unique,
        client_id text not null,
        secret_sealed bytea,
        scopes text not null,
        match text not null check (match in ('nobody', 'email', 'username', 'sourced_id')),
        match_claim text,
        admits text not null check (admits in ('known', 'everybody')),
        administrator_claim text,
        administrator_value text,
        enabled boolean not null,
        revision integer not null default 1,
        created_at timestamptz not null,
        check ((administrator_claim is null) = (administrator_value is null))
      )`)
    await runner.query(`
      create table identity (
        provider_id text not null references identity_provider on delete cascade,
        subject text not null,
        person_id text not null references person,
        tied_by text not null check (tied_by in ('match', 'made', 'person')),
        tied_at timestamptz not null,
        last_at timestamptz not null,
        administrator_since timestamptz,
        primary key (provider_id, subject),
        constraint identity_once_each unique (person_id, provider_id)
      )`)
    await runner.query(`
      alter table session
        add column provider_id text references identity_provider on delete cascade,
        add column provider_session text,
        add column id_token_sealed bytea`)
    await runner.query(`create index session_by_provider on session (provider_id) where provider_id is not null`)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(
      `alter table session drop column provider_id, drop column provider_session, drop column id_token_sealed`,
    )
    await runner.query(`drop table identity`)
    await runner.query(`drop table identity_provider`)
  }
}
