import type { EntityManager } from 'typeorm'

export interface OwnAddress {
  url: string
  lastAt: Date
}

/** The public addresses of this service, now and before. */
export class OwnAddressRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Notes the address of a start. */
  async note(url: string, now: Date): Promise<void> {
    await this.manager.query(
      `insert into own_address (url, first_at, last_at) values ($1, $2, $2) on conflict (url) do update set last_at = greatest(own_address.last_at, excluded.last_at)`,
      [url, now],
    )
  }

  /** Addresses of before, the newest first. */
  earlier(url: string): Promise<OwnAddress[]> {
    return this.manager.query(
      `select url, last_at as "lastAt" from own_address where url <> $1 order by last_at desc, url limit 5`,
      [url],
    )
  }

  /** When an address was used first; undefined where it never was. */
  async since(url: string): Promise<Date | undefined> {
    const [row] = await this.manager.query<{ at: Date }[]>(`select first_at as at from own_address where url = $1`, [
      url,
    ])
    return row?.at
  }
}
