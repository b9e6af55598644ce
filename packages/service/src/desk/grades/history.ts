import {
  ERRORS,
  type ColumnChange,
  type ErrorCode,
  type ScoreBurst,
  type ScoreEntry,
  type ScoreQuery,
  type Unscored,
} from '@bathyscribe/contract'
import type { z } from 'zod'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { Page } from '../../records/paging.js'
import type { UnscoredRow } from '../../records/score-history.js'
import type { Context } from '../context.js'
import { changesBeside } from './changes-beside.js'
import { entryView } from './read-gradebook.js'

const DAY_MS = 86_400_000
/** How far back rows of scores are looked for. */
const BURST_DAYS = 120
const MOST_BURSTS = 50

/** What happened in a gradebook, newest first. */
export async function listScores(
  { records }: Context,
  course: CourseRecord,
  query: z.output<typeof ScoreQuery>,
): Promise<Page<ScoreEntry> & { changes: ColumnChange[] }> {
  const { person, assignment, ...rest } = query
  const columnId = assignment === undefined ? undefined : (await records.assignments.byRef(assignment)).id
  const page = await records.scoreHistory.list(course.id, {
    ...rest,
    personId: person === undefined ? undefined : ((await records.people.byRef(person))?.id ?? 'nobody'),
    columnId,
  })
  // What was refused, or came from tools, was no change of a column by hand; of a search nothing is known but people and titles.
  const wanted = query.outcome !== 'refused' && query.by !== 'tool' && query.search === undefined
  const changes = wanted
    ? await changesBeside(records, page, { courseId: course.id, columnId, cursor: query.cursor })
    : []
  return { ...page, items: page.items.map(entryView), changes }
}

export async function listScoreBursts({ records, clock }: Context, course: CourseRecord): Promise<ScoreBurst[]> {
  const since = new Date(clock.now().getTime() - BURST_DAYS * DAY_MS)
  const rows = await records.scoreHistory.bursts(course.id, since, MOST_BURSTS)
  return rows.map((row) => ({ ...row, from: row.from.toISOString(), to: row.to.toISOString() }))
}

/** Who has no score in a column yet, and why as far as it is known. */
export async function listUnscored({ records }: Context, column: AssignmentRecord): Promise<Unscored[]> {
  return (await records.scoreHistory.unscored(column.id)).map((row) => ({
    person: row.person,
    ...reasonOf(row, column.state === 'column'),
  }))
}

function reasonOf(row: UnscoredRow, madeByTool: boolean): Omit<Unscored, 'person'> {
  const since = (at: Date | null) => at?.toISOString() ?? null
  if (row.state === 'dropped')
    return { why: 'dropped', statement: 'Dropped from the course: scores are refused.', at: null }
  if (!row.isFor) return { why: 'not_for_them', statement: 'The assignment was given to others.', at: null }
  if (row.refusedAt && (!row.heardAt || row.refusedAt > row.heardAt))
    return {
      why: 'refused',
      statement: `A score was refused: ${ERRORS[row.code as ErrorCode]?.sentence ?? row.code ?? ''}`,
      at: since(row.refusedAt),
    }
  if (row.grading === 'PendingManual')
    return { why: 'waiting', statement: 'Handed in; it waits to be graded in the tool.', at: since(row.heardAt) }
  if (!row.openedAt && !row.heardAt && !madeByTool)
    return {
      why: 'never_launched',
      statement: 'Never entered through this assignment, so the tool has nothing to return a score for.',
      at: null,
    }
  return {
    why: 'no_score_yet',
    statement: row.heardAt
      ? 'The tool said that work goes on, but sent no final score.'
      : 'Opened; the tool has sent no score yet.',
    at: since(row.heardAt ?? row.openedAt),
  }
}
