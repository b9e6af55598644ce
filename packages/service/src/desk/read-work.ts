import { Refusal, type Work } from '@bathyscribe/contract'
import { shown } from '@bathyscribe/core/scores'
import type { AssignmentSummary } from '../records/assignments.js'
import type { CellRow } from '../records/scores.js'
import type { Actor, Context } from './context.js'

/** The published assignments of a course as a learner meets them, with the own results. */
export async function listWork(context: Context, actor: Actor, courseId: string): Promise<Work[]> {
  const assignments = (await context.records.assignments.summariesOfCourse(courseId)).filter(
    (one) => one.state === 'published',
  )
  const cells = await context.records.scores.cells(
    assignments.map((one) => one.id),
    actor.id,
  )
  return assignments.map((assignment) =>
    toWork(
      assignment,
      cells.find((cell) => cell.assignmentId === assignment.id),
    ),
  )
}

/** One assignment as a learner meets it; a draft only from the teaching side. @throws Refusal */
export async function showWork(context: Context, actor: Actor, assignmentId: string, teaching: boolean): Promise<Work> {
  const assignment = await context.records.assignments.summary(assignmentId)
  if (assignment.state === 'draft' && !teaching) throw new Refusal('assignment.not_found')
  const [cell] = await context.records.scores.cells([assignmentId], actor.id)
  return toWork(assignment, cell)
}

function toWork(assignment: AssignmentSummary, cell: CellRow | undefined): Work {
  const { id, slug, title, course, tool, instructions, points, category, documentTarget } = assignment
  return {
    id,
    slug,
    title,
    course,
    toolName: tool.name,
    instructions,
    points,
    category: category?.name ?? null,
    documentTarget,
    openable: tool.state === 'enabled' && assignment.effectiveLaunchUrl !== null,
    openedAt: cell?.openedAt?.toISOString() ?? null,
    result:
      cell?.points != null && cell.resultAt
        ? { points: cell.points, shown: shown(cell.points), fraction: cell.sent, at: cell.resultAt.toISOString() }
        : null,
  }
}
