import { Refusal, type MenuEntryChange, type NewMenuEntry } from '@bathyscribe/contract'
import type { z } from 'zod'
import { checkAddress } from '../tools/address.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { MenuEntryRecord } from '../../records/entities/tools.js'
import type { MenuRow } from '../../records/menus.js'
import { by, type Actor, type Context } from '../context.js'
import { toolForCourse } from './usable-tool.js'

/** Puts a tool at the end of a course's menu, as its registration says unless told otherwise. @throws Refusal */
export async function addMenuEntry(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof NewMenuEntry>,
): Promise<MenuRow> {
  const { records, ids, clock } = context
  const tool = await toolForCourse(context, course.id, wanted.tool)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const placement = tool.placements.find((one) => one.place === 'course_menu')
  const launchUrl = wanted.launchUrl || placement?.launchUrl || null
  if (launchUrl === null && tool.launchUrl === null) throw new Refusal('launch.no_address')
  const now = clock.now()
  const entry: Omit<MenuEntryRecord, 'position'> = {
    id: ids.next(),
    courseId: course.id,
    registrationId: tool.id,
    label: wanted.label ?? placement?.label ?? tool.name,
    launchUrl,
    customParameters: wanted.customParameters ?? {},
    documentTarget: wanted.documentTarget ?? placement?.target ?? tool.documentTarget,
    audience: wanted.audience ?? placement?.audience ?? 'everyone',
    shown: wanted.shown ?? true,
    resourceLinkId: ids.secret().slice(0, 24),
    revision: 1,
    createdAt: now,
    updatedAt: now,
  }
  await records.transaction(async (inside) => {
    await inside.menus.insert(entry)
    await inside.menus.addTool(course.id, tool.id, actor.id, now)
    await inside.audit.add({
      at: now,
      ...by(actor),
      action: 'add menu entry',
      subject: `menu entry ${entry.label}`,
      courseId: course.id,
      after: { label: entry.label, tool: tool.slug, audience: entry.audience, shown: entry.shown },
    })
  })
  publish(context, course)
  return records.menus.show(course.id, entry.id)
}

/** Renames, hides, shows or changes an entry. Some tools hang permissions on the exact label, so it is kept as typed. @throws Refusal */
export async function changeMenuEntry(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  wanted: z.output<typeof MenuEntryChange>,
): Promise<MenuRow> {
  const { records, clock } = context
  const entry = await records.menus.show(course.id, id)
  const { revision, ...fields } = wanted
  if (fields.launchUrl) checkAddress(fields.launchUrl, 'launchUrl')
  const change = Object.fromEntries(
    Object.entries({ ...fields, ...(fields.launchUrl === '' && { launchUrl: null }) }).filter(
      ([, value]) => value !== undefined,
    ),
  ) as Partial<MenuEntryRecord>
  await records.transaction(async (inside) => {
    await inside.menus.update(id, revision, { ...change, updatedAt: clock.now() })
    await inside.audit.add({
      at: clock.now(),
      ...by(actor),
      action: 'change menu entry',
      subject: `menu entry ${entry.label}`,
      courseId: course.id,
      before: Object.fromEntries(Object.keys(change).map((name) => [name, entry[name as keyof MenuRow]])),
      after: change,
    })
  })
  publish(context, course)
  return records.menus.show(course.id, id)
}

/** Puts all entries of a menu into another order. @throws Refusal `menu.order` when somebody added or removed one meanwhile. */
export async function orderMenu(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  ids: string[],
): Promise<MenuRow[]> {
  await context.records.transaction(async (inside) => {
    await inside.menus.reorder(course.id, ids)
    await inside.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'order menu',
      subject: `menu of ${course.code}`,
      courseId: course.id,
      after: { entries: ids },
    })
  })
  publish(context, course)
  return context.records.menus.list(course.id, true)
}

export async function removeMenuEntry(context: Context, actor: Actor, course: CourseRecord, id: string): Promise<void> {
  const entry = await context.records.menus.show(course.id, id)
  await context.records.transaction(async (inside) => {
    await inside.menus.remove(id)
    await inside.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'remove menu entry',
      subject: `menu entry ${entry.label}`,
      courseId: course.id,
      before: { label: entry.label, tool: entry.tool.slug, audience: entry.audience, shown: entry.shown },
    })
  })
  publish(context, course)
}

function publish(context: Context, course: CourseRecord): void {
  context.changes.publish({ kind: 'menu', courseId: course.id })
}
