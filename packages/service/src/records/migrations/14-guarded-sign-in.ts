import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Checks of passwords are counted where all processes see them. */
export class GuardedSignIn1777000000000 implements MigrationInterface {
  name = 'GuardedSignIn1777000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table password_miss (
        id bigint generated always as identity primary key,
        account text not null,
        address text not null,
        known boolean not null,
        at timestamptz not null
      );
      create index password_miss_by_account on password_miss (account, at);
      create index password_miss_by_address on password_miss (address, at) where not known;
      create index password_miss_by_age on password_miss (at);
      create table sign_in_place (
        account text not null,
        address text not null,
        last_at timestamptz not null,
        primary key (account, address)
      );
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table sign_in_place; drop table password_miss`)
  }
}
