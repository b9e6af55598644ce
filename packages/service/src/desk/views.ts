import {
  ERRORS,
  type Assignment,
  type AuditEntry,
  type Course,
  type ErrorCode,
  type Mark as MarkAnswer,
  type Member,
  type Person,
  type Sounding,
  type SoundingDetail,
  type WireEntry,
  type WireEntryDetail,
} from '@bathyscribe/contract'
import { proofOf, stageVerdicts, type Finding, type Mark } from '@bathyscribe/core/checks'
import type { AssignmentSummary } from '../records/assignment-summary.js'
import type { AuditRow } from '../records/audit.js'
import type { CourseSummary } from '../records/courses.js'
import type { PersonRecord } from '../records/entities/people.js'
import type { MemberRow } from '../records/people.js'
import type { SoundingSummary } from '../records/soundings.js'
import type { findDoubles } from './identity/doubles.js'
import type { WireDetailRow, WireRow } from '../records/wire.js'

// Records as the contract shows them: moments become text, and nothing is shown that is not named here.

/** Who seems to share accounts; without the launches themselves. */
export function doublesView({ lookedThrough, doubles }: Awaited<ReturnType<typeof findDoubles>>) {
  return {
    lookedThrough,
    items: doubles.map(({ person, likenesses }) => ({
      person,
      likenesses: likenesses.map((one) => ({
        ...one,
        firstAt: one.firstAt.toISOString(),
        lastAt: one.lastAt.toISOString(),
        launches: one.launches.length,
      })),
    })),
  }
}

export function personView(person: PersonRecord): Person {
  const { id, username, givenName, familyName, fullName, email, sourcedId, siteRole, isTestLearner } = person
  return {
    id,
    username,
    givenName,
    familyName,
    fullName,
    email,
    sourcedId,
    siteRole,
    isTestLearner,
    hasPassword: person.passwordHash !== null,
    closed: person.closedAt !== null,
    createdAt: person.createdAt.toISOString(),
  }
}

export function memberView({ person, enrolment }: MemberRow): Member {
  return {
    person: { id: person.id, fullName: person.fullName, username: person.username, email: person.email },
    role: enrolment.role,
    state: enrolment.state,
    since: enrolment.since.toISOString(),
    droppedAt: enrolment.droppedAt?.toISOString() ?? null,
  }
}

export function courseView(
  { codeKey: _key, sourcedId, welcome: _welcome, revision: _revision, ...course }: CourseSummary,
  sees: { teachingSide: boolean; sourcedId: boolean },
): Course {
  return {
    ...course,
    unproven: sees.teachingSide ? course.unproven : 0,
    sourcedId: sees.sourcedId ? sourcedId : null,
    stateSince: course.stateSince?.toISOString() ?? null,
    startsAt: course.startsAt?.toISOString() ?? null,
    endsAt: course.endsAt?.toISOString() ?? null,
    createdAt: course.createdAt.toISOString(),
  }
}

export function markView(mark: Mark): MarkAnswer {
  return {
    ...mark,
    evidence: mark.evidence && { ...mark.evidence, at: mark.evidence.at.toISOString() },
    change: mark.change && { ...mark.change, at: mark.change.at.toISOString() },
  }
}

export function assignmentView(assignment: AssignmentSummary): Assignment {
  const { id, slug, title, course, tool, instructions, points, category, state, documentTarget, launchUrl } = assignment
  const { effectiveLaunchUrl, customParameters, resourceLinkId, revision } = assignment
  const { counted, counting, released, attempts, audience, content, contentToolId, unit, rowKey } = assignment
  return {
    id,
    slug,
    title,
    course,
    tool,
    instructions,
    points,
    category,
    state: state as Assignment['state'],
    documentTarget,
    launchUrl,
    effectiveLaunchUrl,
    customParameters,
    resourceLinkId,
    revision,
    counted,
    counting,
    released,
    attempts,
    audience,
    content,
    contentTool: contentToolId,
    unit,
    rowKey,
    opensAt: assignment.opensAt?.toISOString() ?? null,
    dueAt: assignment.dueAt?.toISOString() ?? null,
    closesAt: assignment.closesAt?.toISOString() ?? null,
    publishedAt: assignment.publishedAt?.toISOString() ?? null,
    createdAt: assignment.createdAt.toISOString(),
    updatedAt: assignment.updatedAt.toISOString(),
    proof: proofOf(assignment.facts).map(markView),
  }
}

export function soundingView({ waitMinutes: _, ...sounding }: SoundingSummary): Sounding {
  return {
    ...sounding,
    waiting: sounding.waiting && { ...sounding.waiting, until: new Date(sounding.waiting.until).toISOString() },
    startedAt: sounding.startedAt.toISOString(),
    endedAt: sounding.endedAt?.toISOString() ?? null,
    stages: stageVerdicts(sounding.stages, sounding.depth),
  }
}

export function soundingDetailView(sounding: SoundingSummary, findings: Finding[]): SoundingDetail {
  return { ...soundingView(sounding), findings }
}

export function wireView({ courseId: _course, ...entry }: WireRow): WireEntry {
  return { ...entry, at: entry.at.toISOString() }
}

/** @param explained what explains it, already in the form of the API */
export function wireDetailView(
  { detail, request, response, ...entry }: WireDetailRow,
  explained: WireEntryDetail['explained'],
): WireEntryDetail {
  const kind = entry.code === null ? undefined : ERRORS[entry.code as ErrorCode]
  return {
    ...wireView(entry),
    request,
    response,
    diagnosis: kind ? { sentence: kind.sentence, hint: kind.hint, detail } : null,
    explained,
  }
}

export function auditView(entry: AuditRow): AuditEntry {
  return { ...entry, at: entry.at.toISOString() }
}
