import type { PublicKey } from '@bathyscribe/core/lti13'
import type { EntityManager } from 'typeorm'

/** Of each registration, and of the platform: a tool may publish new keys as often as it likes. */
const MOST_KEPT = 20

export interface PublishedKey {
  key: PublicKey
  lastAt: Date
}

/** Public keys that were seen published, those of now among them. Of the platform where `registrationId` is null. */
export class PublishedKeyRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Notes that keys are published at this moment; the newest are kept. */
  async note(registrationId: string | null, keys: readonly PublicKey[], now: Date): Promise<void> {
    if (keys.length === 0) return
    await this.manager.query(
      `insert into published_key (registration_id, fingerprint, key, last_at)
         select distinct on (k->>'n') $1::text, sha256(convert_to(k->>'n', 'UTF8')), k, $3::timestamptz from jsonb_array_elements($2::jsonb) k
       on conflict (registration_id, fingerprint) do update set key = excluded.key, last_at = greatest(published_key.last_at, excluded.last_at)`,
      [registrationId, JSON.stringify(keys), now],
    )
    await this.manager.query(
      `delete from published_key where registration_id is not distinct from $1 and fingerprint not in (
         select fingerprint from published_key where registration_id is not distinct from $1 order by last_at desc, fingerprint limit ${MOST_KEPT})`,
      [registrationId],
    )
  }

  /** The newest first. */
  of(registrationId: string | null): Promise<PublishedKey[]> {
    return this.manager.query(
      `select key, last_at as "lastAt" from published_key where registration_id is not distinct from $1 order by last_at desc, fingerprint`,
      [registrationId],
    )
  }

  /**
   * Keys of all others: of registrations that are not deleted, pasted ones included, and of the platform, whose name is null.
   * @param courseIds those whose own registrations are included beside the institution’s; null for all
   */
  ofOthers(
    registrationId: string | null,
    courseIds: readonly string[] | null,
    most: number,
  ): Promise<{ key: PublicKey; name: string | null }[]> {
    return this.manager.query(
      `select k.key, r.name from (
           select registration_id, key, last_at from published_key
           union all select id, jsonb_array_elements(public_keys), updated_at from registration where jsonb_typeof(public_keys) = 'array'
         ) k left join registration r on r.id = k.registration_id
       where k.registration_id is distinct from $1
         and (k.registration_id is null or (r.state <> 'deleted' and ($2::text[] is null or r.course_id is null or r.course_id = any($2))))
       order by k.last_at desc limit $3`,
      [registrationId, courseIds, most],
    )
  }
}
