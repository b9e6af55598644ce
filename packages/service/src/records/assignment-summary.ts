import { ERRORS, evidenceInWords, type Audience, type ErrorCode, type ToolState } from '@bathyscribe/contract'
import type { Change, Evidence, ProofFacts, ProvenUnder, Said } from '@bathyscribe/core/checks'
import { pointsOf, sameNumber, type Counting } from '@bathyscribe/core/scores'
import type { AssignmentRecord } from './entities/courses.js'
import { MADE_BY } from './proven.js'
import { RELEASED_TO } from './statements/audience.js'

/** What matters to columns, and to single submissions, is read where it is needed. */
type NotInSummary =
  | 'mergedInto'
  | 'tiedTo'
  | 'saidResourceId'
  | 'saidTag'
  | 'reviewUrl'
  | 'reviewCustom'
  | 'reviewLabel'

/** An assignment with its course, tool and everything its proof is judged by. */
export interface AssignmentSummary extends Omit<AssignmentRecord, NotInSummary> {
  course: { id: string; code: string; title: string; timeZone: string; closed: boolean }
  tool: { id: string; slug: string; name: string; state: ToolState }
  category: { id: string; name: string } | null
  unit: { id: string; title: string; published: boolean } | null
  /** Null: everyone. */
  audience: Audience | null
  effectiveLaunchUrl: string | null
  scores: number
  facts: ProofFacts
}

/** Whether learners meet it at all: it is published, and so is the unit that it stands in. */
export function isShown({ state, unit }: Pick<AssignmentSummary, 'state' | 'unit'>): boolean {
  return state === 'published' && (unit?.published ?? true)
}

interface EvidenceJson {
  kind?: Evidence['kind']
  id: string
  at: string
  person: string | null
  said?: Said | null
}
interface ChangeJson {
  what: ProvenUnder
  at: string
  by: string | null
}
export interface SummaryRow extends Omit<AssignmentSummary, 'facts'> {
  now: Date
  hasSecret: boolean
  chosen: boolean
  toolAt: Date
  visit: EvidenceJson | null
  proof: EvidenceJson | null
  scored: EvidenceJson | null
  recorded: EvidenceJson | null
  failure: EvidenceJson | null
  change: ChangeJson | null
  pointsChange: ChangeJson | null
  complaint: EvidenceJson | null
  score:
    | (EvidenceJson & {
        sent: string | null
        sentOutOf: string | null
        operation: string
        fraction: string | null
        points: string | null
        visited: boolean
      })
    | null
  refusal: (EvidenceJson & { sent: string | null; code: ErrorCode }) | null
  standing: { fraction: string | null; points: string | null; counting: Counting; overridden: boolean } | null
}

const launchEvidence = (
  kind: string,
) => `(select json_build_object('kind', l.evidence_kind, 'id', l.evidence_id, 'at', l.at, 'person', l.person_name,
    'said', l.said) from launch_evidence l where l.assignment_id = a.id and l.kind = '${kind}')`

/** A change with who made it. */
const changeOf = (of: string) => `(select json_build_object('what', d.what, 'at', d.at, 'by', ${MADE_BY}) from ${of} d)`
const NEWEST = 'order by d.at desc, d.id desc limit 1'
/** What a launch of \`a\` depends on and was changed last, of the link itself or of its tool \`r\`. */
const LAST_CHANGE = `(select * from ((select d.* from proof_change d where d.assignment_id = a.id and d.what <> 'points' ${NEWEST}) union all
    (select d.* from proof_change d where d.registration_id = a.registration_id and (a.launch_url is null or d.what <> 'tool_launch_address') ${NEWEST})) d ${NEWEST})`
const LAST_POINTS = `(select d.* from proof_change d where d.assignment_id = a.id and d.what = 'points' ${NEWEST})`

const AUDIENCE = `json_build_object(
    'groups', coalesce((select json_agg(json_build_object('id', g.id, 'name', s.name || ': ' || g.name,
      'members', (select count(*)::int from group_member m where m.group_id = g.id)) order by s.name, g.position)
      from assignment_group t join course_group g on g.id = t.group_id join group_set s on s.id = g.set_id where t.assignment_id = a.id), '[]'),
    'people', coalesce((select json_agg(json_build_object('id', p.id, 'fullName', p.full_name, 'username', p.username) order by p.full_name)
      from assignment_person t join person p on p.id = t.person_id where t.assignment_id = a.id), '[]'),
    'reached', (select count(*)::int from enrolment e where e.course_id = a.course_id and e.role = 'learner' and e.state = 'active' and ${RELEASED_TO('e.person_id')}))`

// One query for any number of assignments: each lateral part reads one row by an index.
export const SUMMARY = `
select now() as now, a.id, a.course_id as "courseId", a.registration_id as "registrationId", a.slug, a.title, a.instructions, a.points,
  a.category_id as "categoryId", a.state, a.document_target as "documentTarget", a.launch_url as "launchUrl",
  a.custom_parameters as "customParameters", a.resource_link_id as "resourceLinkId", a.revision, a.position,
  a.counted, a.counting, a.released, a.reviewable, a.review_statuses as "reviewStatuses", a.opens_at as "opensAt", a.due_at as "dueAt", a.closes_at as "closesAt", a.attempts, a.for_everyone as "forEveryone", a.content,
  a.content_tool_id as "contentToolId", a.row_key as "rowKey", a.state_before as "stateBefore", a.deleted_at as "deletedAt",
  case when u.id is null then null else json_build_object('id', u.id, 'title', u.title, 'published', u.published) end as unit,
  case when not a.for_everyone then ${AUDIENCE} end as audience,
  a.published_at as "publishedAt", a.created_at as "createdAt", a.updated_at as "updatedAt", a.settings_changed_at as "settingsChangedAt",
  coalesce(a.launch_url, r.launch_url) as "effectiveLaunchUrl", (r.version = '1.3' or r.secret_sealed is not null) as "hasSecret", r.updated_at as "toolAt",
  r.first_entry <> 'link' or a.content is not null or exists (select 1 from first_entry f where f.registration_id = r.id and f.course_id = a.course_id
    and f.link_id = a.id) as chosen,
  json_build_object('id', c.id, 'code', c.code, 'title', c.title, 'timeZone', c.time_zone, 'closed', c.state = 'closed') as course,
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  case when k.id is null then null else json_build_object('id', k.id, 'name', k.name) end as category,
  (select count(*)::int from score s where s.assignment_id = a.id and s.outcome = 'accepted' and s.set_aside_by is null) as scores,
  (select json_build_object('id', v.last_wire_id::text, 'at', v.last_at, 'person', p.full_name) from visit v
    left join person p on p.id = v.person_id where v.assignment_id = a.id order by v.last_at desc limit 1) as visit,
  ${launchEvidence('proof')} as proof, ${launchEvidence('scored')} as scored, ${launchEvidence('recorded')} as recorded, ${launchEvidence('failure')} as failure, ${launchEvidence('complaint')} as complaint,
  ${changeOf(LAST_CHANGE)} as change, ${changeOf(LAST_POINTS)} as "pointsChange",
  last.score, last.standing,
  (select json_build_object('id', s.wire_entry_id::text, 'at', s.at, 'person', p.full_name, 'sent', s.sent, 'code', s.code) from score s
    left join person p on p.id = s.person_id where s.assignment_id = a.id and s.outcome = 'refused' order by s.id desc limit 1) as refusal
from assignment a join course c on c.id = a.course_id join registration r on r.id = a.registration_id
left join category k on k.id = a.category_id
left join unit_item i on i.assignment_id = a.id left join unit u on u.id = i.unit_id
left join lateral (
  select json_build_object('id', s.wire_entry_id::text, 'at', s.at, 'person', p.full_name, 'sent', s.sent, 'sentOutOf', s.sent_out_of, 'operation', s.operation,
      'fraction', s.fraction::text, 'points', s.points::text,
      'visited', exists (select 1 from visit v where v.assignment_id = a.id and v.person_id = s.person_id)) as score,
    json_build_object('fraction', res.fraction::text, 'points', res.points::text, 'counting', res.counting, 'overridden', res.overridden) as standing
  -- The newest first, then its score: joined the other way round, the scores of all courses are walked.
  from (select * from result where assignment_id = a.id and score_id is not null order by score_id desc limit 1 offset 0) res
  join score s on s.id = res.score_id left join person p on p.id = res.person_id
) last on true`

/** What a summary's proof is judged by. */
export function toFacts(row: SummaryRow): ProofFacts {
  const evidence = (json: EvidenceJson | null, kind: Evidence['kind'] = 'wire') =>
    json && { kind: json.kind ?? kind, id: json.id, at: new Date(json.at), person: json.person }
  const told = (json: EvidenceJson | null) =>
    json && { ...evidence(json)!, statement: json.said ? evidenceInWords(json.said) : '' }
  const ofAssignment = { kind: 'assignment' as const, id: row.id, person: null }
  const { score, standing } = row
  // A score from somebody who had entered is the plainest proof that the tool took the launch.
  const scoreProof = score?.visited ? evidence(score) : null
  const toldProof = evidence(row.proof)
  const launchProof =
    scoreProof && toldProof ? (scoreProof.at > toldProof.at ? scoreProof : toldProof) : (scoreProof ?? toldProof)
  return {
    now: row.now,
    registration: {
      state: row.tool.state,
      hasSecret: row.hasSecret,
      evidence: { kind: 'registration', id: row.tool.slug, at: row.toolAt, person: null },
    },
    link: {
      launchUrl: row.effectiveLaunchUrl,
      chosen: row.chosen,
      evidence: { ...ofAssignment, at: row.settingsChangedAt },
      change: changed(row.change),
      pointsChange: changed(row.pointsChange),
    },
    published:
      row.publishedAt && row.state === 'published'
        ? {
            ...ofAssignment,
            at: row.publishedAt,
            hidden: row.unit !== null && !row.unit.published,
            opensAt: row.opensAt,
            closesAt: row.closesAt,
          }
        : null,
    visit: evidence(row.visit),
    launchProof,
    launchFailure: told(row.failure),
    launchComplaint: told(row.complaint),
    // What a sounding saw is proof as well, although nothing of it stays; what is newer stands.
    score: newer(
      score && {
        ...evidence(score)!,
        statement:
          score.operation === 'delete'
            ? 'The tool cleared the score.'
            : `${score.sent} of ${score.sentOutOf} received.`,
      },
      told(row.scored),
    ),
    scoreRefusal: row.refusal && {
      ...evidence(row.refusal)!,
      statement: `“${row.refusal.sent ?? ''}”. ${ERRORS[row.refusal.code].sentence}`,
    },
    recorded: newer(
      score && standing && { ...evidence(score)!, ...recordedOf(row, score, standing) },
      row.recorded && { ...told(row.recorded)!, agrees: true },
    ),
  }
}

const changed = (json: ChangeJson | null): Change | null => json && { ...json, at: new Date(json.at) }

function newer<T extends { at: Date }>(a: T | null, b: T | null): T | null {
  return a && b ? (a.at >= b.at ? a : b) : (a ?? b)
}

function recordedOf(
  row: SummaryRow,
  score: NonNullable<SummaryRow['score']>,
  standing: NonNullable<SummaryRow['standing']>,
): { agrees: boolean; statement: string } {
  if (score.fraction === null)
    return { agrees: standing.points === null, statement: 'The gradebook shows no points, as the tool asked.' }
  const { fraction, points, counting } = standing
  const agrees =
    points !== null &&
    fraction !== null &&
    (counting === 'mean' || sameNumber(fraction, score.fraction)) &&
    sameNumber(points, pointsOf(fraction, row.points))
  const from = counting === 'mean' ? `The mean, ${fraction} of 1,` : `${score.sent} of ${score.sentOutOf}`
  return {
    agrees,
    statement: agrees
      ? `${from} × ${row.points} = ${points} is in the gradebook${standing.overridden ? ', under the instructor’s own points' : ''}.`
      : `The gradebook holds ${points ?? 'nothing'}, which is not what ${from} of ${row.points} gives.`,
  }
}
