import { Refusal, type HandOn, type HandOnAsk, type HandOnColumn, type HandOnView } from '@bathyscribe/contract'
import { resultFiles, type LineItemFacts, type ResultFacts } from '@bathyscribe/core/oneroster'
import { strToU8, zipSync } from 'fflate'
import type { z } from 'zod'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { OfficeColumnRow, ToHandOnRow } from '../../records/handed-on.js'
import { act, by, type Actor, type Context } from '../context.js'

const MOST_TROUBLE = 300

/** What the records office has of a course. */
export async function showHandOn({ records }: Context, course: CourseRecord): Promise<HandOnView> {
  const [office, columns, trouble] = [
    await records.handedOn.office(),
    await records.handedOn.columns(course.id),
    await records.handedOn.trouble(course.id, MOST_TROUBLE),
  ]
  return {
    office: office !== undefined,
    paused: office?.paused ?? false,
    columns,
    trouble: trouble.map((one) => ({ ...one, nextAt: one.nextAt?.toISOString() ?? null })),
  }
}

/** Puts what was never sent or has changed into the queue; the jobs send it. With `check` it only counts. @throws Refusal */
export async function handOn(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  asked: z.output<typeof HandOnAsk>,
): Promise<{ queued: number; unchanged: number }> {
  const { records } = context
  if (!(await records.handedOn.office())) throw new Refusal('office.none')
  const all = await records.handedOn.columns(course.id)
  const wanted =
    asked.columns === undefined
      ? undefined
      : await Promise.all(asked.columns.map((ref) => records.assignments.byRef(ref)))
  const foreign = wanted?.find((one) => !all.some((each) => each.id === one.id))
  if (foreign) throw new Refusal('assignment.not_found', foreign.slug)
  const ids = (wanted ?? all).map((one) => one.id)
  if (asked.check) {
    const queued = await records.handedOn.countToQueue(ids, asked.again)
    return { queued, unchanged: Math.max(0, (await records.handedOn.count(ids)) - queued) }
  }
  const handing = { doer: actor, action: 'hand results on', subject: `course ${course.code}`, courseId: course.id }
  const queued = await act(
    context,
    handing,
    ({ handedOn }, at) => handedOn.queue({ columnIds: ids }, asked.again, at),
    (count) => ({ after: { queued: count } }),
  )
  const results = await records.handedOn.count(ids)
  context.changes.publish({ kind: 'office', courseId: course.id })
  return { queued, unchanged: Math.max(0, results - queued) }
}

export async function setHandOn(
  context: Context,
  actor: Actor,
  column: AssignmentRecord,
  mode: HandOn,
): Promise<HandOnColumn> {
  await context.records.transaction(async (records) => {
    await records.handedOn.setMode(column.id, mode)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'set how results go on',
      subject: `column ${column.slug}`,
      courseId: column.courseId,
      after: { mode },
    })
  })
  context.changes.publish({ kind: 'office', courseId: column.courseId })
  const found = (await context.records.handedOn.columns(column.courseId)).find((one) => one.id === column.id)
  if (!found) throw new Refusal('assignment.not_found', column.slug)
  return found
}

/** The results of a course as OneRoster 1.2 CSV in one archive. */
export async function exportResults(
  { records, settings, clock }: Context,
  actor: Actor,
  course: CourseRecord,
): Promise<{ fileName: string; zip: string }> {
  const rows = await records.handedOn.resultsOf(course.id)
  const columns = await records.handedOn.officeColumns([...new Set(rows.map((row) => row.columnId))])
  const files = resultFiles(columns.map(lineItemOf), rows.map(resultOf), settings.platformName)
  const zip = zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])))
  await records.audit.note({
    at: clock.now(),
    ...by(actor),
    action: 'export results',
    subject: `course ${course.code}`,
    courseId: course.id,
    after: { results: rows.length, columns: columns.length },
  })
  return { fileName: `results-${course.codeKey.toLowerCase()}.zip`, zip: Buffer.from(zip).toString('base64') }
}

export function lineItemOf(row: OfficeColumnRow): LineItemFacts {
  return { ...row, dueAt: row.dueAt?.toISOString() ?? null, changedAt: row.changedAt.toISOString() }
}

export function resultOf(row: ToHandOnRow): ResultFacts {
  return {
    id: `${row.columnId}-${row.personId}`,
    lineItemId: row.columnId,
    studentId: row.studentId,
    points: row.points,
    exempt: row.exempt,
    comment: row.comment,
    at: row.at.toISOString(),
  }
}
