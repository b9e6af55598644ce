import type { Pool } from 'pg'
import { gather } from './gather.js'
import type { Link, LinkWithResult } from './links.js'
import { unfolded } from './unfolded.js'

/** An assignment as far as a score that comes in has to know it: whose it is, by what it is signed, and whether it goes to a learner. */
export interface ScoredLink {
  resource: Pick<Link['resource'], 'kind' | 'id' | 'points'>
  course: Pick<Link['course'], 'id'>
  registration: Pick<
    Link['registration'],
    'id' | 'name' | 'state' | 'version' | 'consumerKey' | 'secretSealed' | 'signatureMethod' | 'scoresWhileSuspended'
  >
  person: Pick<Link['person'], 'id'>
  enrolment: Link['enrolment']
  /** The present result, where it was asked for. */
  result?: LinkWithResult['result']
}

// As few things to look up as there are to know: this stands before every score.
const FIND = `
select case when c.id is not null then a.id end as id, a.points, a.course_id, r.id as registration_id, r.name, r.state, r.version, r.consumer_key, r.secret_sealed, r.signature_method,
  r.scores_while_suspended, p.id as person_id, e.role, e.state as e_state
from ${unfolded({ link_id: 'text', person_id: 'text' })}
left join person p on p.id = asked.person_id
left join assignment a on a.id = asked.link_id and a.state in ('draft', 'published')
left join course c on c.id = a.course_id and c.state <> 'deleted'
left join registration r on r.id = a.registration_id
left join enrolment e on e.course_id = a.course_id and e.person_id = p.id
order by asked.n`

/** The first part is null throughout when there is no such assignment, `person_id` when no such person. */
interface Row {
  id: string | null
  points: string
  course_id: string
  registration_id: string
  name: string
  state: Link['registration']['state']
  version: Link['registration']['version']
  consumer_key: string | null
  secret_sealed: Buffer | null
  signature_method: Link['registration']['signatureMethod']
  scores_while_suspended: boolean
  person_id: string | null
  role: NonNullable<Link['enrolment']>['role'] | null
  e_state: NonNullable<Link['enrolment']>['state']
}

type Asked = { linkId: string; personId: string }

/** Finds assignments by assignment and person, gathered. @param findLink finds whatever else a tool may name: what is said of it depends on what it is */
export function scoredLinkFinder(
  pool: Pool,
  findLink: (asked: Asked) => Promise<ScoredLink | undefined>,
): (asked: Asked) => Promise<ScoredLink | undefined> {
  const ask = gather(
    async (asked: Asked[]) => {
      const values = [asked.map((one) => one.linkId), asked.map((one) => one.personId)]
      return (await pool.query<Row>({ name: 'find-scored-links', text: FIND, values })).rows
    },
    { most: 64, atOnce: 1 },
  )
  return async (asked) => {
    const row = await ask(asked)
    if (row.id === null) return findLink(asked)
    return row.person_id === null ? undefined : toLink(row.id, row.person_id, row)
  }
}

function toLink(id: string, personId: string, row: Row): ScoredLink {
  return {
    resource: { kind: 'assignment', id, points: row.points },
    course: { id: row.course_id },
    registration: {
      id: row.registration_id,
      name: row.name,
      state: row.state,
      version: row.version,
      consumerKey: row.consumer_key,
      secretSealed: row.secret_sealed,
      signatureMethod: row.signature_method,
      scoresWhileSuspended: row.scores_while_suspended,
    },
    person: { id: personId },
    enrolment: row.role === null ? undefined : { role: row.role, state: row.e_state },
  }
}
