import type { GuessFacts } from '@bathyscribe/core/identity'
import type { EntityManager } from 'typeorm'

type MissesRow = {
  [K in 'here' | 'elsewhere' | 'spread']: { count: number; first: string | null; last: string | null }
} & {
  isKnownHere: boolean
}

const MISSES = `json_build_object('count', count(*)::int, 'first', min(at), 'last', max(at))`

/** Wrong passwords, and from where accounts sign in. An account stands here by the name that was typed, whether it exists or not. */
export class PasswordMissRecords {
  constructor(private readonly manager: EntityManager) {}

  /** Until the end of the transaction nobody else counts this account or this address, in whichever process. */
  async lock(account: string, address: string): Promise<void> {
    await this.manager.query(
      `select pg_advisory_xact_lock(k) from (select hashtextextended(x, 0) as k from unnest($1::text[]) as x order by 1) as keys`,
      [[`password account ${account}`, `password address ${address}`]],
    )
  }

  async facts(account: string, address: string, since: Date): Promise<GuessFacts> {
    const [row] = await this.manager.query<[MissesRow]>(
      `select (select ${MISSES} from password_miss where account = $1 and address = $2 and at > $3) as here,
         (select ${MISSES} from password_miss where account = $1 and not known and at > $3) as elsewhere,
         (select ${MISSES} from password_miss where address = $2 and not known and at > $3) as spread,
         exists (select 1 from sign_in_place where account = $1 and address = $2) as "isKnownHere"`,
      [account, address, since],
    )
    const misses = ({ count, first, last }: MissesRow['here']) => ({
      count,
      firstAt: first === null ? null : new Date(first),
      lastAt: last === null ? null : new Date(last),
    })
    const { here, elsewhere, spread, isKnownHere } = row
    return { here: misses(here), elsewhere: misses(elsewhere), spread: misses(spread), isKnownHere }
  }

  /** Counts a miss before the password is looked at: who asks many times at once is counted as often. @returns what takes it back */
  async add(miss: { account: string; address: string; known: boolean; at: Date }): Promise<string> {
    const [row] = await this.manager.query<[{ id: string }]>(
      `insert into password_miss (account, address, known, at) values ($1, $2, $3, $4) returning id::text`,
      [miss.account, miss.address, miss.known, miss.at],
    )
    return row.id
  }

  /** The password was right: no miss, and the account is known at this address. */
  async takeBack(id: string, at: Date): Promise<void> {
    await this.manager.query(
      `with right_one as (delete from password_miss where id = $1 returning account, address)
       insert into sign_in_place (account, address, last_at) select account, address, $2 from right_one
       on conflict (account, address) do update set last_at = excluded.last_at`,
      [id, at],
    )
  }
}
