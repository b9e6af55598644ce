import { ERRORS, Refusal, type Work } from '@bathyscribe/contract'
import { shown } from '@bathyscribe/core/scores'
import type { AssignmentSummary } from '../records/assignment-summary.js'
import type { CellRow } from '../records/scores.js'
import type { Actor, Context } from './context.js'
import { learnerObstacle } from './launches/obstacles.js'

/** The published assignments of a course that are for a learner, with the own results. */
export async function listWork(context: Context, actor: Actor, courseId: string, teaching: boolean): Promise<Work[]> {
  const { records } = context
  const mine = await records.assignments.mine(courseId, actor.id)
  const assignments = (await records.assignments.summariesOfCourse(courseId)).filter(
    (one) => one.state === 'published' && (teaching || (mine.get(one.id)?.isFor && (one.unit?.published ?? true))),
  )
  const cells = await records.scores.cells(
    assignments.map((one) => one.id),
    actor.id,
  )
  return assignments.map((assignment) =>
    toWork(
      context,
      assignment,
      cells.find((cell) => cell.assignmentId === assignment.id),
      mine.get(assignment.id)?.handedIn ?? 0,
      teaching,
    ),
  )
}

/** One assignment as a learner meets it; a draft, or one that is for others, only from the teaching side. @throws Refusal */
export async function showWork(context: Context, actor: Actor, assignmentId: string, teaching: boolean): Promise<Work> {
  const { records } = context
  const assignment = await records.assignments.summary(assignmentId)
  const mine = (await records.assignments.mine(assignment.courseId, actor.id, assignmentId)).get(assignmentId)
  if (!teaching && (assignment.state !== 'published' || !mine?.isFor)) throw new Refusal('assignment.not_found')
  const [cell] = await records.scores.cells([assignmentId], actor.id)
  return toWork(context, assignment, cell, mine?.handedIn ?? 0, teaching)
}

function toWork(
  { clock }: Context,
  assignment: AssignmentSummary,
  cell: CellRow | undefined,
  handedIn: number,
  teaching: boolean,
): Work {
  const { id, slug, title, course, tool, instructions, points, counted, category, documentTarget, attempts } =
    assignment
  const obstacle = teaching ? undefined : learnerObstacle({ ...assignment, handedIn }, clock.now())
  return {
    id,
    slug,
    title,
    course,
    toolName: tool.name,
    instructions,
    points,
    counted,
    category: category?.name ?? null,
    opensAt: assignment.opensAt?.toISOString() ?? null,
    dueAt: assignment.dueAt?.toISOString() ?? null,
    closesAt: assignment.closesAt?.toISOString() ?? null,
    attempts,
    handedIn,
    documentTarget,
    openable: tool.state === 'enabled' && assignment.effectiveLaunchUrl !== null && obstacle === undefined,
    obstacle: obstacle ? ERRORS[obstacle].sentence : null,
    openedAt: cell?.openedAt?.toISOString() ?? null,
    result:
      cell?.points != null && cell.resultAt
        ? { points: cell.points, shown: shown(cell.points), fraction: cell.sent, at: cell.resultAt.toISOString() }
        : null,
  }
}
