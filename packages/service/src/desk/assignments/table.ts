import { Problem } from '@bathyscribe/core/result'
import { Refusal, remarkInWords, type TableAnswer, type TableQuestion, type TableRow } from '@bathyscribe/contract'
import type { PreflightRemark } from '@bathyscribe/core/checks'
import { toDate } from '@bathyscribe/core/dates'
import { readAssignmentTable, TABLE_MAX_ROWS, type AssignmentRow } from '@bathyscribe/core/formats'
import { checkLaunchAddress } from '@bathyscribe/core/links'
import { toRichText } from '@bathyscribe/core/rich-text'
import { sameNumber } from '@bathyscribe/core/scores'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import type { z } from 'zod'
import { launchesOtherwise, newAssignment, slugTaken } from './assignment.js'
import type { AssignmentRecord, CategoryRecord, CourseRecord } from '../../records/entities/courses.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { GroupRow } from '../../records/groups.js'
import type { Records } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { newUnit } from '../outline/change-outline.js'
import { unitItem } from '../outline/unit-item.js'
import { toolForCourse } from '../places/usable-tool.js'
import { recompute } from './recompute.js'
import { Surroundings, withAcceptances } from './surroundings.js'

type Question = z.output<typeof TableQuestion>

/** One row with what would become of it. */
interface Plan {
  row: AssignmentRow
  act: TableRow['act']
  /** As it would stand in the records; undefined for rows that cannot be. */
  next: AssignmentRecord | undefined
  before: AssignmentRecord | undefined
  tool: RegistrationRecord | undefined
  unit: string | undefined
  groups: string[] | undefined
  changes: TableRow['changes']
  problems: TableRow['problems']
  remarks: PreflightRemark[]
}

/** Everything that rows can name, read once for the whole table. */
interface Known {
  course: CourseRecord
  tools: Map<string, RegistrationRecord | Refusal>
  categories: CategoryRecord[]
  groups: GroupRow[]
  /** Identifiers of the groups that an assignment is for. */
  released: Map<string, string[]>
  byKey: Map<string, AssignmentRecord>
  slugs: string[]
}

/** Says row by row what a table would do; nothing is made. @throws Refusal when it cannot be read as a table */
export async function checkTable(context: Context, course: CourseRecord, asked: Question): Promise<TableAnswer> {
  const { plans, unknown } = await plan(context, course, asked)
  return answer(plans, unknown, false)
}

/**
 * Makes and changes what a table says, in one transaction: all rows or none. A row's key makes it safe to run twice: what is there already is changed where it
 * differs, and otherwise kept. The number of statements does not hang on the number of rows.
 * @throws Refusal `table.rows_wrong` that lists every row that cannot be made
 */
export async function makeTable(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  asked: Question,
): Promise<TableAnswer> {
  const { plans, unknown } = await plan(context, course, asked)
  const refused = plans.filter((one) => one.act === 'refuse')
  if (refused.length > 0)
    throw new Refusal(
      'table.rows_wrong',
      `${refused.length} of ${plans.length}`,
      refused
        .slice(0, 200)
        .flatMap(({ row, problems }) =>
          problems.map((one) => ({ path: `line ${row.line}, ${one.column}`, message: one.message })),
        ),
    )
  const now = context.clock.now()
  const made = plans.filter((one) => one.act === 'make')
  const changed = plans.filter((one) => one.act === 'change')
  const repriced = changed.flatMap(({ before, next }) => (sameNumber(before!.points, next!.points) ? [] : [next!]))
  await context.records
    .transaction(async (records) => {
      const units = await placesFor(context, records, course, plans)
      await records.outline.addUnits(course.id, units.fresh)
      await records.assignments.insertAll(made.map((one) => one.next!))
      await records.assignments.lockAll(repriced.map((one) => one.id))
      await records.assignments.updateAll(changed.map((one) => one.next!))
      await recompute(
        records,
        repriced.map((one) => one.id),
      )
      await records.outline.addItems(
        course.id,
        made.flatMap(({ next, unit }) =>
          unit === undefined
            ? []
            : [
                unitItem(context, {
                  courseId: course.id,
                  unitId: units.idOf(unit),
                  kind: 'assignment',
                  assignmentId: next!.id,
                }),
              ],
        ),
      )
      const released = [...made, ...changed].filter((one) => one.groups !== undefined)
      if (released.length > 0)
        await records.assignments.setAudiences(
          released.map(({ next, groups }) => ({ assignmentId: next!.id, groups: groups!, people: [] })),
        )
      await records.menus.addTools(course.id, [...new Set(made.map((one) => one.next!.registrationId))], actor.id, now)
      await records.audit.add({
        at: now,
        ...by(actor),
        action: 'make assignments from a table',
        subject: `course ${course.code}`,
        courseId: course.id,
        after: { made: made.map((one) => one.next!.slug), changed: changed.map((one) => one.next!.slug) },
      })
    })
    .catch(slugTaken('the table'))
  if (made.length + changed.length > 0) {
    context.changes.publish({ kind: 'assignment', courseId: course.id })
    context.changes.publish({ kind: 'outline', courseId: course.id })
  }
  return answer(plans, unknown, true)
}

async function plan(
  context: Context,
  course: CourseRecord,
  asked: Question,
): Promise<{ plans: Plan[]; unknown: string[] }> {
  const read = readAssignmentTable(asked.table, course.timeZone)
  if (read instanceof Problem) throw new Refusal(read.code, read.detail || `at most ${TABLE_MAX_ROWS} rows`)
  const known = await look(context, course, asked, read.rows)
  const plans = read.rows.map((row) => planRow(context, known, asked, row))
  const around = await Surroundings.read(
    context,
    context.records,
    course.id,
    plans.flatMap((one) => (one.tool ? [one.tool.id] : [])),
  )
  for (const one of plans) {
    if (!one.next) continue
    one.remarks = around.remarks({ ...one.next, unit: null, audience: null })
    const broken =
      one.next.state === 'published' ? one.remarks.filter((remark) => stops(remark, asked.acceptWarnings)) : []
    one.problems.push(
      ...broken.map((remark) => {
        const { statement, remedy } = remarkInWords(remark)
        return { column: remark.field, message: `${statement} ${remedy}` }
      }),
    )
    if (asked.acceptWarnings === false && one.remarks.length > 0)
      one.problems.push({
        column: 'title',
        message: one.remarks.map((remark) => remarkInWords(remark).statement).join(' '),
      })
    if (one.problems.length > 0) one.act = 'refuse'
  }
  return { plans, unknown: read.unknown }
}

/** Nobody sees a table's rows one by one: what was copied with the session of its author goes to learners only when that was said. */
function stops({ verdict, rule }: PreflightRemark, accepted: boolean | undefined): boolean {
  return verdict === 'fail' || (rule === 'session_parameters' && accepted === undefined)
}

async function look(
  context: Context,
  course: CourseRecord,
  asked: Question,
  rows: readonly AssignmentRow[],
): Promise<Known> {
  const { records } = context
  const refs = new Set([...rows.flatMap((row) => (row.tool ? [row.tool] : [])), ...(asked.tool ? [asked.tool] : [])])
  const tools = new Map<string, RegistrationRecord | Refusal>()
  for (const ref of refs)
    tools.set(
      ref,
      await toolForCourse(context, course.id, ref).catch((error: unknown) => {
        if (error instanceof Refusal) return error
        throw error
      }),
    )
  const there = await records.assignments.ofCourse(course.id)
  const namesGroups = rows.some((row) => row.groups?.length)
  return {
    course,
    tools,
    categories: await records.courses.categories(course.id),
    groups: namesGroups ? await records.groups.list(course.id) : [],
    released: namesGroups ? await records.groups.released(course.id) : new Map<string, string[]>(),
    byKey: new Map(there.flatMap((one) => (one.rowKey === null ? [] : [[one.rowKey, one]]))),
    slugs: await records.assignments.slugs(course.id),
  }
}

function planRow(context: Context, known: Known, asked: Question, row: AssignmentRow): Plan {
  const problems = [...row.problems]
  const before = known.byKey.get(row.key)
  const wrong = (column: string, message: string) => void problems.push({ column, message })
  const toolRef = row.tool ?? (before ? undefined : asked.tool)
  const tool = toolRef === undefined ? undefined : known.tools.get(toolRef)
  if (tool instanceof Refusal) wrong('tool', tool.toProblem().title)
  if (!before && toolRef === undefined) wrong('tool', 'is missing: name it in the row or for the whole table')
  if (!before && row.title === undefined && !problems.some((one) => one.column === 'title'))
    wrong('title', 'is missing')
  if (row.key === '') wrong('key', 'is missing, and there is no title to make it of')
  const categoryName = row.category === undefined ? (before ? undefined : asked.category) : row.category
  const category =
    categoryName == null
      ? undefined
      : known.categories.find((one) => one.name.toLowerCase() === categoryName.toLowerCase())
  if (categoryName != null && !category) wrong('category', `“${categoryName}” is no category of the course`)
  if (row.launchUrl != null && checkLaunchAddress(row.launchUrl))
    wrong('address', `“${row.launchUrl.slice(0, 60)}” cannot be launched`)
  const named = row.groups?.flatMap((name) => {
    const found = known.groups.filter(
      (one) => one.name.toLowerCase() === name.toLowerCase() || `${one.setName}: ${one.name}` === name,
    )
    if (found.length !== 1)
      wrong('groups', `“${name}” is ${found.length === 0 ? 'no group of the course' : 'the name of several groups'}`)
    return found.map((one) => one.id)
  })
  const groups = [...new Set(named)]
  const record = tool instanceof Refusal ? undefined : tool
  const common = { row, before, tool: record, problems, remarks: [] }
  if (problems.length > 0)
    return { ...common, act: 'refuse', next: undefined, unit: undefined, groups: undefined, changes: [] }
  if (!before && row.points == null && row.counted !== false) wrong('points', 'are missing')
  const next = before
    ? changedBy(context, before, row, category?.id)
    : madeOf(context, known, row, record!, category?.id ?? null)
  const release = groups.length > 0 ? releaseOf(known, before, groups) : undefined
  if (before && release) next.forEveryone = false
  const changes = before ? [...differencesOf(before, next), ...(release ? [release.change] : [])] : []
  const unit = row.unit ?? (row.unit === undefined && !before ? asked.unit : undefined) ?? undefined
  return {
    ...common,
    act: before ? (changes.length > 0 ? 'change' : 'keep') : 'make',
    next,
    unit,
    groups: release?.groups,
    changes,
  }
}

/** To which groups a row releases an assignment, as far as it is not released to exactly these already. */
function releaseOf(
  known: Known,
  before: AssignmentRecord | undefined,
  groups: string[],
): { groups: string[]; change: TableRow['changes'][number] } | undefined {
  const now = (before && known.released.get(before.id)) ?? []
  if (before && !before.forEveryone && now.length === groups.length && groups.every((id) => now.includes(id)))
    return undefined
  const words = (ids: readonly string[]) =>
    known.groups.flatMap((one) => (ids.includes(one.id) ? [`${one.setName}: ${one.name}`] : [])).join(', ')
  return {
    groups,
    change: { field: 'groups', now: before?.forEveryone ? 'everyone' : words(now), wanted: words(groups) },
  }
}

function madeOf(
  context: Context,
  known: Known,
  row: AssignmentRow,
  tool: RegistrationRecord,
  categoryId: string | null,
): AssignmentRecord {
  const now = context.clock.now()
  const slug = freeSlug(slugOf(row.title!, 'assignment'), known.slugs)
  known.slugs.push(slug)
  const counted = row.counted ?? true
  return {
    ...newAssignment(context, known.course.id, tool, now),
    slug,
    rowKey: row.key,
    title: row.title!,
    instructions: toRichText(row.instructions ?? '') || tool.learnerText,
    points: row.points ?? '0',
    counted,
    categoryId,
    opensAt: toDate(row.opensAt ?? null),
    dueAt: toDate(row.dueAt ?? null),
    closesAt: toDate(row.closesAt ?? null),
    attempts: row.attempts ?? null,
    forEveryone: !row.groups?.length,
    documentTarget: row.documentTarget ?? tool.documentTarget,
    launchUrl: row.launchUrl ?? null,
    customParameters: row.customParameters,
    state: row.publish ? 'published' : 'draft',
    publishedAt: row.publish ? now : null,
  }
}

/** What a row says otherwise; columns that the table does not have leave things as they are. */
function changedBy(
  context: Context,
  before: AssignmentRecord,
  row: AssignmentRow,
  categoryId: string | undefined,
): AssignmentRecord {
  const now = context.clock.now()
  const publish = row.publish === true && before.state === 'draft'
  const next: AssignmentRecord = {
    ...before,
    ...(row.title !== undefined && { title: row.title }),
    ...(row.points != null && { points: row.points }),
    ...(row.counted != null && { counted: row.counted }),
    ...(row.category !== undefined && { categoryId: row.category === null ? null : categoryId! }),
    ...(row.opensAt !== undefined && { opensAt: toDate(row.opensAt) }),
    ...(row.dueAt !== undefined && { dueAt: toDate(row.dueAt) }),
    ...(row.closesAt !== undefined && { closesAt: toDate(row.closesAt) }),
    ...(row.attempts !== undefined && { attempts: row.attempts }),
    ...(row.documentTarget != null && { documentTarget: row.documentTarget }),
    ...(row.launchUrl !== undefined && before.content === null && { launchUrl: row.launchUrl }),
    ...(row.instructions && { instructions: toRichText(row.instructions) }),
    ...(Object.keys(row.customParameters).length > 0 && {
      customParameters: { ...before.customParameters, ...row.customParameters },
    }),
    ...(publish && { state: 'published' as const, publishedAt: now }),
    updatedAt: now,
  }
  return launchesOtherwise(before, next) ? { ...next, settingsChangedAt: now } : next
}

const COMPARED = [
  'title', 'points', 'counted', 'categoryId', 'opensAt', 'dueAt', 'closesAt', 'attempts', 'documentTarget', 'launchUrl', 'instructions', 'customParameters',
  'state',
] as const // oxfmt-ignore

function differencesOf(before: AssignmentRecord, next: AssignmentRecord): TableRow['changes'] {
  return COMPARED.flatMap((field) => {
    const same = field === 'points' ? sameNumber(before.points, next.points) : text(before[field]) === text(next[field])
    return same ? [] : [{ field, now: text(before[field]), wanted: text(next[field]) }]
  })
}

function text(value: unknown): string {
  if (value === null || value === undefined) return ''
  if (value instanceof Date) return value.toISOString()
  return typeof value === 'string' ? value : JSON.stringify(value)
}

/** Units by title, made where there are none yet. */
async function placesFor(context: Context, records: Records, course: CourseRecord, plans: readonly Plan[]) {
  const there = await records.outline.units(course.id)
  const byTitle = new Map(there.map((one) => [one.title.toLowerCase(), one.id]))
  const fresh: ReturnType<typeof newUnit>[] = []
  for (const { unit, act } of plans) {
    if (unit === undefined || act !== 'make' || byTitle.has(unit.toLowerCase())) continue
    // What is published in a unit that learners cannot see is published to nobody.
    const isPublished = plans.some(
      (plan) => plan.unit?.toLowerCase() === unit.toLowerCase() && plan.next?.state === 'published',
    )
    const one = newUnit(context, course.id, unit, isPublished)
    byTitle.set(unit.toLowerCase(), one.id)
    fresh.push(one)
  }
  return { fresh, idOf: (title: string) => byTitle.get(title.toLowerCase())! }
}

function answer(plans: readonly Plan[], unknownColumns: string[], done: boolean): TableAnswer {
  const count = (act: TableRow['act']) => plans.filter((one) => one.act === act).length
  return {
    rows: plans.map(({ row, act, next, before, tool, changes, problems, remarks }) => {
      const one = next ?? before
      return {
        line: row.line,
        key: row.key,
        title: next?.title ?? row.title ?? before?.title ?? '',
        act,
        assignment: one && (before || done) ? { id: one.id, slug: one.slug, title: one.title } : null,
        tool: tool?.slug ?? null,
        points: next?.points ?? row.points ?? null,
        changes,
        problems,
        remarks: withAcceptances(remarks, []),
      }
    }),
    unknownColumns,
    makes: count('make'),
    changes: count('change'),
    keeps: count('keep'),
    refuses: count('refuse'),
    done,
  }
}
