import { ERRORS, Refusal, type Work } from '@bathyscribe/contract'
import { isReviewable } from '@bathyscribe/core/lti13'
import { isShown, type AssignmentSummary } from '../../records/assignment-summary.js'
import type { CellRow } from '../../records/scores.js'
import type { Actor, Context } from '../context.js'
import { toCell } from './cell.js'
import { learnerObstacle } from '../launches/obstacles.js'

/** The published assignments of a course that are for a learner, with the own results. */
export async function listWork(context: Context, actor: Actor, courseId: string, teaching: boolean): Promise<Work[]> {
  const { records } = context
  const mine = await records.assignments.mine(courseId, actor.id)
  const assignments = (await records.assignments.summariesOfCourse(courseId)).filter(
    (one) => one.state === 'published' && (teaching || (mine.get(one.id)?.isFor && isShown(one))),
  )
  const cells = await records.scores.cells(
    assignments.map((one) => one.id),
    [actor.id],
  )
  const { shownDecimals } = await records.courses.byRef(courseId)
  return assignments.map((assignment) =>
    toWork(
      context,
      assignment,
      cells.find((cell) => cell.assignmentId === assignment.id),
      mine.get(assignment.id)?.handedIn ?? 0,
      teaching,
      shownDecimals,
    ),
  )
}

/** One assignment as a learner meets it; a draft, or one that is for others, only from the teaching side. @throws Refusal */
export async function showWork(context: Context, actor: Actor, assignmentId: string, teaching: boolean): Promise<Work> {
  const { records } = context
  const assignment = await records.assignments.summary(assignmentId)
  const mine = (await records.assignments.mine(assignment.courseId, actor.id, assignmentId)).get(assignmentId)
  if (!teaching && (!isShown(assignment) || !mine?.isFor)) throw new Refusal('assignment.not_found')
  const [cell] = await records.scores.cells([assignmentId], [actor.id])
  const { shownDecimals } = await records.courses.byRef(assignment.courseId)
  return toWork(context, assignment, cell, mine?.handedIn ?? 0, teaching, shownDecimals)
}

function toWork(
  { clock }: Context,
  assignment: AssignmentSummary,
  cell: CellRow | undefined,
  handedIn: number,
  teaching: boolean,
  decimals: number,
): Work {
  const { id, slug, title, course, tool, instructions, points, counted, category, documentTarget, attempts } =
    assignment
  const result = resultOf(assignment, cell, decimals)
  const obstacle = teaching
    ? undefined
    : course.closed
      ? 'course.closed'
      : learnerObstacle({ ...assignment, handedIn }, clock.now())
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
    result,
    reportable: !teaching && result?.points == null && result?.state !== 'exempt',
    reviewable:
      assignment.reviewable &&
      assignment.released &&
      cell !== undefined &&
      (cell.hasResult || cell.heardAt !== null) &&
      isReviewable({ statuses: assignment.reviewStatuses }, cell.activity),
  }
}

/** What a learner sees of the own result: as long as the column is held back only how far the work is. */
function resultOf(assignment: AssignmentSummary, row: CellRow | undefined, decimals: number): Work['result'] {
  if (!row) return null
  const cell = toCell(row, { decimals, dueAt: assignment.dueAt })
  const { state, points, shown, sent, sentOutOf, overridden, comment, at } = cell
  if (assignment.released) return { state, points, shown, sent, sentOutOf, overridden, comment, at }
  const seen = state === 'graded' || state === 'commented' || state === 'cleared' ? 'waiting' : state
  const held = { points: null, shown: null, sent: null, sentOutOf: null, comment: null, at: null }
  return { ...held, state: seen, overridden: false }
}
