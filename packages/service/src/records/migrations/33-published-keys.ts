import type { MigrationInterface, QueryRunner } from 'typeorm'

/** Public keys that were seen published, by a tool or by this platform: a token that is signed by one of before can be told from one that is signed by nobody known. */
export class PublishedKeys1796000000000 implements MigrationInterface {
  name = 'PublishedKeys1796000000000'

  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`
      create table published_key (
        registration_id text references registration on delete cascade,
        fingerprint bytea not null,
        key jsonb not null,
        last_at timestamptz not null,
        unique nulls not distinct (registration_id, fingerprint)
      );
      insert into published_key (registration_id, fingerprint, key, last_at)
        select registration_id, sha256(convert_to(k->>'n', 'UTF8')), k, read_at from tool_keyset, jsonb_array_elements(keys) k where keys is not null
        on conflict do nothing;
      insert into published_key (registration_id, fingerprint, key, last_at)
        select null, sha256(convert_to(public_key->>'n', 'UTF8')), public_key, now() from platform_key
        on conflict do nothing;
    `)
  }

  async down(runner: QueryRunner): Promise<void> {
    await runner.query(`drop table published_key`)
  }
}
