import { createHash } from 'node:crypto'
import type { Pool } from 'pg'

/** Counts uses of keys. They are written gathered, every second, so that a busy key is not a busy row. */
export interface KeyUses {
  /** @param key as `kidKey` names it, or the sealed form of a secret; of our own keys under the registration '' */
  note(registrationId: string, key: string | Buffer, at: Date): void
  /** Writes what is still counted. */
  close(): Promise<void>
}

/** Names a secret by its sealed form, which it keeps whatever part it comes to play. */
export function secretKey(sealed: Buffer): string {
  return `secret:${createHash('sha256').update(sealed).digest('hex').slice(0, 24)}`
}
export function kidKey(kid: string): string {
  return `kid:${kid}`
}

const WRITE_EVERY_MS = 1000

const WRITE = `
insert into key_use (registration_id, key, uses, last_at)
select * from unnest($1::text[], $2::text[], $3::bigint[], $4::timestamptz[]) as x(r, k, u, a) order by 1, 2
on conflict (registration_id, key) do update set uses = key_use.uses + excluded.uses, last_at = greatest(key_use.last_at, excluded.last_at)`

export function createKeyUses(pool: Pool, onFault: (error: unknown) => void): KeyUses {
  let counted = new Map<string, { registrationId: string; key: string | Buffer; uses: number; at: Date }>()
  let timer: NodeJS.Timeout | undefined
  let writing: Promise<unknown> = Promise.resolve()

  function flush(): void {
    timer = undefined
    const all = [...counted.values()]
    counted = new Map()
    if (all.length === 0) return
    writing = pool
      .query(WRITE, [
        all.map((one) => one.registrationId),
        // Named when they are written: of a secret that costs a hash, and most of them are used often.
        all.map(({ key }) => (typeof key === 'string' ? key : secretKey(key))),
        all.map((one) => one.uses),
        all.map((one) => one.at),
      ])
      .catch(onFault)
  }

  return {
    note(registrationId, key, at) {
      const name = `${registrationId} ${typeof key === 'string' ? key : key.toString('latin1')}`
      const one = counted.get(name)
      if (one) {
        one.uses++
        one.at = at
      } else counted.set(name, { registrationId, key, uses: 1, at })
      timer ??= setTimeout(flush, WRITE_EVERY_MS)
    },
    async close() {
      if (timer) clearTimeout(timer)
      flush()
      await writing
    },
  }
}
