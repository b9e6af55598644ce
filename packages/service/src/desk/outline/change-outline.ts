import type { NewUnit, OutlineOrder, UnitChange, WelcomeChange } from '@bathyscribe/contract'
import { toRichText } from '@bathyscribe/core/rich-text'
import type { z } from 'zod'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { UnitRecord } from '../../records/entities/content.js'
import { actInCourse } from '../courses/act-in-course.js'
import type { RecordsInside } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'

/** Makes a unit at the end of the outline. @throws Refusal when the title is taken */
export async function addUnit(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof NewUnit>,
): Promise<Omit<UnitRecord, 'position'>> {
  const unit = newUnit(context, course.id, wanted.title, wanted.published)
  await actInCourse(context, { actor, course, kind: 'outline' }, 'add unit', `unit ${unit.title}`, (records) =>
    records.outline.addUnits(course.id, [unit]),
  )
  return unit
}

export function newUnit(
  { ids, clock }: Pick<Context, 'ids' | 'clock'>,
  courseId: string,
  title: string,
  published: boolean,
): Omit<UnitRecord, 'position'> {
  const now = clock.now()
  return { id: ids.next(), courseId, title, published, revision: 1, createdAt: now, updatedAt: now }
}

/** Renames, publishes or hides a unit. Its assignments keep their own state: publishing one is an act of its own. @throws Refusal */
export async function changeUnit(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  wanted: z.output<typeof UnitChange>,
): Promise<void> {
  const unit = await context.records.outline.unit(course.id, id)
  const { revision, title, published, withItems } = wanted
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'change unit',
    `unit ${unit.title}`,
    async (records) => {
      const change = { ...(title !== undefined && { title }), ...(published !== undefined && { published }) }
      await records.outline.updateUnit(id, revision, { ...change, updatedAt: context.clock.now() })
      if (published !== undefined && withItems) await records.outline.setPublished(id, published)
    },
  )
}

/** Publishes the unit that something published stands in. Nothing is done, and nothing noted, where it is published already. */
export async function publishUnitOf(
  records: RecordsInside,
  { clock }: Pick<Context, 'clock'>,
  actor: Actor,
  { courseId, unitId }: { courseId: string; unitId: string },
): Promise<void> {
  const unit = await records.outline.unit(courseId, unitId)
  if (unit.published) return
  const now = clock.now()
  await records.outline.updateUnit(unit.id, unit.revision, { published: true, updatedAt: now })
  await records.audit.add({
    at: now,
    ...by(actor),
    action: 'change unit',
    subject: `unit ${unit.title}`,
    courseId,
    after: { published: true },
  })
}

export async function removeUnit(context: Context, actor: Actor, course: CourseRecord, id: string): Promise<void> {
  const unit = await context.records.outline.unit(course.id, id)
  await actInCourse(context, { actor, course, kind: 'outline' }, 'remove unit', `unit ${unit.title}`, (records) =>
    records.outline.removeUnit(id),
  )
}

/** Puts units and items into another order. @throws Refusal `unit.order` when somebody added or removed something meanwhile */
export async function orderOutline(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof OutlineOrder>,
): Promise<void> {
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'order outline',
    `outline of ${course.code}`,
    (records) => records.outline.reorder(course.id, wanted.units),
  )
}

export async function changeWelcome(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof WelcomeChange>,
): Promise<CourseRecord> {
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'change welcome page',
    `course ${course.code}`,
    (records) => records.courses.setWelcome(course.id, wanted.revision, toRichText(wanted.welcome)),
  )
  return context.records.courses.byRef(course.id)
}
