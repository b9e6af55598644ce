import { LINE_ITEM_MEDIA_TYPE, LINE_ITEMS_MEDIA_TYPE } from '@bathyscribe/core/lti13'
import type { ColumnRow13 } from '../../records/assignments.js'
import type { Context } from '../context.js'
import { courseServices } from './claims.js'
import type { ServiceAnswer } from './course-services.js'
import type { ToolCaller } from './tool-caller.js'

const MOST = 200

export interface LineItemsQuery {
  resourceLinkId?: string | undefined
  resourceId?: string | undefined
  tag?: string | undefined
  limit?: number | undefined
  /** Identifier of the last one of the page before. */
  after?: string | undefined
}

/** The columns of a tool in a course (AGS 2.0 section 3.2.4): those of its own assignments and no others, filtered and in pages. */
export async function lineItems(
  context: Context,
  { tool, course }: ToolCaller,
  query: LineItemsQuery,
): Promise<ServiceAnswer & { next: string | null }> {
  const limit = Math.min(MOST, Math.max(1, query.limit ?? MOST))
  const rows = await context.records.assignments.columnsOfTool(course.id, tool.id, { ...query, limit: limit + 1 })
  const shown = rows.slice(0, limit)
  return {
    mediaType: LINE_ITEMS_MEDIA_TYPE,
    body: shown.map((row) => itemView(context, course.id, row)),
    next: rows.length > limit ? shown.at(-1)!.id : null,
  }
}

/** One column. @throws Refusal when it is not the tool's */
export async function lineItem(context: Context, { tool, course }: ToolCaller, id: string): Promise<ServiceAnswer> {
  const row = await context.records.assignments.columnOf(course.id, tool.id, id)
  return { mediaType: LINE_ITEM_MEDIA_TYPE, body: itemView(context, course.id, row) }
}

function itemView({ settings }: Context, courseId: string, row: ColumnRow13): Record<string, unknown> {
  const { column } = row.content ?? {}
  return {
    id: `${courseServices(settings, courseId)}/lineitems/${row.id}`,
    label: row.title,
    scoreMaximum: Number(row.points) > 0 ? Number(row.points) : 1,
    resourceLinkId: row.resourceLinkId,
    ...(column?.resourceId && { resourceId: column.resourceId }),
    ...(column?.tag && { tag: column.tag }),
    ...(row.opensAt && { startDateTime: row.opensAt.toISOString() }),
    ...(row.dueAt && { endDateTime: row.dueAt.toISOString() }),
  }
}
