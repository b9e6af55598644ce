import type { Pool } from 'pg'
import type { OtherSecret } from '../secrets.js'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'

/** By what a tool may sign. */
export interface HeldSecrets {
  /** Null where it holds none, or is gone. */
  current: Buffer | null
  /** One on its way out, one on its way in: the newest first. */
  others: OtherSecret[]
}

const FIND = `
select r.secret_sealed as current, (select json_agg(json_build_object('id', o.id, 'sealed', encode(o.sealed, 'base64'), 'role', o.role, 'setAt', o.set_at, 'endsAt', o.ends_at)
    order by o.set_at desc) from other_secret o where o.registration_id = asked.id and (o.role = 'next' or o.ends_at is null or o.ends_at > $2)) as others
from ${unfolded({ id: 'text' })} left join registration r on r.id = asked.id
order by asked.n`

interface Row {
  current: Buffer | null
  others: { id: string; sealed: string; role: OtherSecret['role']; setAt: string; endsAt: string | null }[] | null
}

/** Finds by what a tool may sign now, gathered: a tool whose signatures are wrong asks this with each of its messages, a thousand a second if it likes. */
export function secretsFinder(pool: Pool, now: () => Date): (registrationId: string) => Promise<HeldSecrets> {
  return gather(
    async (ids: string[]) => {
      // However often one asks in the meantime, it is asked for once.
      const each = [...new Set(ids)]
      const { rows } = await pool.query<Row>({ name: 'find-secrets', text: FIND, values: [each, now()] })
      const found = new Map(each.map((id, i) => [id, heldOf(id, rows[i]!)]))
      return ids.map((id) => found.get(id)!)
    },
    { most: 64, atOnce: 1 },
  )
}

function heldOf(registrationId: string, { current, others }: Row): HeldSecrets {
  return {
    current,
    others: (others ?? []).map((one) => ({
      id: one.id,
      registrationId,
      sealed: Buffer.from(one.sealed, 'base64'),
      role: one.role,
      setAt: new Date(one.setAt),
      endsAt: one.endsAt === null ? null : new Date(one.endsAt),
    })),
  }
}
