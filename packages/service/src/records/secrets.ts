import { Refusal } from '@bathyscribe/contract'
import type { PublicKey } from '@bathyscribe/core/lti13'
import type { EntityManager } from 'typeorm'
import { InvitationRecord } from './entities/tools.js'
import { plannedOnce } from './planned-once.js'

export interface OtherSecret {
  id: string
  registrationId: string
  sealed: Buffer
  role: 'next' | 'previous'
  setAt: Date
  endsAt: Date | null
}

export interface PlatformKey {
  kid: string
  sealed: Buffer
  publicKey: PublicKey
  state: 'next' | 'current' | 'previous'
  madeAt: Date
  currentSince: Date | null
  endsAt: Date | null
}

export interface KeysetReading {
  url: string
  keys: PublicKey[] | null
  readAt: Date
  failure: string | null
  reads: number
}

export interface KeyUse {
  key: string
  uses: number
  lastAt: Date
}

const OTHER = `select id, registration_id as "registrationId", sealed, role, set_at as "setAt", ends_at as "endsAt" from other_secret`
const PLATFORM = `select kid, sealed, public_key as "publicKey", state, made_at as "madeAt", current_since as "currentSince", ends_at as "endsAt" from platform_key`

/** Keys and secrets over time, ours and the tools', and the tokens by which tools register. */
export class SecretRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Secrets beside the current one that are still taken. */
  others(registrationId: string, now: Date): Promise<OtherSecret[]> {
    return this.manager.query(
      plannedOnce(
        `${OTHER} where registration_id = $1 and (role = 'next' or ends_at is null or ends_at > $2) order by set_at desc`,
      ),
      [registrationId, now],
    )
  }

  async insertOther(secret: OtherSecret): Promise<void> {
    await this.manager.query(
      `insert into other_secret (id, registration_id, sealed, role, set_at, ends_at) values ($1, $2, $3, $4, $5, $6)
       on conflict (registration_id) where role = 'next' do update set id = excluded.id, sealed = excluded.sealed, set_at = excluded.set_at,
         ends_at = excluded.ends_at`,
      [secret.id, secret.registrationId, secret.sealed, secret.role, secret.setAt, secret.endsAt],
    )
  }

  /** @returns whether there was one */
  async removeOther(registrationId: string, id: string): Promise<boolean> {
    const [, count] = await this.manager.query<[unknown, number]>(
      `delete from other_secret where registration_id = $1 and id = $2`,
      [registrationId, id],
    )
    return count > 0
  }

  async removeEnded(now: Date): Promise<void> {
    await this.manager.query(`delete from other_secret where role = 'previous' and ends_at < $1`, [now])
  }

  uses(registrationId: string): Promise<KeyUse[]> {
    return this.manager.query(
      `select key, uses::int as uses, last_at as "lastAt" from key_use where registration_id = $1`,
      [registrationId],
    )
  }

  platformKeys(): Promise<PlatformKey[]> {
    return this.manager.query(`${PLATFORM} order by made_at desc`)
  }

  async insertPlatformKey(key: PlatformKey): Promise<void> {
    await this.manager.query(
      `insert into platform_key (kid, sealed, public_key, state, made_at, current_since, ends_at) values ($1, $2, $3, $4, $5, $6, $7)
       on conflict do nothing`,
      [key.kid, key.sealed, JSON.stringify(key.publicKey), key.state, key.madeAt, key.currentSince, key.endsAt],
    )
  }

  /**
   * The next key becomes the current one, the current one a previous one until `endsAt`. To be called inside a transaction.
   * @throws Refusal when `current` is not the current key any more: somebody else has just done it
   */
  async stepPlatformKeys(current: string, now: Date, endsAt: Date): Promise<void> {
    await this.manager.query(`lock table platform_key in exclusive mode`)
    const states = await this.manager.query<{ kid: string; state: PlatformKey['state'] }[]>(
      `select kid, state from platform_key where state in ('current', 'next')`,
    )
    if (states.length !== 2 || !states.some((one) => one.state === 'current' && one.kid === current))
      throw new Refusal('record.changed_meanwhile')
    await this.manager.query(`delete from platform_key where state = 'previous' and ends_at < $1`, [now])
    await this.manager.query(`update platform_key set state = 'previous', ends_at = $1 where state = 'current'`, [
      endsAt,
    ])
    await this.manager.query(`update platform_key set state = 'current', current_since = $1 where state = 'next'`, [
      now,
    ])
  }

  /** Puts keys in place of all that there are. To be called inside a transaction; of two at once the later one's stay. */
  async replacePlatformKeys(fresh: readonly PlatformKey[]): Promise<void> {
    await this.manager.query(`lock table platform_key in exclusive mode`)
    await this.manager.query(`delete from platform_key`)
    for (const key of fresh) await this.insertPlatformKey(key)
  }

  async keyset(registrationId: string): Promise<KeysetReading | undefined> {
    const [row] = await this.manager.query<KeysetReading[]>(
      `select url, keys, read_at as "readAt", failure, reads::int as reads from tool_keyset where registration_id = $1`,
      [registrationId],
    )
    return row
  }

  /** Keeps what a keyset was found to hold; a failure leaves the keys known before. */
  async noteKeyset(registrationId: string, reading: Omit<KeysetReading, 'reads'>): Promise<void> {
    await this.manager.query(
      `insert into tool_keyset (registration_id, url, keys, read_at, failure) values ($1, $2, $3, $4, $5)
       on conflict (registration_id) do update set url = excluded.url, read_at = excluded.read_at, failure = excluded.failure,
         reads = tool_keyset.reads + 1,
         keys = case when excluded.keys is null and tool_keyset.url = excluded.url then tool_keyset.keys else excluded.keys end`,
      [registrationId, reading.url, reading.keys && JSON.stringify(reading.keys), reading.readAt, reading.failure],
    )
  }

  /** Notes that the tool came, and is registered already. */
  async noteSame(tokenHash: Buffer, registrationId: string): Promise<void> {
    await this.manager.query(`update invitation set same_as_id = $2 where token_hash = $1`, [tokenHash, registrationId])
  }

  async insertInvitation(invitation: InvitationRecord): Promise<void> {
    await this.manager.insert(InvitationRecord, invitation)
  }

  /** @throws Refusal when there is none */
  async invitation(id: string): Promise<InvitationRecord> {
    const found = await this.manager.findOneBy(InvitationRecord, { id })
    if (!found) throw new Refusal('invitation.not_found', id)
    return found
  }

  async isOpenInvitation(tokenHash: Buffer, now: Date): Promise<boolean> {
    const found = await this.manager.findOneBy(InvitationRecord, { tokenHash })
    return found !== null && found.usedAt === null && found.expiresAt > now
  }

  /** Uses up a registration token: for exactly one caller. */
  async useInvitation(tokenHash: Buffer, now: Date): Promise<InvitationRecord | undefined> {
    const [rows] = await this.manager.query<[{ id: string }[], number]>(
      `update invitation set used_at = $2 where token_hash = $1 and used_at is null and expires_at > $2 returning id`,
      [tokenHash, now],
    )
    return rows[0] && this.invitation(rows[0].id)
  }

  async tieInvitation(id: string, registrationId: string): Promise<void> {
    await this.manager.update(InvitationRecord, { id }, { registrationId })
  }
}
