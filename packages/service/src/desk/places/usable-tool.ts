import { Refusal } from '@bathyscribe/contract'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { isHiddenFrom } from '../identity/access.js'
import type { Context } from '../context.js'

/** A tool that a course may hear of: its own, or one of the institution that was approved. @throws Refusal `tool.not_found` also for one that is another course’s */
export async function toolKnownTo(
  { records }: Pick<Context, 'records'>,
  courseId: string,
  ref: string,
): Promise<RegistrationRecord> {
  const tool = await records.tools.byRef(ref)
  if (isHiddenFrom(tool, [courseId])) throw new Refusal('tool.not_found', ref)
  return tool
}

/** A tool that a course may use: its own, or one of the institution that is offered to it. @throws Refusal */
export async function toolForCourse(
  context: Pick<Context, 'records'>,
  courseId: string,
  ref: string,
): Promise<RegistrationRecord> {
  const tool = await toolKnownTo(context, courseId, ref)
  if (tool.state === 'deleted') throw new Refusal('tool.not_found', ref)
  if (tool.state === 'retired') throw new Refusal('tool.retired', tool.slug)
  if (!(await context.records.tools.isUsableIn(tool.id, courseId))) throw new Refusal('tool.not_offered', tool.name)
  if (tool.keysPerCourse && tool.courseId === null) throw new Refusal('tool.needs_own_keys', tool.name)
  return tool
}
