import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import {
  LINE_ITEM_MEDIA_TYPE,
  LINE_ITEMS_MEDIA_TYPE,
  readLineItem,
  RESULTS_MEDIA_TYPE,
  type WantedLineItem,
} from '@bathyscribe/core/lti13'
import { sameNumber } from '@bathyscribe/core/scores'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import { newAssignment } from '../assignments/assignment.js'
import { violatedKey } from '../../records/database.js'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { ColumnRow13 } from '../../records/columns.js'
import type { NewAuditEntry } from '../../records/audit.js'
import type { Records } from '../../records/index.js'
import { recompute } from '../assignments/recompute.js'
import { reviewFields } from '../assignments/review-fields.js'
import type { Context } from '../context.js'
import { courseServices } from './claims.js'
import type { ServiceAnswer } from './answer.js'
import type { CallerRow } from '../../records/statements/service-callers.js'

const MOST = 200
/** Columns that one tool may make in one course. */
const MOST_COLUMNS = 500

export interface LineItemsQuery {
  resourceLinkId?: string | undefined
  resourceId?: string | undefined
  tag?: string | undefined
  limit?: number | undefined
  /** Identifier of the last one of the page before. */
  after?: string | undefined
}

/** The columns of a tool in a course (AGS 2.0 section 3.2.4): its own and those of its assignments, no others, filtered and in pages. */
export async function lineItems(
  context: Context,
  { tool, course }: CallerRow,
  query: LineItemsQuery,
): Promise<ServiceAnswer> {
  const limit = Math.min(MOST, Math.max(1, query.limit ?? MOST))
  const rows = await context.records.columns.ofTool(course.id, tool.id, { ...query, limit: limit + 1 })
  const shown = rows.slice(0, limit)
  return {
    mediaType: LINE_ITEMS_MEDIA_TYPE,
    body: shown.map((row) => itemView(context, course.id, row)),
    ...(rows.length > limit && { next: { after: shown.at(-1)!.id } }),
  }
}

/** One column. @throws Refusal when it is not the tool's */
export async function lineItem(context: Context, caller: CallerRow, id: string): Promise<ServiceAnswer> {
  return answer(context, caller, await context.records.columns.one(caller.course.id, caller.tool.id, id))
}

/** Makes a column of the tool's own (AGS 2.0 section 3.2.5). @throws Refusal */
export async function addLineItem(context: Context, caller: CallerRow, body: unknown): Promise<ServiceAnswer> {
  const wanted = read(body)
  const { tool, course } = caller
  if ((await context.records.columns.count(course.id, tool.id)) >= MOST_COLUMNS)
    throw new Refusal('line_item.too_many', `${MOST_COLUMNS}`)
  await requireOwnLink(context, caller, wanted.resourceLinkId)
  const now = context.clock.now()
  const made: AssignmentRecord = {
    ...newAssignment(context, course.id, { id: tool.id, documentTarget: 'window' }, now),
    ...columnOf(wanted),
    state: 'column',
    tiedTo: wanted.resourceLinkId,
    publishedAt: now,
  }
  const slugs = await context.records.assignments.slugsLike(course.id, slugOf(wanted.label, 'column'))
  const after = { title: made.title, points: made.points }
  await act(context, caller, { action: 'tool made column', id: made.id, before: null, after }, (records) =>
    records.assignments.insert({ ...made, slug: freeSlug(slugOf(wanted.label, 'column'), slugs) }),
  ).catch((error: unknown) => {
    throw violatedKey(error) === undefined ? error : new Refusal('record.changed_meanwhile')
  })
  const answered = answer(context, caller, await context.records.columns.one(course.id, tool.id, made.id))
  return { ...answered, status: 201, location: (answered.body as { id: string }).id }
}

/**
 * Changes a column (AGS 2.0 section 3.2.6). Of one that an instructor's assignment owns only what the tool calls it changes: title, points and dates are the course's.
 * @throws Refusal
 */
export async function changeLineItem(
  context: Context,
  caller: CallerRow,
  id: string,
  body: unknown,
): Promise<ServiceAnswer> {
  const wanted = read(body)
  const { tool, course } = caller
  const before = await context.records.columns.one(course.id, tool.id, id)
  if (before.state === 'column') {
    if (wanted.resourceLinkId !== null && wanted.resourceLinkId !== before.resourceLinkId)
      throw new Refusal('line_item.link_fixed')
    const note = {
      action: 'tool changed column',
      id,
      before: { title: before.title, points: before.points },
      after: { title: wanted.label, points: wanted.points },
    }
    await act(context, caller, note, async (records) => {
      const locked = await records.assignments.lock(id)
      if (locked.state !== 'column') throw new Refusal('line_item.not_found', id.slice(0, 60))
      await records.assignments.update(id, locked.revision, { ...columnOf(wanted), updatedAt: context.clock.now() })
      if (!sameNumber(locked.points, wanted.points)) await recompute(records, [id])
    })
  } else await context.records.columns.setSaid(id, saidOf(wanted))
  return lineItem(context, caller, id)
}

/** Takes a column of the tool's own away (AGS 2.0 section 3.2.7); its scores are kept for as long as deleted things are. @throws Refusal */
export async function removeLineItem(context: Context, caller: CallerRow, id: string): Promise<ServiceAnswer> {
  const row = await context.records.columns.one(caller.course.id, caller.tool.id, id)
  if (row.state !== 'column') throw new Refusal('line_item.of_assignment')
  const before = { title: row.title, points: row.points }
  await act(context, caller, { action: 'tool deleted column', id, before, after: null }, (records) =>
    records.columns.remove(id, context.clock.now()),
  )
  return { mediaType: LINE_ITEM_MEDIA_TYPE, body: null, status: 204 }
}

/** The results of a column (AGS 2.0 section 3.3): what stands in the gradebook, the instructor's own word included. @throws Refusal */
export async function results(
  context: Context,
  { tool, course }: CallerRow,
  id: string,
  query: { userId?: string | undefined; limit?: number | undefined; after?: string | undefined },
): Promise<ServiceAnswer> {
  const limit = Math.min(MOST, Math.max(1, query.limit ?? MOST))
  const column = await context.records.columns.one(course.id, tool.id, id)
  const rows = await context.records.columns.results(column.mergedInto ?? id, { ...query, limit: limit + 1 })
  const at = `${courseServices(context.settings, course.id)}/lineitems/${id}`
  const shown = rows.slice(0, limit)
  return {
    mediaType: RESULTS_MEDIA_TYPE,
    body: shown.map((row) => ({
      id: `${at}/results/${row.personId}`,
      scoreOf: at,
      userId: row.subject,
      ...(row.points !== null && { resultScore: Number(row.points), resultMaximum: maximumOf(row.outOf) }),
      ...(row.comment && { comment: row.comment }),
      ...(row.scoredBy && { scoringUserId: row.scoredBy }),
    })),
    ...(rows.length > limit && { next: { after: shown.at(-1)!.personId } }),
  }
}

function read(body: unknown): WantedLineItem {
  const wanted = readLineItem(body)
  if (wanted instanceof Problem) throw Refusal.of(wanted)
  return wanted
}

/** A link that a column is tied to has to be one of the tool's own in the course. */
async function requireOwnLink(context: Context, { tool, course }: CallerRow, wanted: string | null): Promise<void> {
  if (wanted !== null && !(await context.records.columns.hasLink(course.id, tool.id, wanted)))
    throw new Refusal('line_item.foreign_link', `“${wanted.slice(0, 60)}”`)
}

function columnOf(wanted: WantedLineItem): Partial<AssignmentRecord> {
  return {
    title: wanted.label,
    points: wanted.points,
    opensAt: wanted.opensAt,
    dueAt: wanted.dueAt,
    released: wanted.released,
    ...saidOf(wanted),
  }
}

function saidOf(wanted: WantedLineItem) {
  return { saidResourceId: wanted.resourceId, saidTag: wanted.tag, ...reviewFields(wanted.review) }
}

/** Does something to a column, and notes it in the same transaction. */
async function act(
  context: Context,
  { tool, course }: CallerRow,
  { id, ...entry }: Pick<NewAuditEntry, 'action' | 'before' | 'after'> & { id: string },
  work: (records: Records) => Promise<void>,
): Promise<void> {
  await context.records.transaction(async (records) => {
    await work(records)
    await records.audit.add({
      ...entry,
      at: context.clock.now(),
      personId: null,
      via: `tool ${tool.id}`,
      subject: `column ${id}`,
      courseId: course.id,
    })
  })
  context.changes.publish({ kind: 'outline', courseId: course.id })
}

function answer(context: Context, { course }: CallerRow, row: ColumnRow13): ServiceAnswer {
  return { mediaType: LINE_ITEM_MEDIA_TYPE, body: itemView(context, course.id, row) }
}

/** A column out of nothing is out of one for tools: the standard has no maximum of 0. */
function maximumOf(points: string): number {
  return Number(points) > 0 ? Number(points) : 1
}

function itemView({ settings }: Context, courseId: string, row: ColumnRow13): Record<string, unknown> {
  return {
    id: `${courseServices(settings, courseId)}/lineitems/${row.id}`,
    label: row.title,
    scoreMaximum: maximumOf(row.points),
    ...(row.resourceLinkId && { resourceLinkId: row.resourceLinkId }),
    ...(row.resourceId && { resourceId: row.resourceId }),
    ...(row.tag && { tag: row.tag }),
    ...(row.opensAt && { startDateTime: row.opensAt.toISOString() }),
    ...(row.dueAt && { endDateTime: row.dueAt.toISOString() }),
    ...(!row.released && { gradesReleased: false }),
    ...(row.reviewable && {
      submissionReview: {
        ...(row.reviewStatuses && { reviewableStatus: row.reviewStatuses }),
        ...(row.reviewLabel && { label: row.reviewLabel }),
        ...(row.reviewUrl && { url: row.reviewUrl }),
        ...(Object.keys(row.reviewCustom).length > 0 && { custom: row.reviewCustom }),
      },
    }),
  }
}
