import { Refusal, type NewAssignment, type PreflightAnswer, type PreflightQuestion } from '@bathyscribe/contract'
import type { PreflightRemark } from '@bathyscribe/core/checks'
import { differences } from '@bathyscribe/core/content'
import type { z } from 'zod'
import { violatedKey } from '../../records/database.js'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Records } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { toDate } from '../moments.js'
import { unitItem } from '../outline/unit-item.js'
import { toolForCourse } from '../places/usable-tool.js'
import { contentOf, pickedToolLink } from '../pickers/picked.js'
import { toRichText } from '../rich-text.js'
import { freeSlug, slugOf } from '../slug.js'
import { checkAddress } from '../tools/register-tool.js'
import { audienceFacts, resolveAudience, type AudienceIds } from './audience.js'
import { reviewFields } from './review-fields.js'
import { Surroundings } from './surroundings.js'

/** Makes an assignment; with `publish` only if preflight finds nothing broken, otherwise not at all. @throws Refusal */
export async function makeAssignment(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: z.output<typeof NewAssignment>,
): Promise<AssignmentRecord> {
  const { records, clock } = context
  const tool = await toolForCourse(context, courseId, wanted.tool)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const category = wanted.category === null ? null : await records.courses.category(courseId, wanted.category)
  const audience = wanted.audience && (await resolveAudience(records, courseId, wanted.audience))
  const unit = wanted.unit === null ? null : await records.outline.unit(courseId, wanted.unit)
  const content = wanted.content && (await pickedToolLink(context, actor, courseId, tool.id, wanted.content))
  const now = clock.now()
  const start = slugOf(wanted.title, 'assignment')
  const assignment: AssignmentRecord = {
    ...newAssignment(context, courseId, tool, now),
    slug: freeSlug(start, await records.assignments.slugsLike(courseId, start)),
    title: wanted.title,
    instructions: toRichText(wanted.instructions),
    points: wanted.points,
    counted: wanted.counted,
    counting: wanted.counting,
    released: wanted.released,
    categoryId: category?.id ?? null,
    opensAt: toDate(wanted.opensAt),
    dueAt: toDate(wanted.dueAt),
    closesAt: toDate(wanted.closesAt),
    attempts: wanted.attempts,
    forEveryone: audience === null,
    state: wanted.publish ? 'published' : 'draft',
    publishedAt: wanted.publish ? now : null,
    documentTarget: wanted.documentTarget ?? tool.documentTarget,
    launchUrl: content ? content.url : wanted.launchUrl || null,
    customParameters: content ? content.custom : wanted.customParameters,
    ...contentOf(content ?? null),
    contentToolId: content ? tool.id : null,
  }
  if (wanted.publish) {
    const around = await Surroundings.read(context, records, courseId, [tool.id])
    requirePreflight(
      around.remarks({
        ...assignment,
        id: undefined,
        unit,
        audience: audience && (await audienceFacts(records, courseId, audience)),
      }),
    )
  }
  await records
    .transaction(async (inside) => {
      await inside.assignments.insert(assignment)
      await placeNew(inside, context, [assignment], unit?.id ?? null)
      if (audience) await inside.assignments.setAudiences([{ assignmentId: assignment.id, ...audience }])
      await inside.menus.addTool(courseId, tool.id, actor.id, now)
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'make assignment',
        subject: `assignment ${assignment.slug}`,
        courseId,
        after: { title: assignment.title, tool: tool.slug, points: assignment.points, state: assignment.state },
      })
    })
    .catch(slugTaken(assignment.slug))
  context.changes.publish({ kind: 'assignment', courseId, assignmentId: assignment.id })
  return assignment
}

/** Two people at once may take the same short name; the second one is told. */
export function slugTaken(slug: string): (error: unknown) => never {
  return (error) => {
    const key = violatedKey(error)
    if (key === undefined) throw error
    throw key === 'assignment_by_row_key'
      ? new Refusal('assignment.row_taken', slug)
      : new Refusal('assignment.slug_taken', slug)
  }
}

/** Puts new assignments at the end of a unit. */
export async function placeNew(
  inside: Records,
  context: Context,
  assignments: readonly AssignmentRecord[],
  unitId: string | null,
): Promise<void> {
  if (unitId === null) return
  await inside.outline.addItems(
    assignments[0]!.courseId,
    assignments.map((one) =>
      unitItem(context, { courseId: one.courseId, unitId, kind: 'assignment', assignmentId: one.id }),
    ),
  )
}

/** An assignment of nothing but defaults, on a tool. */
export function newAssignment(
  context: Pick<Context, 'ids'>,
  courseId: string,
  tool: Pick<RegistrationRecord, 'id' | 'documentTarget'>,
  now: Date,
): AssignmentRecord {
  return {
    id: context.ids.next(),
    courseId,
    registrationId: tool.id,
    slug: '',
    title: '',
    instructions: '',
    points: '0',
    counted: true,
    categoryId: null,
    opensAt: null,
    dueAt: null,
    closesAt: null,
    attempts: null,
    counting: 'latest',
    mergedInto: null,
    tiedTo: null,
    saidResourceId: null,
    saidTag: null,
    released: true,
    ...reviewFields(null),
    forEveryone: true,
    state: 'draft',
    stateBefore: null,
    deletedAt: null,
    documentTarget: tool.documentTarget,
    launchUrl: null,
    customParameters: {},
    content: null,
    contentToolId: null,
    rowKey: null,
    resourceLinkId: context.ids.secret().slice(0, 24),
    revision: 1,
    position: 0,
    publishedAt: null,
    createdAt: now,
    updatedAt: now,
    settingsChangedAt: now,
  }
}

/** What a launch depends on. */
const LAUNCH_SETTINGS = ['registrationId', 'launchUrl', 'customParameters', 'documentTarget'] as const

/** Whether it is launched otherwise than before: then an old failure says nothing any more. */
export function launchesOtherwise(before: AssignmentRecord, next: AssignmentRecord): boolean {
  return LAUNCH_SETTINGS.some((name) => JSON.stringify(next[name]) !== JSON.stringify(before[name]))
}

/** @throws Refusal that lists every remark that stops publishing. */
export function requirePreflight(remarks: readonly PreflightRemark[]): void {
  const broken = remarks.filter((remark) => remark.verdict === 'fail')
  if (broken.length > 0)
    throw new Refusal(
      'assignment.preflight',
      broken.map((remark) => remark.statement).join(' '),
      broken.map((remark) => ({ path: remark.rule, message: `${remark.statement} ${remark.remedy}` })),
    )
}

/** Rules that cannot be judged before a tool is chosen. */
const OF_TOOL = new Set(['content', 'address', 'target', 'tool'])

/** Preflight of what is being typed, in whatever order it is filled in. */
export async function preflightQuestion(
  context: Context,
  actor: Actor,
  courseId: string,
  asked: z.output<typeof PreflightQuestion>,
): Promise<z.output<typeof PreflightAnswer>> {
  const { records } = context
  const tool = asked.tool ? await toolForCourse(context, courseId, asked.tool) : null
  const content = tool && asked.content ? await pickedToolLink(context, actor, courseId, null, asked.content) : null
  const existing = asked.assignment === undefined ? null : await records.assignments.byRef(asked.assignment)
  const mine = existing?.courseId === courseId ? existing : null
  const offered = content ?? (mine && asked.content === undefined ? mine.content : null)
  const audience: AudienceIds | null = asked.audience ? await resolveAudience(records, courseId, asked.audience) : null
  const launchUrl = content ? content.url : asked.launchUrl || null
  const around = await Surroundings.read(context, records, courseId, tool ? [tool.id] : [])
  const typed = {
    title: asked.title ?? '',
    points: asked.points ?? '0',
    counted: asked.counted ?? true,
    opensAt: toDate(asked.opensAt ?? null),
    dueAt: toDate(asked.dueAt ?? null),
    closesAt: toDate(asked.closesAt ?? null),
    documentTarget: asked.documentTarget ?? tool?.documentTarget ?? 'frame',
  }
  const remarks = around.remarks({
    ...typed,
    id: mine?.id,
    state: mine?.state ?? (asked.publish ? 'published' : 'draft'),
    categoryId: asked.category ?? null,
    launchUrl,
    customParameters: content ? content.custom : (asked.customParameters ?? {}),
    instructions: asked.instructions ?? '',
    content: offered,
    contentToolId: content ? content.registrationId : (mine?.contentToolId ?? null),
    registrationId: tool?.id ?? '',
    unit: asked.unit ? await records.outline.unit(courseId, asked.unit) : null,
    audience: audience && (await audienceFacts(records, courseId, audience)),
  })
  return {
    remarks: (tool ? remarks : remarks.filter((remark) => !OF_TOOL.has(remark.field))).map((one) => ({
      ...one,
      accepted: null,
    })),
    effectiveLaunchUrl: launchUrl ?? tool?.launchUrl ?? null,
    differences: offered
      ? differences(
          {
            ...typed,
            points: asked.points ?? '',
            opensAt: asked.opensAt ?? null,
            dueAt: asked.dueAt ?? null,
            closesAt: asked.closesAt ?? null,
          },
          offered,
        )
      : [],
  }
}
