import type { ToolState } from '@bathyscribe/contract'
import type { PublicKey } from '@bathyscribe/core/lti13'
import type { Pool } from 'pg'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'

/** What a token request needs to know of a registration of LTI 1.3. */
export interface ClientRow {
  id: string
  name: string
  clientId: string
  courseId: string | null
  state: ToolState
  scoresWhileSuspended: boolean
  scopes: string[]
  keysetUrl: string | null
  publicKeys: PublicKey[] | null
}

const FIND = `
select r.id, r.name, r.client_id as "clientId", r.course_id as "courseId", r.state, r.scores_while_suspended as "scoresWhileSuspended", r.scopes,
  r.keyset_url as "keysetUrl", r.public_keys as "publicKeys"
from ${unfolded({ client_id: 'text' })} left join registration r on r.client_id = asked.client_id
order by asked.n`

/** Finds registrations of LTI 1.3 by client ID, gathered; undefined where there is none. */
export function clientFinder(pool: Pool): (clientId: string) => Promise<ClientRow | undefined> {
  return gather(
    async (clientIds: string[]) => {
      const { rows } = await pool.query<ClientRow | { id: null }>({
        name: 'find-clients',
        text: FIND,
        values: [clientIds],
      })
      return rows.map((row) => (row.id === null ? undefined : row))
    },
    { most: 64, atOnce: 1 },
  )
}
