import type { TokenScope } from '@bathyscribe/contract'
import type { SiteRole } from '@bathyscribe/core/identity'
import type { Pool } from 'pg'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'

/** Who makes a request, and by what. */
export interface Actor {
  id: string
  username: string
  fullName: string
  siteRole: SiteRole
  via: 'session' | 'token'
  /** Identifier of the session or token. */
  viaId: string
  /** What a token may be used for; a session may do all that its person may. */
  scopes: readonly TokenScope[]
  /** When the password was given last; null for a token. */
  confirmedAt: Date | null
}

const BY_SESSION = `
select s.id as via_id, p.id, p.username, p.full_name, p.site_role, s.last_seen_at as used_at, s.confirmed_at
from ${unfolded({ hash: 'bytea' })}
left join session s on s.token_hash = asked.hash and s.expires_at > $2
left join person p on p.id = s.person_id and p.closed_at is null
order by asked.n`

const BY_TOKEN = `
select t.id as via_id, p.id, p.username, p.full_name, p.site_role, t.scopes, t.last_used_at as used_at
from ${unfolded({ hash: 'bytea' })}
left join api_token t on t.token_hash = asked.hash and t.expires_at > $2 and t.revoked_at is null
left join person p on p.id = t.person_id and p.closed_at is null
order by asked.n`

export interface ActorRow {
  via_id: string
  id: string | null
  username: string
  full_name: string
  site_role: SiteRole
  scopes?: TokenScope[]
  used_at: Date | null
  confirmed_at?: Date
}

/** The last use is written at most this often, so that reading does not become writing. */
const NOTE_USE_EVERY_MS = 5 * 60_000

/** @param isUse false for a look that keeps no session awake, as an open window takes it by itself */
type Find = (hash: Buffer, isUse?: boolean) => Promise<Actor | undefined>

/**
 * Finds who holds a session or token by its hash; undefined when it is unknown, expired, revoked or its person closed.
 * @param idleMs how long one may lie unused; for good unless given
 */
export function signInFinder(pool: Pool, via: 'session' | 'token', now: () => Date, idleMs = Infinity): Find {
  const find = gather(
    async (hashes: Buffer[]) => {
      const { rows } = await pool.query<ActorRow>({
        name: `find-${via}`,
        text: via === 'session' ? BY_SESSION : BY_TOKEN,
        values: [hashes, now()],
      })
      return rows
    },
    { most: 64, atOnce: 1 },
  )
  const judge = actorJudge(pool, via, now, idleMs)
  return async (hash, isUse = true) => judge(await find(hash), isUse)
}

/** Who a row is of, and that its session or token is still in use; what was used is noted now and then. */
export function actorJudge(pool: Pool, via: 'session' | 'token', now: () => Date, idleMs: number) {
  return async (row: ActorRow, isUse: boolean): Promise<Actor | undefined> => {
    if (row.id === null) return undefined
    const unusedMs = now().getTime() - (row.used_at?.getTime() ?? 0)
    if (unusedMs >= idleMs) return undefined
    if (isUse && unusedMs > NOTE_USE_EVERY_MS)
      await pool.query(
        via === 'session'
          ? 'update session set last_seen_at = $2 where id = $1'
          : 'update api_token set last_used_at = $2 where id = $1',
        [row.via_id, now()],
      )
    return {
      id: row.id,
      username: row.username,
      fullName: row.full_name,
      siteRole: row.site_role,
      via,
      viaId: row.via_id,
      scopes: row.scopes ?? ['read', 'teach', 'administer'],
      confirmedAt: row.confirmed_at ?? null,
    }
  }
}
