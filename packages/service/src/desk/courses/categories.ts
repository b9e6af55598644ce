import { Refusal, type CategoryChange, type GradebookCategory, type NewCategory } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { CategoryRecord, CourseRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import type { Actor, Context } from '../context.js'
import { actInCourse } from './act-in-course.js'

const MOST_CATEGORIES = 50

/** Makes a category at the end. @throws Refusal */
export async function addCategory(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  { name, weight }: z.output<typeof NewCategory>,
): Promise<GradebookCategory> {
  const id = context.ids.next()
  await act(context, actor, course, 'make category', name, async (records, all) => {
    if (all.length >= MOST_CATEGORIES) throw new Refusal('category.too_many')
    refuseTaken(all, name)
    const position = Math.max(0, ...all.map((one) => one.position)) + 1
    await records.courses.insertCategory({ id, courseId: course.id, name, position, weight })
    return { weight }
  })
  return show(context, course, id)
}

/** Renames, weighs or moves a category. @throws Refusal */
export async function changeCategory(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  { name, weight, position }: z.output<typeof CategoryChange>,
): Promise<GradebookCategory> {
  const before = await show(context, course, id)
  await act(context, actor, course, 'change category', before.name, async (records, all) => {
    const others = all.filter((one) => one.id !== id)
    if (name !== undefined) {
      refuseTaken(others, name)
      await records.courses.renameCategory(id, name)
    }
    if (weight !== undefined) await records.courses.setWeight(id, weight)
    if (position !== undefined) {
      const ids = others.map((one) => one.id)
      await records.courses.orderCategories(ids.toSpliced(position - 1, 0, id))
    }
    return { name, weight, position }
  })
  return show(context, course, id)
}

/**
 * Takes a category away. Assignments that stand in it are never left to guess at: it has to be said where they go.
 * @param moveTo identifier of another category, or `none`
 * @throws Refusal
 */
export async function removeCategory(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  moveTo: string | undefined,
): Promise<void> {
  const { name } = await show(context, course, id)
  await act(context, actor, course, 'remove category', name, async (records, all) => {
    const target =
      moveTo === undefined || moveTo === 'none' ? undefined : all.find((one) => one.id === moveTo && one.id !== id)
    if (moveTo !== undefined && moveTo !== 'none' && !target) throw new Refusal('category.not_found', moveTo)
    const moved = await records.courses.removeCategory(id, target?.id ?? null)
    if (moved > 0 && moveTo === undefined) throw new Refusal('category.in_use', `${name}: ${moved}`)
    return { moved, to: target?.name ?? null }
  })
}

/** An act on categories, one at a time in each course, noted and told. */
async function act(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  action: string,
  name: string,
  work: (records: Records, all: readonly CategoryRecord[]) => Promise<object>,
): Promise<void> {
  await actInCourse(
    context,
    { actor, course, kind: 'assignment' },
    action,
    `category ${name}`,
    async (records) => work(records, await records.courses.holdCategories(course.id)),
    (after) => after,
  )
}

async function show({ records }: Context, course: CourseRecord, id: string): Promise<GradebookCategory> {
  const found = (await records.courses.categoriesInUse(course.id)).find((one) => one.id === id)
  if (!found) throw new Refusal('category.not_found', id)
  return found
}

function refuseTaken(others: readonly CategoryRecord[], name: string): void {
  if (others.some((one) => one.name.toLowerCase() === name.toLowerCase()))
    throw new Refusal('category.name_taken', name)
}
