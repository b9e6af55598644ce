import type { CourseRole, Disclosure, SiteRole } from '@bathyscribe/core/identity'
import type { SignatureMethod } from '@bathyscribe/core/oauth1'
import type { Pool } from 'pg'
import { inBatches } from './batches.js'

/** A link with its tool and one person's place in it, as one question tells. */
export interface Row {
  linkId: string
  title: string
  points: string
  resourceLinkId: string
  launchUrl: string
  courseId: string
  code: string
  courseTitle: string
  toolId: string
  toolState: string
  consumerKey: string | null
  secretSealed: Buffer | null
  signatureMethod: SignatureMethod
  clientId: string
  initiationUrl: string
  redirectUris: string[]
  deploymentId: string
  disclosure: Disclosure
  personId: string
  subject: string
  givenName: string
  familyName: string
  fullName: string
  siteRole: SiteRole
  role: CourseRole
}

const LINK = `a.id as "linkId", a.title, a.points::text as points, a.resource_link_id as "resourceLinkId", coalesce(a.launch_url, r.launch_url) as "launchUrl",
  c.id as "courseId", c.code, c.title as "courseTitle", r.id as "toolId", r.state as "toolState", r.consumer_key as "consumerKey", r.secret_sealed as "secretSealed",
  r.signature_method as "signatureMethod", r.client_id as "clientId", r.initiation_url as "initiationUrl", r.redirect_uris as "redirectUris", r.disclosure,
  (select d.id from deployment d where d.registration_id = r.id limit 1) as "deploymentId",
  p.id as "personId", p.subject, p.given_name as "givenName", p.family_name as "familyName", p.full_name as "fullName", p.site_role as "siteRole", e.role`
const AROUND = `left join assignment a on a.id = asked.link left join course c on c.id = a.course_id left join registration r on r.id = a.registration_id
  left join enrolment e on e.course_id = c.id and e.person_id = p.id and e.state = 'active' order by asked.n`

const BY_PERSON = `select ${LINK} from unnest($1::text[], $2::text[]) with ordinality as asked(link, who, n) left join person p on p.id = asked.who ${AROUND}`
const BY_SUBJECT = `select ${LINK} from unnest($1::text[], $2::text[]) with ordinality as asked(link, who, n) left join person p on p.subject = asked.who ${AROUND}`
const BY_SESSION = `select ${LINK} from unnest($1::text[], $2::bytea[]) with ordinality as asked(link, who, n)
  left join session s on s.token_hash = asked.who and s.expires_at > now() left join person p on p.id = s.person_id and p.closed_at is null ${AROUND}`
const BY_CLIENT = `select r.id, r.keyset_url as "keysetUrl", r.scopes from unnest($1::text[]) with ordinality as asked(client, n)
  left join registration r on r.client_id = asked.client and r.state = 'enabled' order by asked.n`

export interface Tool {
  id: string
  keysetUrl: string
  scopes: string[]
}

/** What asks the records, each time for all that one message has to know. */
export interface Reader {
  byPerson: (link: string, person: string) => Promise<Row>
  bySubject: (link: string, subject: string) => Promise<Row>
  bySession: (link: string, hash: Buffer) => Promise<Row>
  byClient: (client: string) => Promise<Tool>
}

export function reader(pool: Pool): Reader {
  const asking = <K>(name: string, text: string) => {
    const ask = inBatches(async (asked: [string, K][]) => {
      const values = [asked.map(([link]) => link), asked.map(([, who]) => who)]
      return (await pool.query<Row>({ name, text, values })).rows
    })
    return async (link: string, who: K) => {
      const row = await ask([link, who])
      if (!row.linkId || !row.role) throw new Error('no such link, or not in the course')
      return row
    }
  }
  const clients = inBatches(async (asked: string[]) => {
    return (await pool.query<Tool>({ name: 'limit-by-client', text: BY_CLIENT, values: [asked] })).rows
  })
  return {
    byPerson: asking<string>('limit-by-person', BY_PERSON),
    bySubject: asking<string>('limit-by-subject', BY_SUBJECT),
    bySession: asking<Buffer>('limit-by-session', BY_SESSION),
    byClient: clients,
  }
}
