import { Refusal, type NewPicking } from '@bathyscribe/contract'
import type { z } from 'zod'
import type { PickingRecord } from '../../records/entities/content.js'
import type { PickingRow } from '../../records/pickings.js'
import type { Actor, Context, Doer } from '../context.js'
import { bringTool } from '../places/course-tools.js'
import { toolForCourse } from '../places/usable-tool.js'

/** A picking may be answered for this long. */
const OPEN_HOURS = 12

/** Begins a picking: the question is kept, so that whatever comes back has a place. @throws Refusal */
export async function openPicker(
  context: Context,
  actor: Doer,
  courseId: string,
  wanted: z.output<typeof NewPicking>,
): Promise<PickingRow> {
  const { records, ids, clock } = context
  const tool = await toolForCourse(context, courseId, wanted.tool)
  if (!tool.features.includes('picker')) throw new Refusal('picker.none', tool.name)
  const assignment = wanted.assignment === undefined ? null : await records.assignments.byRef(wanted.assignment)
  if (assignment && assignment.courseId !== courseId) throw new Refusal('assignment.not_found', wanted.assignment)
  const now = clock.now()
  const picking: PickingRecord = {
    id: ids.next(),
    courseId,
    registrationId: tool.id,
    personId: actor.id,
    purpose: wanted.purpose,
    assignmentId: assignment?.id ?? null,
    multiple: wanted.multiple,
    state: 'open',
    items: [],
    problems: [],
    said: null,
    code: null,
    wireEntryId: null,
    madeAt: now,
    expiresAt: new Date(now.getTime() + OPEN_HOURS * 3600_000),
    answeredAt: null,
  }
  await records.transaction(async (inside) => {
    await inside.pickings.insert(picking)
    // A picker may read files and groups of the course already: the tool is in it from here on.
    await bringTool(inside, context, actor, { id: courseId }, tool)
  })
  return records.pickings.show(courseId, picking.id, actor.id)
}

/** Gives an open picking up; an answered one stays as it is. */
export async function leavePicking(
  context: Context,
  actor: Pick<Actor, 'id'>,
  courseId: string,
  id: string,
): Promise<void> {
  await context.records.pickings.show(courseId, id, actor.id)
  await context.records.pickings.close(id, { state: 'left' })
}
