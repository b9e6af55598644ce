import type { DueItem, Outline, UnitItem, UnitItemDetail } from '@bathyscribe/contract'
import { Refusal } from '@bathyscribe/contract'
import { proofOf } from '@bathyscribe/core/checks'
import { shown } from '@bathyscribe/core/scores'
import type { AssignmentSummary } from '../../records/assignment-summary.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { ItemRow } from '../../records/outline.js'
import type { CellRow } from '../../records/scores.js'
import type { Actor, Context } from '../context.js'
import { datedCourse } from '../courses/dated-course.js'

type Shown = { assignment: AssignmentSummary; cell?: CellRow | undefined }

/** A course's units with everything in them: six queries at most, however many items there are. Learners see what is published and theirs. */
export async function readOutline(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  teaching: boolean,
): Promise<Outline> {
  const { records } = context
  const [units, items, summaries] = await Promise.all([
    records.outline.units(course.id),
    records.outline.items(course.id),
    records.assignments.summariesOfCourse(course.id),
  ])
  const mine = teaching ? undefined : await records.assignments.mine(course.id, actor.id)
  const cells = teaching
    ? []
    : await records.scores.cells(
        summaries.map((one) => one.id),
        [actor.id],
      )
  const visible = summaries.filter((one) => teaching || (one.state === 'published' && mine?.get(one.id)?.isFor))
  const byId = new Map(
    visible.map((one): [string, Shown] => [
      one.id,
      { assignment: one, cell: cells.find((cell) => cell.assignmentId === one.id) },
    ]),
  )
  const placed = new Set<string>()
  const shownUnits = units
    .filter((unit) => teaching || unit.published)
    .map(({ id, title, published, revision }) => ({
      id,
      title,
      published,
      revision,
      items: items
        .filter((item) => item.unitId === id)
        .flatMap((item) => {
          if (item.assignmentId !== null) placed.add(item.assignmentId)
          const one = item.assignmentId === null ? undefined : byId.get(item.assignmentId)
          const view = itemView(item, one, teaching)
          return view && (teaching || view.published) ? [view] : []
        }),
    }))
  const inHidden = new Set(items.flatMap((item) => (item.assignmentId === null ? [] : [item.assignmentId])))
  return {
    course: datedCourse(course),
    revision: course.revision,
    welcome: course.welcome,
    units: shownUnits,
    loose: visible
      .filter((one) => !placed.has(one.id) && !inHidden.has(one.id))
      .map((one) => assignmentItem(one.id, byId.get(one.id)!, teaching, { pinned: false, revision: one.revision })),
  }
}

function itemView(item: ItemRow, one: Shown | undefined, teaching: boolean): UnitItem | undefined {
  if (item.kind === 'assignment') return one && assignmentItem(item.id, one, teaching, item)
  return {
    id: item.id,
    kind: item.kind,
    title: item.title || (item.file?.name ?? ''),
    published: item.published,
    pinned: item.pinned,
    revision: item.revision,
    assignment: null,
    tool: item.tool,
    documentTarget: item.kind === 'tool_link' ? item.documentTarget : null,
    file: item.file,
    address: item.address,
  }
}

function assignmentItem(
  id: string,
  { assignment, cell }: Shown,
  teaching: boolean,
  item: { pinned: boolean; revision: number },
): UnitItem {
  return {
    id,
    kind: 'assignment',
    title: assignment.title,
    published: assignment.state === 'published',
    pinned: item.pinned,
    revision: item.revision,
    assignment: {
      id: assignment.id,
      slug: assignment.slug,
      points: assignment.points,
      counted: assignment.counted,
      opensAt: assignment.opensAt?.toISOString() ?? null,
      dueAt: assignment.dueAt?.toISOString() ?? null,
      closesAt: assignment.closesAt?.toISOString() ?? null,
      proof: teaching
        ? proofOf(assignment.facts).map(({ name, state, statement }) => ({ name, state, statement }))
        : [],
      result: cell?.points == null ? null : shown(cell.points),
      opened: cell?.openedAt != null,
    },
    tool: assignment.tool,
    documentTarget: assignment.documentTarget,
    file: null,
    address: null,
  }
}

/** One item with its text. Learners see what is published. @throws Refusal */
export async function readItem(
  context: Context,
  course: CourseRecord,
  id: string,
  teaching: boolean,
): Promise<UnitItemDetail> {
  const item = await context.records.outline.item(course.id, id)
  const unit = item.unitId === null ? null : await context.records.outline.unit(course.id, item.unitId)
  if (!teaching && !(item.published && (unit?.published ?? true))) throw new Refusal('item.not_found', id)
  const assignment =
    item.assignmentId === null ? undefined : await context.records.assignments.summary(item.assignmentId)
  return {
    ...itemView(item, assignment && { assignment }, teaching)!,
    course: datedCourse(course),
    body: item.body,
    launchUrl: teaching ? item.launchUrl : null,
    customParameters: teaching && item.kind === 'tool_link' ? item.customParameters : null,
  }
}

const MOST_DUE = 20

/** What is due next for a learner, over all courses. */
export async function listDue(context: Context, actor: Actor): Promise<DueItem[]> {
  const rows = await context.records.assignments.due(actor.id, context.clock.now(), MOST_DUE)
  return rows.map((row) => ({ ...row, dueAt: row.dueAt.toISOString(), closesAt: row.closesAt?.toISOString() ?? null }))
}
