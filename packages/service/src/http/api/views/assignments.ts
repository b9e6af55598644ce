import type { Assignment } from '@bathyscribe/contract'
import { proofOf } from '@bathyscribe/core/checks'
import type { AssignmentSummary } from '../../../records/assignment-summary.js'
import { inText } from './moments.js'

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
    proof: inText(proofOf(assignment.facts)),
  }
}
