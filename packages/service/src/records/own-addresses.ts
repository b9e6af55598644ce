import type { EntityManager } from 'typeorm'

/** The public addresses of this service, now and before. */
export class OwnAddressRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Notes the address of a start. @returns whether it is used for the first time */
  async note(url: string, now: Date): Promise<boolean> {
    const [row] = await this.manager.query<{ fresh: boolean }[]>(
      `insert into own_address (url, first_at, last_at) values ($1, $2, $2) on conflict (url) do update set last_at = greatest(own_address.last_at, excluded.last_at)
       returning xmax = 0 as fresh`,
      [url, now],
    )
    return row!.fresh
  }

  /** Addresses of before, the newest first. */
  async earlier(url: string): Promise<string[]> {
    const rows = await this.manager.query<{ url: string }[]>(
      `select url from own_address where url <> $1 order by last_at desc, url limit 5`,
      [url],
    )
    return rows.map((one) => one.url)
  }

  /** Since when an address is used, and which was used before; undefined where it never was, or where there was no other. */
  async changed(url: string): Promise<{ since: Date; before: string } | undefined> {
    const [row] = await this.manager.query<{ since: Date; before: string }[]>(
      `select n.first_at as since, e.url as before from own_address n join own_address e on e.url <> n.url where n.url = $1 order by e.last_at desc, e.url limit 1`,
      [url],
    )
    return row
  }
}
