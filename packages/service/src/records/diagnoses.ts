import type { Diagnosis } from '@bathyscribe/core/diagnosis'
import type { EntityManager } from 'typeorm'
import { likePattern } from './paging.js'

export interface SealedSecret {
  registrationId: string
  name: string
  consumerKey: string
  sealed: Buffer
}

export interface KeptMessage {
  id: string
  registrationId: string | null
  at: Date
  direction: 'sent' | 'received'
  request: {
    method?: string
    url: string
    parameters?: [string, string][]
    headers?: Record<string, string>
    body?: string
  }
}

/** The newest entries that are looked through, so that an old log costs no more than a young one. */
const LOOKED_THROUGH = 200_000

/** What explains refused messages, and what is looked up to find it. */
export class DiagnosisRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Keeps what explains an entry. Whether it was right shows when the next message of the link comes: where a cause was told, that is waited for. */
  async keep(wireEntryId: string, found: Diagnosis): Promise<void> {
    const isTold = found.certainty === 'proven' || found.certainty === 'likely'
    await this.manager.query(
      `with kept as (insert into diagnosis (wire_entry_id, found) values ($1, $2) on conflict (wire_entry_id) do nothing returning wire_entry_id)
       insert into diagnosis_waiting (registration_id, assignment_id, kind, wire_entry_id, at, looked_to)
       select w.registration_id, w.assignment_id, w.kind, w.id, w.at, w.id from kept join wire_entry w on w.id = kept.wire_entry_id
       where $3 and w.registration_id is not null
       on conflict (registration_id, assignment_id, kind) do update set wire_entry_id = excluded.wire_entry_id, at = excluded.at, looked_to = excluded.looked_to
         where diagnosis_waiting.wire_entry_id < excluded.wire_entry_id`,
      [wireEntryId, JSON.stringify(found), isTold],
    )
  }

  /** What explains entries, by their identifiers. */
  async of(wireEntryIds: readonly string[]): Promise<Map<string, Diagnosis>> {
    const rows = await this.manager.query<{ id: string; found: Diagnosis }[]>(
      `select wire_entry_id::text as id, found from diagnosis where wire_entry_id = any($1::bigint[])`,
      [wireEntryIds],
    )
    return new Map(rows.map(({ id, found }) => [id, found]))
  }

  /** Shared secrets of registrations that are not deleted, the newest first. @param courseIds those whose own ones are included beside the institution’s; null for all */
  secrets(courseIds: readonly string[] | null, most: number): Promise<SealedSecret[]> {
    return this.manager.query(
      `select id as "registrationId", name, consumer_key as "consumerKey", secret_sealed as sealed from registration
       where secret_sealed is not null and consumer_key is not null and state <> 'deleted' and ($1::text[] is null or course_id is null or course_id = any($1))
       order by created_at desc limit $2`,
      [courseIds, most],
    )
  }

  /** Tools of LTI 1.3 with their deployments. */
  clients(
    courseIds: readonly string[] | null,
    most: number,
  ): Promise<{ id: string; name: string; clientId: string; deployments: string[] }[]> {
    return this.manager.query(
      `select r.id, r.name, r.client_id as "clientId",
         coalesce((select array_agg(d.id order by d.id) from deployment d where d.registration_id = r.id), '{}') as deployments
       from registration r where r.client_id is not null and r.state <> 'deleted' and ($1::text[] is null or r.course_id is null or r.course_id = any($1))
       order by r.created_at desc limit $2`,
      [courseIds, most],
    )
  }

  /** Where a nonce came in before, within the time that nonces are remembered. */
  async nonceSeen(
    registrationId: string,
    nonce: string,
    since: Date,
  ): Promise<{ id: string; at: Date; statement: string; nonce: string | null } | undefined> {
    const [row] = await this.manager.query<{ id: string; at: Date; statement: string; nonce: string | null }[]>(
      `select id::text as id, at, statement, substring(request->'headers'->>'authorization' from 'oauth_nonce="([^"]*)"') as nonce from (select * from wire_entry where registration_id = $1 and at > $3 order by id desc limit ${LOOKED_THROUGH / 10}) w
       where kind = 'outcome' and code is distinct from 'oauth.nonce_used' and request->'headers'->>'authorization' like $2 order by w.id limit 1`,
      [registrationId, likePattern(`oauth_nonce="${nonce}"`), since],
    )
    return row
  }

  /**
   * By how many seconds the timestamps of a tool's signed calls were ahead of our clock when they came, the newest fifty; looked for among its newest entries only.
   * @param except an entry that is left out
   */
  async clockOffsets(registrationId: string, since: Date, except: string): Promise<number[]> {
    const rows = await this.manager.query<{ off: number }[]>(
      `select (sent::bigint - floor(extract(epoch from at)))::float8 as off from (
         select at, substring(request->'headers'->>'authorization' from 'oauth_timestamp="([0-9]{1,11})"') as sent
         from (select id, at, kind, direction, request from wire_entry where registration_id = $1 order by id desc limit ${LOOKED_THROUGH / 100}) newest
         where at > $2 and kind = 'outcome' and direction = 'received' and id <> $3::bigint order by id desc limit 50
       ) w where sent is not null`,
      [registrationId, since, except],
    )
    return rows.map((one) => one.off)
  }

  /** The message that carried this nonce, if it is still kept: one that we sent before one that came. */
  async withNonce(nonce: string, courseIds: readonly string[] | null): Promise<KeptMessage | undefined> {
    const [row] = await this.manager.query<KeptMessage[]>(
      `select id::text as id, registration_id as "registrationId", at, request, direction from (select id, registration_id, at, course_id, request, direction from wire_entry
         where (direction = 'sent' or kind = 'outcome') and id > (select max(id) from wire_entry) - ${LOOKED_THROUGH} order by id desc limit 5000) w
       where ($2::text[] is null or course_id = any($2)) and request::text like $1 order by direction = 'sent' desc, w.id desc limit 1`,
      [likePattern(nonce), courseIds],
    )
    return row
  }
}
