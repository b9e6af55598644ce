import type { EntityManager } from 'typeorm'

export interface DigestRow {
  personId: string
  every: 'day' | 'week'
  nextAt: Date
  sentAt: Date | null
  fingerprint: Buffer | null
  failure: string | null
}

const FIELDS = `d.person_id as "personId", d.every, d.next_at as "nextAt", d.sent_at as "sentAt", d.fingerprint, d.failure`

/** Who is mailed what needs them. */
export class DigestRecords {
  constructor(private readonly manager: EntityManager) {}

  async of(personId: string): Promise<DigestRow | undefined> {
    const [row] = await this.manager.query<DigestRow[]>(`select ${FIELDS} from digest d where person_id = $1`, [
      personId,
    ])
    return row
  }

  async set(personId: string, every: 'day' | 'week', nextAt: Date): Promise<void> {
    await this.manager.query(
      `insert into digest (person_id, every, next_at) values ($1, $2, $3)
       on conflict (person_id) do update set every = excluded.every, next_at = excluded.next_at`,
      [personId, every, nextAt],
    )
  }

  async drop(personId: string): Promise<void> {
    await this.manager.query(`delete from digest where person_id = $1`, [personId])
  }

  /** Takes those that are due, so that no other process sends them, too; they come due again at `retryAt` unless `note` says otherwise. */
  async takeDue(now: Date, retryAt: Date, most: number): Promise<DigestRow[]> {
    const [rows] = await this.manager.query<[DigestRow[], number]>(
      `update digest d set next_at = $2 where person_id in (
         select g.person_id from digest g join person p on p.id = g.person_id
         where g.next_at <= $1 and p.closed_at is null order by g.next_at limit $3 for update of g skip locked)
       returning ${FIELDS}`,
      [now, retryAt, most],
    )
    return rows
  }

  /** What came of a try. Without `sentAt` nothing was sent, because nothing was new. */
  async note(
    personId: string,
    done: { nextAt: Date; sentAt?: Date; fingerprint?: Buffer; failure: string | null },
  ): Promise<void> {
    await this.manager.query(
      `update digest set next_at = $2, sent_at = coalesce($3, sent_at), fingerprint = coalesce($4, fingerprint), failure = $5 where person_id = $1`,
      [personId, done.nextAt, done.sentAt ?? null, done.fingerprint ?? null, done.failure],
    )
  }
}
