import type { CourseRole, Disclosure, SiteRole } from '@bathyscribe/core/identity'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { SignatureMethod } from '@bathyscribe/core/oauth1'
import type { Pool } from 'pg'
import type { RegistrationState } from '../entities/courses.js'
import { gather } from './gather.js'

/** One assignment, its course and registration, and one person's place in it: all that a launch or a score needs to know. */
export interface Link {
  assignment: {
    id: string
    title: string
    instructions: string
    points: string
    state: 'draft' | 'published'
    documentTarget: DocumentTarget
    launchUrl: string | null
    customParameters: Record<string, string>
    resourceLinkId: string
  }
  course: { id: string; code: string; title: string; sourcedId: string | null }
  registration: {
    id: string
    name: string
    state: RegistrationState
    consumerKey: string
    secretSealed: Buffer | null
    signatureMethod: SignatureMethod
    disclosure: Disclosure
    customParameters: Record<string, string>
    soundingParameters: Record<string, string>
  }
  person: {
    id: string
    subject: string
    givenName: string
    familyName: string
    fullName: string
    email: string | null
    sourcedId: string | null
    siteRole: SiteRole
  }
  /** Undefined when the person has never been in the course. */
  enrolment: { role: CourseRole; state: 'active' | 'dropped' } | undefined
  /** The present result, for readResult. */
  result: { points: string | null; fraction: string | null } | undefined
}

const FIND = `
select a.id as a_id, a.title as a_title, a.instructions, a.points, a.state as a_state, a.document_target, coalesce(a.launch_url, r.launch_url) as launch_url,
  a.custom_parameters as a_custom, a.resource_link_id, c.id as c_id, c.code, c.title as c_title, c.sourced_id as c_sourced_id,
  r.id as r_id, r.name, r.state as r_state, r.consumer_key, r.secret_sealed, r.signature_method, r.disclosure,
  r.custom_parameters as r_custom, r.sounding_parameters, p.id as p_id, p.subject, p.given_name, p.family_name, p.full_name, p.email,
  p.sourced_id as p_sourced_id, p.site_role, e.role, e.state as e_state, res.points as res_points, res.fraction as res_fraction,
  res.score_id
from unnest($1::text[], $2::text[]) with ordinality as asked(assignment_id, person_id, n)
left join assignment a on a.id = asked.assignment_id
left join course c on c.id = a.course_id
left join registration r on r.id = a.registration_id
left join person p on p.id = asked.person_id
left join enrolment e on e.course_id = c.id and e.person_id = p.id
left join result res on res.assignment_id = a.id and res.person_id = p.id
order by asked.n`

/** A row of the statement above. The first part is null throughout when there is no such assignment, `p_*` when no such person. */
interface Row {
  a_id: string | null
  a_title: string
  instructions: string
  points: string
  a_state: 'draft' | 'published'
  document_target: DocumentTarget
  launch_url: string | null
  a_custom: Record<string, string>
  resource_link_id: string
  c_id: string
  code: string
  c_title: string
  c_sourced_id: string | null
  r_id: string
  name: string
  r_state: RegistrationState
  consumer_key: string
  secret_sealed: Buffer | null
  signature_method: SignatureMethod
  disclosure: Disclosure
  r_custom: Record<string, string>
  sounding_parameters: Record<string, string>
  p_id: string | null
  subject: string
  given_name: string
  family_name: string
  full_name: string
  email: string | null
  p_sourced_id: string | null
  site_role: SiteRole
  role: CourseRole | null
  e_state: 'active' | 'dropped'
  res_points: string | null
  res_fraction: string | null
  score_id: string | null
}

/** Finds links by assignment and person; undefined where either does not exist. */
export function linkFinder(
  pool: Pool,
): (asked: { assignmentId: string; personId: string }) => Promise<Link | undefined> {
  return gather(
    async (asked: { assignmentId: string; personId: string }[]) => {
      const { rows } = await pool.query<Row>({
        name: 'find-links',
        text: FIND,
        values: [asked.map((one) => one.assignmentId), asked.map((one) => one.personId)],
      })
      return rows.map(toLink)
    },
    { most: 64, atOnce: 1 },
  )
}

function toLink(row: Row): Link | undefined {
  if (row.a_id === null || row.p_id === null) return undefined
  return {
    assignment: {
      id: row.a_id,
      title: row.a_title,
      instructions: row.instructions,
      points: row.points,
      state: row.a_state,
      documentTarget: row.document_target,
      launchUrl: row.launch_url,
      customParameters: row.a_custom,
      resourceLinkId: row.resource_link_id,
    },
    course: { id: row.c_id, code: row.code, title: row.c_title, sourcedId: row.c_sourced_id },
    registration: {
      id: row.r_id,
      name: row.name,
      state: row.r_state,
      consumerKey: row.consumer_key,
      secretSealed: row.secret_sealed,
      signatureMethod: row.signature_method,
      disclosure: row.disclosure,
      customParameters: row.r_custom,
      soundingParameters: row.sounding_parameters,
    },
    person: {
      id: row.p_id,
      subject: row.subject,
      givenName: row.given_name,
      familyName: row.family_name,
      fullName: row.full_name,
      email: row.email,
      sourcedId: row.p_sourced_id,
      siteRole: row.site_role,
    },
    enrolment: row.role === null ? undefined : { role: row.role, state: row.e_state },
    result: row.score_id === null ? undefined : { points: row.res_points, fraction: row.res_fraction },
  }
}
