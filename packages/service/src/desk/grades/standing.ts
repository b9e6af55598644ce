import type { Standing, WaitingWork } from '@bathyscribe/contract'
import type { CourseRecord } from '../../records/entities/courses.js'
import { readPlace, type Page } from '../../records/paging.js'
import { assignmentRef } from '../assignments/assignment-ref.js'
import type { Actor, Context } from '../context.js'
import { datedCourse } from '../courses/dated-course.js'
import { requireTeaching, taughtCourse, visibleTool } from '../identity/access.js'
import { toCell } from './cell.js'

const MOST_LEARNERS = 2000

/** Where each learner of an assignment stands, and since when. */
export async function readStanding(
  { records }: Context,
  { shownDecimals }: Pick<CourseRecord, 'shownDecimals'>,
  assignmentId: string,
): Promise<Standing> {
  const [assignment, learners, cells] = await Promise.all([
    records.assignments.summary(assignmentId),
    records.scoreHistory.learners(assignmentId, MOST_LEARNERS + 1),
    records.scores.cells([assignmentId]),
  ])
  const cellOf = new Map(cells.map((one) => [one.personId, one]))
  const { course, tool, points, reviewable, dueAt } = assignment
  return {
    assignment: assignmentRef(assignment),
    course: datedCourse(course),
    tool,
    outOf: points,
    reviewable,
    items: learners.slice(0, MOST_LEARNERS).map(({ email: _, ...person }) => {
      const row = cellOf.get(person.id)
      const cell = toCell(row, { decimals: shownDecimals, dueAt })
      const { state, at, late } = cell
      return { person, state, since: at, activity: row?.activity ?? null, points: cell.points, late }
    }),
    more: learners.length > MOST_LEARNERS,
  }
}

/** Work of the courses that somebody teaches that waits for a person to grade it. @throws Refusal for who teaches none */
export async function listWaitingWork(
  { records }: Context,
  actor: Actor,
  asked: { course?: string | undefined; tool?: string | undefined; limit: number; cursor?: string | undefined },
): Promise<Page<WaitingWork>> {
  const taught = await requireTeaching(records, actor)
  const course = await taughtCourse(records, taught, asked.course)
  const tool = asked.tool === undefined ? undefined : await visibleTool(records, actor, asked.tool)
  const page = await records.scoreHistory.waiting(course === undefined ? taught : [course], {
    registrationId: tool?.id,
    limit: asked.limit,
    after: readPlace(asked.cursor),
  })
  return {
    ...page,
    items: page.items.map((one) => ({
      ...one,
      since: one.since.toISOString(),
      dueAt: one.dueAt?.toISOString() ?? null,
    })),
  }
}
