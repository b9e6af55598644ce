import type { Cell, Gradebook, Trail } from '@bathyscribe/contract'
import { Refusal } from '@bathyscribe/contract'
import { addPoints, shown } from '@bathyscribe/core/scores'
import type { AssignmentRecord, CourseRecord } from '../records/entities/courses.js'
import type { CellRow, GradebookPersonRow } from '../records/scores.js'
import type { Context } from './context.js'

/** The gradebook of a course: three queries, whatever its size. */
export async function readGradebook(context: Context, course: CourseRecord, testLearner: boolean): Promise<Gradebook> {
  const { scores } = context.records
  const columns = await scores.columns(course.id)
  const [people, cells] = await Promise.all([
    scores.people(course.id, testLearner),
    scores.cells(columns.map((column) => column.id)),
  ])
  const byPerson = new Map<string, Record<string, Cell>>()
  for (const row of cells) {
    const own = byPerson.get(row.personId) ?? {}
    own[row.assignmentId] = toCell(row)
    byPerson.set(row.personId, own)
  }
  return {
    course: { id: course.id, code: course.code, title: course.title },
    columns: columns.map((column) => ({ ...column, lastScoreAt: column.lastScoreAt?.toISOString() ?? null })),
    rows: people.map((person) => toRow(person, byPerson.get(person.id) ?? {})),
    outOf: addPoints(columns.map((column) => column.points)),
  }
}

function toRow(person: GradebookPersonRow, cells: Record<string, Cell>): Gradebook['rows'][number] {
  const total = addPoints(Object.values(cells).flatMap((cell) => cell.points ?? []))
  return {
    person: { id: person.id, fullName: person.fullName, username: person.username },
    state: person.state,
    isTestLearner: person.role === 'test_learner',
    cells,
    total,
    shownTotal: shown(total),
  }
}

/** What one cell says. A refusal newer than the result, or without one, is what needs to be looked at. */
export function toCell(row: CellRow | undefined): Cell {
  if (!row) return { state: 'never_opened', points: null, shown: null, sent: null, at: null }
  const refusedLast = row.refusedAt !== null && (row.resultAt === null || row.refusedAt > row.resultAt)
  const at = refusedLast ? row.refusedAt : (row.resultAt ?? row.openedAt)
  const state = refusedLast ? 'refused' : !row.hasResult ? 'opened' : row.points === null ? 'cleared' : 'graded'
  return {
    state,
    points: row.points,
    shown: row.points === null ? null : shown(row.points),
    sent: row.sent,
    at: at?.toISOString() ?? null,
  }
}

/** All scores ever received for one person in one assignment, and how the result came to be. @throws Refusal */
export async function readTrail(
  context: Context,
  assignment: AssignmentRecord,
  personRef: string,
  paging: { limit: number; cursor?: string | undefined },
): Promise<Trail> {
  const { records } = context
  const person = await records.people.byRef(personRef)
  if (!person || !(await records.people.enrolment(assignment.courseId, person.id)))
    throw new Refusal('enrolment.not_found', personRef)
  const course = await records.courses.byRef(assignment.courseId)
  const [trail, [row]] = [
    await records.scores.trail(assignment.id, person.id, paging.limit, paging.cursor),
    await records.scores.cells([assignment.id], person.id),
  ]
  const cell = toCell(row)
  return {
    person: { id: person.id, fullName: person.fullName, username: person.username },
    assignment: { id: assignment.id, slug: assignment.slug, title: assignment.title },
    course: { id: course.id, code: course.code, title: course.title },
    points: assignment.points,
    cell,
    explained: explain(cell, assignment.points),
    items: trail.items.map((entry) => ({ ...entry, at: entry.at.toISOString() })),
    next: trail.next,
  }
}

function explain(cell: Cell, points: string): string {
  if (cell.points !== null) return `${cell.sent} of 1 × ${points} points = ${cell.points}, shown as ${cell.shown}.`
  if (cell.state === 'refused') return 'The last score was refused, so nothing was recorded.'
  if (cell.state === 'cleared') return 'The tool cleared the score.'
  return cell.state === 'opened'
    ? 'Opened, but the tool has sent no score yet.'
    : 'Never opened, so there is nothing that a score could be returned for.'
}
