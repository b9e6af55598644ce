import { Problem } from '@bathyscribe/core/result'
import { Refusal, type GroupChange, type NewGroupSet } from '@bathyscribe/contract'
import { readTable } from '@bathyscribe/core/formats'
import { divideAtRandom } from '@bathyscribe/core/groups'
import { plainLine } from '@bathyscribe/core/content'
import { entryOf } from '@bathyscribe/core/text'
import type { z } from 'zod'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { GroupSetRow } from '../../records/groups.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { Records } from '../../records/index.js'
import { actInCourse } from '../courses/act-in-course.js'
import type { Actor, Context } from '../context.js'

interface Draft {
  id: string
  name: string
  members: string[]
}

/** Makes a set of groups: empty, divided at random, or as a table has it. @throws Refusal */
export async function addGroupSet(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  wanted: z.output<typeof NewGroupSet>,
): Promise<GroupSetRow> {
  const { ids, clock, records } = context
  const id = ids.next()
  const learners =
    wanted.groups !== undefined || wanted.table !== undefined ? await records.people.ofRole(course.id, ['learner']) : []
  const groups =
    wanted.table !== undefined
      ? fromTable(context, learners, wanted.table)
      : wanted.groups !== undefined
        ? divideAtRandom(
            learners.map((one) => one.id),
            wanted.groups,
            () => chance(ids.secret()),
          ).map((members, i) => ({ id: ids.next(), name: `Group ${i + 1}`, members }))
        : []
  await actInCourse(
    context,
    { actor, course, kind: 'groups' },
    'add group set',
    `group set ${wanted.name}`,
    async (inside) => {
      await inside.groups.addSet({ id, courseId: course.id, name: wanted.name, at: clock.now() })
      if (groups.length > 0) await inside.groups.addGroups(id, groups)
    },
  )
  return records.groups.set(course.id, id)
}

/** A number from 0 up to 1 out of 32 bits of chance. */
function chance(secret: string): number {
  return Buffer.from(secret, 'base64url').readUInt32BE(0) / 2 ** 32
}

const COLUMNS: Record<string, string> = {
  group: 'group',
  team: 'group',
  person: 'person',
  username: 'person',
  'user name': 'person',
  email: 'person',
  learner: 'person',
}

function fromTable({ ids }: Context, learners: readonly PersonRecord[], text: string): Draft[] {
  const table = readTable(text, (head) => entryOf(COLUMNS, head.trim().toLowerCase()))
  if (table instanceof Problem) throw Refusal.of(table)
  if (!table.columns.includes('group') || !table.columns.includes('person'))
    throw new Refusal('table.no_head', 'group and person are needed')
  const byName = new Map(
    learners.flatMap((person) =>
      [person.username, person.email, person.id, person.sourcedId]
        .filter(Boolean)
        .map((name) => [String(name).toLowerCase(), person.id]),
    ),
  )
  const groups = new Map<string, Draft>()
  const faults: { path: string; message: string }[] = []
  const placed = new Set<string>()
  for (const { line, cells } of table.rows) {
    const [name, who] = [plainLine(cells['group'], 100), plainLine(cells['person'], 254)]
    const person = byName.get(who.toLowerCase())
    if (name === '') faults.push({ path: `line ${line}, group`, message: 'is empty' })
    else if (person === undefined)
      faults.push({ path: `line ${line}, person`, message: `“${who}” is no learner of the course` })
    else if (placed.has(person))
      faults.push({ path: `line ${line}, person`, message: `“${who}” is in a group of this table already` })
    else {
      placed.add(person)
      const group = groups.get(name.toLowerCase()) ?? { id: ids.next(), name, members: [] }
      group.members.push(person)
      groups.set(name.toLowerCase(), group)
    }
  }
  if (faults.length > 0)
    throw new Refusal('table.rows_wrong', `${faults.length} of ${table.rows.length}`, faults.slice(0, 200))
  return [...groups.values()]
}

export async function addGroup(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  setId: string,
  name: string,
): Promise<GroupSetRow> {
  const set = await context.records.groups.set(course.id, setId)
  await actInCourse(context, { actor, course, kind: 'groups' }, 'add group', `group ${set.name}: ${name}`, (records) =>
    records.groups.addGroups(setId, [{ id: context.ids.next(), name, members: [] }]),
  )
  return context.records.groups.set(course.id, setId)
}

/** Renames a group or says who is in it; somebody who was in another group of the set moves. @throws Refusal */
export async function changeGroup(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  wanted: z.output<typeof GroupChange>,
): Promise<GroupSetRow> {
  const { records } = context
  const group = await groupOf(records, course.id, id)
  const people = wanted.members && (await learnersOf(records, course.id, wanted.members))
  await actInCourse(
    context,
    { actor, course, kind: 'groups' },
    'change group',
    `group ${group.setName}: ${group.name}`,
    async (inside) => {
      if (wanted.name !== undefined) await inside.groups.rename(id, wanted.name)
      if (people) await inside.groups.setMembers(id, people)
    },
  )
  return records.groups.set(course.id, group.setId)
}

async function learnersOf(records: Records, courseId: string, refs: readonly string[]): Promise<string[]> {
  const learners = await records.people.ofRole(courseId, ['learner'])
  return [...new Set(refs)].map((ref) => {
    const found = learners.find((person) => person.id === ref || person.username === ref.toLowerCase())
    if (!found) throw new Refusal('group.not_a_learner', ref)
    return found.id
  })
}

async function groupOf(records: Records, courseId: string, id: string) {
  const group = (await records.groups.list(courseId)).find((one) => one.id === id)
  if (!group) throw new Refusal('group.not_found', id)
  return group
}

/** @throws Refusal `group.in_use` when assignments are released to one of its groups */
export async function removeGroupSet(context: Context, actor: Actor, course: CourseRecord, id: string): Promise<void> {
  const set = await context.records.groups.set(course.id, id)
  await requireUnused(
    context.records,
    set.groups.map((one) => one.id),
  )
  await actInCourse(
    context,
    { actor, course, kind: 'groups' },
    'remove group set',
    `group set ${set.name}`,
    (records) => records.groups.removeSet(id),
  )
}

export async function removeGroup(context: Context, actor: Actor, course: CourseRecord, id: string): Promise<void> {
  const group = await groupOf(context.records, course.id, id)
  await requireUnused(context.records, [id])
  await actInCourse(
    context,
    { actor, course, kind: 'groups' },
    'remove group',
    `group ${group.setName}: ${group.name}`,
    (records) => records.groups.removeGroup(id),
  )
}

async function requireUnused(records: Records, ids: readonly string[]): Promise<void> {
  const uses = await records.groups.uses(ids)
  if (uses > 0) throw new Refusal('group.in_use', `${uses} assignments`)
}
