import type { Feature, FirstEntryRule, LtiVersion, ToolState } from '@bathyscribe/contract'
import type { SubmissionReview } from '@bathyscribe/core/content'
import type { CourseRole, Disclosure, SiteRole } from '@bathyscribe/core/identity'
import type { Audience, FramePermission } from '@bathyscribe/core/links'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { SignatureMethod } from '@bathyscribe/core/oauth1'
import type { Pool } from 'pg'
import { IS_FOR } from './audience.js'
import { gather } from './gather.js'
import { unfolded } from './unfolded.js'
import { actorJudge, type Actor, type ActorRow } from './sign-ins.js'

/** A resource link (an assignment, or an entry of a course's menu), its course and registration, and one person's place in it. */
export interface Link {
  resource: {
    kind: 'assignment' | 'menu' | 'item' | 'picker'
    id: string
    title: string
    instructions: string
    /** Exact decimal as text; 0 for menu entries, which are never scored. */
    points: string
    /** Whether learners may meet it: a draft assignment or a hidden entry is not for them. */
    state: 'draft' | 'published' | 'deleted'
    audience: Audience
    documentTarget: DocumentTarget
    launchUrl: string | null
    customParameters: Record<string, string>
    resourceLinkId: string
    opensAt: Date | null
    dueAt: Date | null
    closesAt: Date | null
    /** How often it may be handed in, and how often this person has; null for unlimited. */
    attempts: number | null
    handedIn: number
    /** What a picker is asked for; null for everything that is not a picker. */
    picking: { purpose: 'assignment' | 'unit' | 'text'; multiple: boolean } | null
    /** Columns that the tool made for it by itself. */
    tiedColumns: string[]
    /** Where the tool shows single submissions of it; null where it does not (Submission Review 1.0). */
    review: Pick<SubmissionReview, 'url' | 'custom' | 'statuses'> | null
    /** Whether learners see their results. */
    released: boolean
    /** Whether it was given to this person, when not to everyone. */
    isFor: boolean
  }
  course: {
    id: string
    code: string
    title: string
    sourcedId: string | null
    startsAt: Date | null
    endsAt: Date | null
    /** Closed: learners begin nothing in it any more. */
    closed: boolean
  }
  registration: {
    id: string
    name: string
    state: ToolState
    version: LtiVersion
    consumerKey: string | null
    secretSealed: Buffer | null
    signatureMethod: SignatureMethod
    clientId: string | null
    initiationUrl: string | null
    redirectUris: string[]
    deploymentId: string | null
    features: Feature[]
    scopes: string[]
    pickerUrl: string | null
    scoresWhileSuspended: boolean
    firstEntry: FirstEntryRule
    disclosure: Disclosure
    customParameters: Record<string, string>
    soundingParameters: Record<string, string>
    framePermissions: FramePermission[]
  }
  /** Whether an instructor has opened it, as far as that is asked for. */
  entered: boolean
  person: {
    id: string
    username: string
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
}

/** With what stands in the gradebook, which is nothing to whoever only opens the tool. */
export interface LinkWithResult extends Link {
  /** The present result, for readResult. */
  result: { points: string | null; fraction: string | null } | undefined
  /** How far the person's work is, as the tool said last (`activityProgress`); null before the first score of 1.3. */
  activity: string | null
}

/** What is asked for by link and person. */
const BY_PERSON = `${unfolded({ link_id: 'text', person_id: 'text' })}
left join person p on p.id = asked.person_id`
/** The same by whose session it is, with who that is. */
const BY_SESSION = `${unfolded({ link_id: 'text', hash: 'bytea' }, 'given')}
left join session s on s.token_hash = given.hash and s.expires_at > $3
left join person p on p.id = s.person_id and p.closed_at is null
cross join lateral (select given.link_id, p.id as person_id, given.n) asked`

const ASSIGNMENTS = `
  select 'assignment' as kind, a.id, a.title, a.instructions, a.points, case when a.state = 'published' and t.published is false then 'draft' else a.state end as state,
    'everyone' as audience, a.document_target, a.launch_url, a.custom_parameters, a.resource_link_id, a.course_id, a.registration_id, a.opens_at, a.due_at, a.closes_at, a.attempts,
    case when a.attempts is null then 0 else (select count(*)::int from score s where s.assignment_id = a.id and s.person_id = asked.person_id
      and s.outcome = 'accepted' and s.operation = 'replace' and s.set_aside_by is null) end as handed_in,
    ${IS_FOR('asked.person_id')} as is_for, null::jsonb as picking,
    case when a.reviewable then jsonb_build_object('url', a.review_url, 'custom', a.review_custom, 'statuses', a.review_statuses) end as review, a.released
  from assignment a left join unit_item i on i.assignment_id = a.id left join unit t on t.id = i.unit_id
  where a.id = asked.link_id and a.state in ('draft', 'published')`

/** Everything else that opens a tool. */
const OTHERS = `
  select 'menu' as kind, m.id, m.label as title, '' as instructions, 0::numeric as points, case when m.shown then 'published' else 'draft' end as state,
    m.audience, m.document_target, m.launch_url, m.custom_parameters, m.resource_link_id, m.course_id, m.registration_id, null::timestamptz as opens_at,
    null::timestamptz as due_at, null::timestamptz as closes_at, null::int as attempts, 0 as handed_in, true as is_for, null::jsonb as picking, null::jsonb as review, true as released
  from menu_entry m where m.id = asked.link_id
  union all
  select 'item', i.id, i.title, '', 0, case when i.published and (i.unit_id is null or u.published) then 'published' else 'draft' end, 'everyone',
    i.document_target, i.launch_url, i.custom_parameters, i.resource_link_id, i.course_id, i.registration_id, null, null, null, null, 0, true, null, null, true
  from unit_item i left join unit u on u.id = i.unit_id where i.id = asked.link_id and i.kind = 'tool_link'
  union all
  select 'picker', k.id, x.name, '', 0, 'published', 'instructors', 'frame', x.picker_url, '{}', '', k.course_id, k.registration_id, null, null, null,
    null, 0, true, jsonb_build_object('purpose', k.purpose, 'multiple', k.multiple), null, true
  from picking k join registration x on x.id = k.registration_id where k.id = asked.link_id and k.person_id = asked.person_id and k.state = 'open'`

const RESULT = {
  columns: `, res.points as res_points, res.fraction as res_fraction, res.activity as res_activity, res.score_id`,
  join: `left join result res on res.assignment_id = l.id and res.person_id = p.id`,
}
const NO_RESULT = { columns: '', join: '' }

/** @param links what is looked for: one kind after the other, because most links are assignments, and each that is looked for costs */
const find = (asked: string, links: string, result: typeof RESULT, more = '') => `
select ${more}case when c.state <> 'deleted' then l.id end as l_id, l.kind, l.title as l_title, l.instructions, l.points, l.state as l_state, l.audience, l.document_target,
  coalesce(l.launch_url, r.launch_url) as launch_url, l.custom_parameters as l_custom, l.resource_link_id,
  l.opens_at, l.due_at, l.closes_at, l.attempts, l.handed_in, l.is_for, l.picking, l.review, l.released,
  c.id as c_id, c.code, c.title as c_title, c.sourced_id as c_sourced_id, c.starts_at as c_starts_at, c.ends_at as c_ends_at, c.state = 'closed' as c_closed,
  r.id as r_id, r.name, r.state as r_state, r.version, r.consumer_key, r.secret_sealed, r.signature_method, to_json(r.features) as features, r.picker_url,
  r.scores_while_suspended, r.first_entry, r.disclosure, r.custom_parameters as r_custom, r.sounding_parameters, to_json(r.frame_permissions) as frame_permissions,
  case when r.version = '1.3' then json_build_object('clientId', r.client_id, 'initiationUrl', r.initiation_url, 'redirectUris', r.redirect_uris, 'scopes', r.scopes,
    'deploymentId', (select d.id from deployment d where d.registration_id = r.id and (d.course_id = c.id or d.course_id is null) order by d.course_id nulls last limit 1),
    'tiedColumns', (select json_agg(t.id order by t.id) from assignment t where t.tied_to = l.resource_link_id and t.registration_id = r.id and t.state = 'column'))
  end as of_13,
  r.first_entry = 'none' or exists (select 1 from first_entry f where f.registration_id = r.id and f.course_id = c.id
    and f.link_id = case r.first_entry when 'link' then l.id else '' end) as entered,
  p.id as p_id, p.username, p.subject, p.given_name, p.family_name, p.full_name, p.email,
  p.sourced_id as p_sourced_id, p.site_role, e.role, e.state as e_state${result.columns}
from ${asked}
left join lateral (${links}) l on true
left join course c on c.id = l.course_id
left join registration r on r.id = l.registration_id
left join enrolment e on e.course_id = c.id and e.person_id = p.id
${result.join}
order by asked.n`

/** A row of the statement above. The first part is null throughout when there is no such link, `p_*` when no such person. */
interface Row {
  l_id: string | null
  kind: Link['resource']['kind'] | null
  l_title: string
  instructions: string
  points: string
  l_state: 'draft' | 'published'
  audience: Audience
  document_target: DocumentTarget
  launch_url: string | null
  l_custom: Record<string, string>
  resource_link_id: string
  opens_at: Date | null
  due_at: Date | null
  closes_at: Date | null
  attempts: number | null
  handed_in: number
  is_for: boolean
  picking: Link['resource']['picking']
  c_id: string
  code: string
  c_title: string
  c_sourced_id: string | null
  c_starts_at: Date | null
  c_ends_at: Date | null
  c_closed: boolean
  r_id: string
  name: string
  r_state: ToolState
  version: LtiVersion
  consumer_key: string | null
  secret_sealed: Buffer | null
  signature_method: SignatureMethod
  features: Feature[]
  picker_url: string | null
  scores_while_suspended: boolean
  first_entry: FirstEntryRule
  disclosure: Disclosure
  r_custom: Record<string, string>
  sounding_parameters: Record<string, string>
  frame_permissions: FramePermission[]
  of_13: Of13 | null
  entered: boolean
  p_id: string | null
  username: string
  subject: string
  given_name: string
  family_name: string
  full_name: string
  email: string | null
  p_sourced_id: string | null
  site_role: SiteRole
  role: CourseRole | null
  e_state: 'active' | 'dropped'
  review: Link['resource']['review']
  released: boolean
}

interface RowWithResult extends Row {
  res_points: string | null
  res_fraction: string | null
  res_activity: string | null
  score_id: string | null
}

/** What only a registration of LTI 1.3 has: one column, because each costs whether there is anything in it or not. */
interface Of13 {
  clientId: string | null
  initiationUrl: string | null
  redirectUris: string[]
  scopes: string[]
  deploymentId: string | null
  tiedColumns: string[] | null
}
const OF_11: Of13 = {
  clientId: null,
  initiationUrl: null,
  redirectUris: [],
  scopes: [],
  deploymentId: null,
  tiedColumns: null,
}

type Asked = { linkId: string; personId: string }

/** Finds links by link and person, undefined where either does not exist; and by link and session. */
export function linkFinders(pool: Pool, now: () => Date, idleMs: number) {
  const assignment = rowFinder(pool, 'find-assignments', ASSIGNMENTS)
  const other = rowFinder(pool, 'find-other-links', OTHERS)
  return {
    findLink: async (asked: Asked): Promise<LinkWithResult | undefined> => {
      const first = await assignment(asked)
      const row = isNone(first) ? await other(asked) : first
      const link = toLink(row)
      return link && { ...link, ...resultOf(row) }
    },
    findOwnLink: ownLinkFinder(pool, now, idleMs, other),
  }
}

function rowFinder(pool: Pool, name: string, links: string): (asked: Asked) => Promise<RowWithResult> {
  const text = find(BY_PERSON, links, RESULT)
  return gather(
    async (asked: Asked[]) => {
      const values = [asked.map((one) => one.linkId), asked.map((one) => one.personId)]
      return (await pool.query<RowWithResult>({ name, text, values })).rows
    },
    { most: 64, atOnce: 1 },
  )
}

/** Not one of those that were looked for; somebody is there who may want another. */
const isNone = (row: Row) => row.kind === null && row.p_id !== null

/** A link with the person whose session asks for it. */
export interface OwnLink {
  actor: Actor
  /** Undefined where there is no such link. */
  link: Link | undefined
}

const ACTOR = 's.id as via_id, p.id as id, s.last_seen_at as used_at, s.confirmed_at, '
const FIND_OWN = find(BY_SESSION, ASSIGNMENTS, NO_RESULT, ACTOR)

/** Finds links by link and the hash of a session: one question for what a page that opens an assignment has to know. Undefined where nobody is signed in. */
function ownLinkFinder(
  pool: Pool,
  now: () => Date,
  idleMs: number,
  other: (asked: Asked) => Promise<Row>,
): (asked: { linkId: string; session: Buffer }) => Promise<OwnLink | undefined> {
  const ask = gather(
    async (asked: { linkId: string; session: Buffer }[]) => {
      const { rows } = await pool.query<Row & ActorRow>({
        name: 'find-own-assignments',
        text: FIND_OWN,
        values: [asked.map((one) => one.linkId), asked.map((one) => one.session), now()],
      })
      return rows
    },
    { most: 64, atOnce: 1 },
  )
  const judge = actorJudge(pool, 'session', now, idleMs)
  return async (asked) => {
    const row = await ask(asked)
    const actor = await judge(row, true)
    if (!actor) return undefined
    const link = toLink(isNone(row) ? await other({ linkId: asked.linkId, personId: actor.id }) : row)
    return { actor, link }
  }
}

function toLink(row: Row): Link | undefined {
  if (row.l_id === null || row.kind === null || row.p_id === null) return undefined
  const { tiedColumns, ...of13 } = row.of_13 ?? OF_11
  return {
    resource: {
      kind: row.kind,
      id: row.l_id,
      title: row.l_title,
      instructions: row.instructions,
      points: row.points,
      state: row.l_state,
      audience: row.audience,
      documentTarget: row.document_target,
      launchUrl: row.launch_url,
      customParameters: row.l_custom,
      resourceLinkId: row.resource_link_id,
      opensAt: row.opens_at,
      dueAt: row.due_at,
      closesAt: row.closes_at,
      attempts: row.attempts,
      handedIn: row.handed_in,
      isFor: row.is_for,
      tiedColumns: tiedColumns ?? [],
      review: row.review,
      released: row.released,
      picking: row.picking,
    },
    course: {
      id: row.c_id,
      code: row.code,
      title: row.c_title,
      sourcedId: row.c_sourced_id,
      startsAt: row.c_starts_at,
      endsAt: row.c_ends_at,
      closed: row.c_closed,
    },
    registration: {
      id: row.r_id,
      name: row.name,
      state: row.r_state,
      version: row.version,
      consumerKey: row.consumer_key,
      secretSealed: row.secret_sealed,
      signatureMethod: row.signature_method,
      ...of13,
      features: row.features,
      pickerUrl: row.picker_url,
      scoresWhileSuspended: row.scores_while_suspended,
      firstEntry: row.first_entry,
      disclosure: row.disclosure,
      customParameters: row.r_custom,
      soundingParameters: row.sounding_parameters,
      framePermissions: row.frame_permissions,
    },
    entered: row.entered,
    person: {
      id: row.p_id,
      username: row.username,
      subject: row.subject,
      givenName: row.given_name,
      familyName: row.family_name,
      fullName: row.full_name,
      email: row.email,
      sourcedId: row.p_sourced_id,
      siteRole: row.site_role,
    },
    enrolment: row.role === null ? undefined : { role: row.role, state: row.e_state },
  }
}

function resultOf(row: RowWithResult): Pick<LinkWithResult, 'result' | 'activity'> {
  return {
    result: row.score_id === null ? undefined : { points: row.res_points, fraction: row.res_fraction },
    activity: row.res_activity,
  }
}
