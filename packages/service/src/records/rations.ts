import type { EntityManager } from 'typeorm'

/** How often something was asked for lately, by whoever it is counted for. */
export class RationRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Counts one more; what was counted before its time ended is forgotten. @param windowMs for how long a count that begins now is kept */
  async take(key: string, now: Date, windowMs: number): Promise<{ uses: number; endsAt: Date }> {
    const [row] = await this.manager.query<[{ uses: number; endsAt: Date }]>(
      `insert into ration (key, uses, ends_at) values ($1, 1, $3)
       on conflict (key) do update set uses = case when ration.ends_at <= $2 then 1 else ration.uses + 1 end,
         ends_at = case when ration.ends_at <= $2 then excluded.ends_at else ration.ends_at end
       returning uses, ends_at as "endsAt"`,
      [key, now, new Date(now.getTime() + windowMs)],
    )
    return row
  }
}
