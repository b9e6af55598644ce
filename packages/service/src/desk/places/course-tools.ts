import { Refusal, type NewCourseTool } from '@bathyscribe/contract'
import type { z } from 'zod'
import { nameTaken, sealed, storeNew } from '../tools/registration.js'
import { checkCredentials } from '../tools/fields.js'
import { freeToolSlug } from '../tools/tool-slug.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { RecordsInside } from '../../records/index.js'
import type { MenuRow } from '../../records/menus.js'
import { isAdministrator } from '../identity/access.js'
import { act, by, type Act, type Actor, type Context, type Doer } from '../context.js'
import { addMenuEntry } from './menu.js'
import { toolForCourse, toolKnownTo } from './usable-tool.js'

/**
 * Adds a tool of the catalogue to a course: in one act where the institution holds the keys; with the course's own pair where the tool issues
 * them per course, as a registration of the course made by the institution's pattern. @throws Refusal
 */
export async function addCourseTool(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof NewCourseTool>,
): Promise<{ tool: RegistrationRecord; menuEntry: MenuRow | null }> {
  const { records, changes } = context
  const offered = await toolKnownTo(context, course.id, wanted.tool)
  const tool =
    offered.keysPerCourse && offered.courseId === null
      ? await registerOwn(context, actor, course, offered, wanted)
      : await toolForCourse(context, course.id, wanted.tool)
  await records.transaction((inside) => bringTool(inside, context, actor, course, tool))
  const inMenu = wanted.menu ?? tool.placements.some((one) => one.place === 'course_menu')
  const there = (await records.menus.list(course.id, true)).some((entry) => entry.registrationId === tool.id)
  const menuEntry = inMenu && !there ? await addMenuEntry(context, actor, course, { tool: tool.id }) : null
  changes.publish({ kind: 'tool', courseId: course.id })
  return { tool, menuEntry }
}

/** Notes that a course has a tool from now on, unless it had it before. */
export async function bringTool(
  { menus, audit }: RecordsInside,
  context: Context,
  actor: Doer,
  course: Pick<CourseRecord, 'id'>,
  tool: RegistrationRecord,
): Promise<void> {
  const at = context.clock.now()
  if (!(await menus.addTool(course.id, tool.id, actor.id, at))) return
  const { doer, ...named } = courseAct(actor, course, tool, 'add tool to course')
  await audit.add({ at, ...by(doer), ...named })
}

async function registerOwn(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  template: RegistrationRecord,
  wanted: z.output<typeof NewCourseTool>,
): Promise<RegistrationRecord> {
  const { records, ids, clock } = context
  if (!(await records.tools.isUsableIn(template.id, course.id))) throw new Refusal('tool.not_offered', template.name)
  if (!wanted.consumerKey || !wanted.sharedSecret) throw new Refusal('tool.needs_own_keys', template.name)
  checkCredentials(wanted)
  const now = clock.now()
  const id = ids.next()
  const tool: RegistrationRecord = {
    ...template,
    id,
    slug: await freeToolSlug(records, `${template.name} ${course.code}`),
    courseId: course.id,
    state: !isAdministrator(actor) && context.settings.courseTools === 'approval' ? 'waiting' : 'enabled',
    consumerKey: wanted.consumerKey,
    ...sealed(context, id, wanted.sharedSecret, now),
    offer: 'all',
    keysPerCourse: false,
    templateId: template.id,
    managementHash: null,
    note: '',
    revision: 1,
    createdAt: now,
    updatedAt: now,
  }
  await records.transaction((inside) => storeNew(inside, context, actor, tool, [])).catch(nameTaken(tool))
  return tool
}

/** Takes a tool out of a course that does not use it. @throws Refusal `tool.in_use` */
export async function removeCourseTool(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  ref: string,
): Promise<void> {
  const tool = await toolKnownTo(context, course.id, ref)
  const used = await context.records.menus.usedIn(course.id, tool.id)
  const links = used.published + used.drafts + used.entries
  if (links > 0) throw new Refusal('tool.in_use', `${links} links`)
  await act(context, courseAct(actor, course, tool, 'remove tool from course'), ({ menus }) =>
    menus.removeTool(course.id, tool.id),
  )
  context.changes.publish({ kind: 'tool', courseId: course.id })
}

/** Lets the first entry be made again: a class that was untied at the tool's end has to be tied anew. */
export async function forgetFirstEntry(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  ref: string,
): Promise<void> {
  const tool = await toolKnownTo(context, course.id, ref)
  await act(context, courseAct(actor, course, tool, 'forget first entry'), ({ menus }) =>
    menus.forgetEntries(course.id, tool.id),
  )
  context.changes.publish({ kind: 'menu', courseId: course.id })
}

/** What a course does with a tool, as the audit names it. */
function courseAct(doer: Doer, course: Pick<CourseRecord, 'id'>, tool: RegistrationRecord, action: string): Act {
  return { doer, action, subject: `tool ${tool.slug}`, courseId: course.id }
}
