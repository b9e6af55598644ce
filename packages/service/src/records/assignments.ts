import { ERRORS, Refusal, type ErrorCode, type ToolState } from '@bathyscribe/contract'
import type { Evidence, ProofFacts } from '@bathyscribe/core/checks'
import { sameNumber } from '@bathyscribe/core/scores'
import type { EntityManager } from 'typeorm'
import { AssignmentRecord } from './entities/courses.js'
import { codeKey } from './courses.js'

/** An assignment with its course, tool and everything its proof is judged by. */
export interface AssignmentSummary extends AssignmentRecord {
  course: { id: string; code: string; title: string }
  tool: { id: string; slug: string; name: string; state: ToolState }
  category: { id: string; name: string } | null
  effectiveLaunchUrl: string | null
  scores: number
  facts: ProofFacts
}

interface EvidenceJson {
  kind?: Evidence['kind']
  id: string
  at: string
  person: string | null
  statement?: string
}
interface Row extends Omit<AssignmentSummary, 'facts'> {
  hasSecret: boolean
  toolAt: Date
  visit: EvidenceJson | null
  proof: EvidenceJson | null
  failure: EvidenceJson | null
  complaint: EvidenceJson | null
  score:
    | (EvidenceJson & {
        sent: string | null
        operation: string
        fraction: string | null
        points: string | null
        visited: boolean
      })
    | null
  refusal: (EvidenceJson & { sent: string | null; code: ErrorCode }) | null
  standing: { fraction: string | null; points: string | null } | null
}

const launchEvidence = (
  kind: string,
) => `(select json_build_object('kind', l.evidence_kind, 'id', l.evidence_id, 'at', l.at, 'person', l.person_name,
    'statement', l.statement) from launch_evidence l where l.assignment_id = a.id and l.kind = '${kind}')`

// One query for any number of assignments: each lateral part reads one row by an index.
const SUMMARY = `
select a.id, a.course_id as "courseId", a.registration_id as "registrationId", a.slug, a.title, a.instructions, a.points,
  a.category_id as "categoryId", a.state, a.document_target as "documentTarget", a.launch_url as "launchUrl",
  a.custom_parameters as "customParameters", a.resource_link_id as "resourceLinkId", a.revision, a.position,
  a.published_at as "publishedAt", a.created_at as "createdAt", a.updated_at as "updatedAt", a.settings_changed_at as "settingsChangedAt",
  coalesce(a.launch_url, r.launch_url) as "effectiveLaunchUrl", (r.version = '1.3' or r.secret_sealed is not null) as "hasSecret", r.updated_at as "toolAt",
  json_build_object('id', c.id, 'code', c.code, 'title', c.title) as course,
  json_build_object('id', r.id, 'slug', r.slug, 'name', r.name, 'state', r.state) as tool,
  case when k.id is null then null else json_build_object('id', k.id, 'name', k.name) end as category,
  (select count(*)::int from score s where s.assignment_id = a.id and s.outcome = 'accepted') as scores,
  (select json_build_object('id', v.last_wire_id::text, 'at', v.last_at, 'person', p.full_name) from visit v
    left join person p on p.id = v.person_id where v.assignment_id = a.id order by v.last_at desc limit 1) as visit,
  ${launchEvidence('proof')} as proof, ${launchEvidence('failure')} as failure, ${launchEvidence('complaint')} as complaint,
  last.score, last.standing,
  (select json_build_object('id', s.wire_entry_id::text, 'at', s.at, 'person', p.full_name, 'sent', s.sent, 'code', s.code) from score s
    left join person p on p.id = s.person_id where s.assignment_id = a.id and s.outcome = 'refused' order by s.id desc limit 1) as refusal
from assignment a join course c on c.id = a.course_id join registration r on r.id = a.registration_id
left join category k on k.id = a.category_id
left join lateral (
  select json_build_object('id', s.wire_entry_id::text, 'at', s.at, 'person', p.full_name, 'sent', s.sent, 'operation', s.operation,
      'fraction', s.fraction::text, 'points', s.points::text,
      'visited', exists (select 1 from visit v where v.assignment_id = a.id and v.person_id = s.person_id)) as score,
    json_build_object('fraction', res.fraction::text, 'points', res.points::text) as standing
  from result res join score s on s.id = res.score_id left join person p on p.id = res.person_id
  where res.assignment_id = a.id order by res.score_id desc limit 1
) last on true`

export class AssignmentRecords {
  constructor(private readonly manager: EntityManager) {}

  /** By identifier, or by `COURSE-CODE/short-name`. @throws Refusal when there is none. */
  async byRef(ref: string): Promise<AssignmentRecord> {
    const slash = ref.indexOf('/')
    const found =
      slash < 0
        ? await this.manager.findOneBy(AssignmentRecord, { id: ref })
        : await this.manager
            .createQueryBuilder(AssignmentRecord, 'a')
            .where('a.slug = :slug and a.course_id = (select id from course where code_key = :key or id = :id)', {
              slug: ref.slice(slash + 1).toLowerCase(),
              key: codeKey(ref.slice(0, slash)),
              id: ref.slice(0, slash),
            })
            .getOne()
    if (!found) throw new Refusal('assignment.not_found', ref.slice(0, 200))
    return found
  }

  async slugsLike(courseId: string, start: string): Promise<string[]> {
    const rows = await this.manager.query<{ slug: string }[]>(
      `select slug from assignment where course_id = $1 and (slug = $2 or slug like $2 || '-%')`,
      [courseId, start],
    )
    return rows.map((row) => row.slug)
  }

  async insert(assignment: AssignmentRecord): Promise<void> {
    await this.manager.insert(AssignmentRecord, assignment)
  }

  /** Locks an assignment against scores on their way, so that results can be recomputed under it. */
  async lock(id: string): Promise<AssignmentRecord> {
    return this.manager.findOneOrFail(AssignmentRecord, { where: { id }, lock: { mode: 'pessimistic_write' } })
  }

  async update(id: string, revision: number, change: Partial<AssignmentRecord>): Promise<void> {
    const done = await this.manager.update(AssignmentRecord, { id, revision }, { ...change, revision: revision + 1 })
    if (done.affected !== 1) throw new Refusal('record.changed_meanwhile')
  }

  async summariesOfCourse(courseId: string): Promise<AssignmentSummary[]> {
    return this.summaries(`where a.course_id = $1 order by a.position, a.created_at, a.id limit 1000`, [courseId])
  }

  async summary(id: string): Promise<AssignmentSummary> {
    const [found] = await this.summaries(`where a.id = $1`, [id])
    if (!found) throw new Refusal('assignment.not_found')
    return found
  }

  /** Published assignments without a result, or with trouble since; newest trouble first. */
  async unproven(courseIds: readonly string[] | null, limit: number): Promise<AssignmentSummary[]> {
    return this.summaries(
      `where a.state = 'published' and ($1::text[] is null or a.course_id = any($1)) and (
        last.score is null
        or exists (select 1 from launch_evidence f where f.assignment_id = a.id and f.kind = 'failure'
          and not exists (select 1 from launch_evidence g where g.assignment_id = a.id and g.kind = 'proof' and g.at > f.at))
        or exists (select 1 from score s where s.assignment_id = a.id and s.outcome = 'refused'
          and s.id > coalesce((select max(z.score_id) from result z where z.assignment_id = a.id), 0)))
       order by a.updated_at desc, a.id limit $2`,
      [courseIds, limit],
    )
  }

  async publishedCount(courseIds: readonly string[] | null): Promise<number> {
    const [row] = await this.manager.query<{ n: number }[]>(
      `select count(*)::int as n from assignment where state = 'published' and ($1::text[] is null or course_id = any($1))`,
      [courseIds],
    )
    return row!.n
  }

  /** Notes the last sign of one kind that a launch works or not. */
  async noteLaunch(
    assignmentId: string,
    kind: 'proof' | 'failure' | 'complaint',
    evidence: Evidence & { statement: string },
  ): Promise<void> {
    await this.manager.query(
      `insert into launch_evidence (assignment_id, kind, at, evidence_kind, evidence_id, person_name, statement)
       values ($1, $2, $3, $4, $5, $6, $7) on conflict (assignment_id, kind) do update set at = excluded.at,
         evidence_kind = excluded.evidence_kind, evidence_id = excluded.evidence_id, person_name = excluded.person_name, statement = excluded.statement
       where launch_evidence.at <= excluded.at`,
      [assignmentId, kind, evidence.at, evidence.kind, evidence.id, evidence.person, evidence.statement],
    )
  }

  private async summaries(rest: string, values: unknown[]): Promise<AssignmentSummary[]> {
    const rows = await this.manager.query<Row[]>(`${SUMMARY} ${rest}`, values)
    return rows.map((row) => ({ ...row, facts: toFacts(row) }))
  }
}

function toFacts(row: Row): ProofFacts {
  const evidence = (json: EvidenceJson | null, kind: Evidence['kind'] = 'wire') =>
    json && { kind: json.kind ?? kind, id: json.id, at: new Date(json.at), person: json.person }
  const told = (json: EvidenceJson | null) => json && { ...evidence(json)!, statement: json.statement ?? '' }
  const ofAssignment = { kind: 'assignment' as const, id: row.id, person: null }
  const { score, standing } = row
  // A score from somebody who had entered is the plainest proof that the tool took the launch.
  const scoreProof = score?.visited ? evidence(score) : null
  const toldProof = evidence(row.proof)
  const launchProof =
    scoreProof && toldProof ? (scoreProof.at > toldProof.at ? scoreProof : toldProof) : (scoreProof ?? toldProof)
  return {
    registration: {
      state: row.tool.state,
      hasSecret: row.hasSecret,
      evidence: { kind: 'registration', id: row.tool.slug, at: row.toolAt, person: null },
    },
    link: {
      launchUrl: row.effectiveLaunchUrl,
      evidence: { ...ofAssignment, at: row.settingsChangedAt },
      settingsChangedAt: row.settingsChangedAt > row.toolAt ? row.settingsChangedAt : row.toolAt,
    },
    published: row.publishedAt && row.state === 'published' ? { ...ofAssignment, at: row.publishedAt } : null,
    visit: evidence(row.visit),
    launchProof,
    launchFailure: told(row.failure),
    launchComplaint: told(row.complaint),
    score: score && {
      ...evidence(score)!,
      statement: score.operation === 'delete' ? 'The tool cleared the score.' : `${score.sent} of 1 received.`,
    },
    scoreRefusal: row.refusal && {
      ...evidence(row.refusal)!,
      statement: `“${row.refusal.sent ?? ''}”. ${ERRORS[row.refusal.code].sentence}`,
    },
    recorded: score && standing && { ...evidence(score)!, ...recordedOf(row, score, standing) },
  }
}

function recordedOf(
  row: Row,
  score: NonNullable<Row['score']>,
  standing: NonNullable<Row['standing']>,
): { agrees: boolean; statement: string } {
  if (score.fraction === null)
    return { agrees: standing.points === null, statement: 'The gradebook shows no points, as the tool asked.' }
  const agrees = standing.points !== null && standing.fraction !== null && sameNumber(standing.fraction, score.fraction)
  return {
    agrees,
    statement: agrees
      ? `${score.sent} × ${row.points} = ${standing.points} stands in the gradebook.`
      : `The gradebook holds ${standing.points ?? 'nothing'}, which is not what ${score.sent} of ${row.points} gives.`,
  }
}
