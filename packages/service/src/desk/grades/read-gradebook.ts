import { Refusal, type Cell, type Gradebook, type GradebookSettings, type Trail } from '@bathyscribe/contract'
import { isReviewable } from '@bathyscribe/core/lti13'
import { shown, totalOf, type Weights } from '@bathyscribe/core/scores'
import type { z } from 'zod'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { ColumnRow, GradebookPersonRow, StandingRow, TrailRow } from '../../records/scores.js'
import { assignmentRef } from '../assignments/assignment-ref.js'
import { by, type Actor, type Context } from '../context.js'
import { toCell } from './cell.js'
import { changesBeside } from './changes-beside.js'
import { personRef } from '../identity/person-ref.js'

/** The gradebook of a course, or of its first learners: four queries, whatever its size. */
export async function readGradebook(
  context: Context,
  course: CourseRecord,
  { testLearner, first }: { testLearner: boolean; first: number },
): Promise<Gradebook> {
  const { scores, courses } = context.records
  const [columns, people, categories] = await Promise.all([
    scores.columns(course.id),
    scores.people(course.id, testLearner, first),
    courses.categories(course.id),
  ])
  const inAll = people[0]?.inAll ?? 0
  const rows = await scores.cells(
    columns.map((column) => column.id),
    inAll > people.length ? people.map((one) => one.id) : null,
  )
  const showing = new Map(columns.map((one) => [one.id, { decimals: course.shownDecimals, dueAt: one.dueAt }]))
  const byPerson = new Map<string, Record<string, Cell>>()
  for (const row of rows) {
    let own = byPerson.get(row.personId)
    if (!own) byPerson.set(row.personId, (own = {}))
    own[row.assignmentId] = toCell(row, showing.get(row.assignmentId)!)
  }
  const weights = new Map(categories.flatMap(({ id, weight }) => (weight === null ? [] : [[id, weight] as const])))
  return {
    course: { id: course.id, code: course.code, title: course.title },
    settings: {
      shownDecimals: course.shownDecimals,
      missingCounts: course.missingCounts,
      weights: categories.map(({ id, name, weight }) => ({ id, name, weight })),
    },
    columns: columns.map((column) => ({
      ...column,
      dueAt: column.dueAt?.toISOString() ?? null,
      lastScoreAt: column.lastScoreAt?.toISOString() ?? null,
    })),
    learners: inAll,
    rows: people.map((person) => toRow(course, columns, weights, person, byPerson.get(person.id) ?? {})),
  }
}

function toRow(
  course: CourseRecord,
  columns: readonly ColumnRow[],
  weights: Weights,
  person: GradebookPersonRow,
  cells: Record<string, Cell>,
): Gradebook['rows'][number] {
  const counting = columns
    .filter((one) => one.state === 'published')
    .map((one) => ({ ...one, category: one.category?.id ?? null }))
  const total = totalOf(
    counting,
    (id) => {
      const cell = cells[id]
      return cell?.exempt ? undefined : (cell?.points ?? null)
    },
    { weights, missingCounts: course.missingCounts },
  )
  return {
    person: personRef(person),
    state: person.state,
    isTestLearner: person.role === 'test_learner',
    cells,
    total: total.earned,
    outOf: total.outOf,
    shownTotal: total.earned === null ? null : shown(total.earned, course.shownDecimals),
  }
}

/** Changes how points are shown and totalled. @throws Refusal for a category that is not there */
export async function changeGradebook(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof GradebookSettings>,
): Promise<Gradebook['settings']> {
  await context.records.transaction(async (records) => {
    const { weights, ...settings } = wanted
    await records.courses.change(course.id, settings)
    for (const [name, weight] of Object.entries(weights ?? {})) {
      const category = await records.courses.category(course.id, name)
      if (weight !== null && Number(weight) > 100) throw new Refusal('category.weight', `${name}: ${weight}`)
      await records.courses.setWeight(category.id, weight)
    }
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'change gradebook',
      subject: `course ${course.code}`,
      courseId: course.id,
      after: wanted,
    })
  })
  context.changes.publish({ kind: 'score', courseId: course.id })
  const now = await context.records.courses.byRef(course.id)
  const categories = await context.records.courses.categories(course.id)
  return {
    shownDecimals: now.shownDecimals,
    missingCounts: now.missingCounts,
    weights: categories.map(({ id, name, weight }) => ({ id, name, weight })),
  }
}

/** All scores ever received for one person in one column, and how the result came to be. @throws Refusal */
export async function readTrail(
  context: Context,
  assignment: AssignmentRecord,
  ref: string,
  paging: { limit: number; cursor?: string | undefined },
): Promise<Trail> {
  const { records } = context
  const { person } = await records.people.memberByRef(assignment.courseId, ref)
  const course = await records.courses.byRef(assignment.courseId)
  const [trail, [row], standing] = [
    await records.scores.trail(assignment.id, person.id, paging.limit, paging.cursor),
    await records.scores.cells([assignment.id], [person.id]),
    await records.scores.standing(assignment.id, person.id),
  ]
  const changes = await changesBeside(records, trail, {
    courseId: course.id,
    columnId: assignment.id,
    cursor: paging.cursor,
  })
  const cell = toCell(row, { decimals: course.shownDecimals, dueAt: assignment.dueAt })
  return {
    person: personRef(person),
    assignment: assignmentRef(assignment),
    course: { id: course.id, code: course.code, title: course.title },
    points: assignment.points,
    counting: assignment.counting,
    reviewable: assignment.reviewable && isReviewable({ statuses: assignment.reviewStatuses }, row?.activity ?? null),
    cell,
    explained: explain(cell, standing, assignment.points, course.shownDecimals),
    items: trail.items.map(entryView),
    changes,
    next: trail.next,
  }
}

export function entryView<R extends Pick<TrailRow, 'at' | 'sentAt'>>(row: R) {
  return { ...row, at: row.at.toISOString(), sentAt: row.sentAt?.toISOString() ?? null }
}

const COUNTS_AS = { latest: '', best: 'The best score: ', first: 'The first score: ', mean: '' }

/** How the number came to be, from what was sent to what is shown. */
function explain(cell: Cell, standing: StandingRow | undefined, points: string, decimals: number): string {
  const rounding = decimals === 0 ? 'half up, no decimals' : `half up, ${decimals} decimals`
  const tool = standing?.fraction == null ? undefined : fromTool(standing, points)
  if (cell.exempt) return `Exempt: counts neither way.${tool ? ` The tool’s own: ${tool}.` : ''}`
  if (cell.overridden)
    return `${cell.points === null ? 'No points' : `${cell.points} of ${points} points`}, set by the instructor; stays until it is lifted.${tool ? ` The tool’s own: ${tool}.` : ''}`
  if (tool) return `${tool}, shown as ${cell.shown} (${rounding}).`
  switch (cell.state) {
    case 'refused':
      return 'The last score was refused, so nothing was recorded.'
    case 'cleared':
      return 'The tool cleared the score.'
    case 'started':
      return 'Started, but nothing was handed in yet.'
    case 'submitted':
      return 'Handed in; the tool has sent no final score yet.'
    case 'waiting':
      return 'Handed in; it waits for the instructor to grade it in the tool.'
    case 'failed':
      return 'The tool says that grading failed at its end.'
    case 'opened':
      return 'Opened, but the tool has sent no score yet.'
    default:
      return 'Never opened, so there is nothing that a score could be returned for.'
  }
}

function fromTool(standing: StandingRow, points: string): string {
  const { counting, counted, fraction, sent, sentOutOf } = standing
  if (counting === 'mean' && counted > 1)
    return `The mean of ${counted} scores, ${fraction} of 1, × ${points} points = ${standing.points}`
  return `${counted > 1 ? COUNTS_AS[counting] : ''}${sent} of ${sentOutOf} × ${points} points = ${standing.points}`
}
