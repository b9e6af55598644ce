import { Refusal } from '@bathyscribe/contract'
import type { WireDetailRow } from '../../records/wire.js'
import type { Actor, Context } from '../context.js'
import { isTaught, requireTeaching } from '../identity/access.js'

/** An entry that the actor may see, and the courses that they teach. @throws Refusal `wire.not_found` also for one that exists but is not to be seen */
export async function visibleEntry(
  { records }: Pick<Context, 'records'>,
  actor: Actor,
  id: string,
): Promise<{ entry: WireDetailRow; courses: string[] | null }> {
  const courses = await requireTeaching(records, actor)
  const entry = await records.wire.show(id)
  if (!isTaught(courses, entry.courseId)) throw new Refusal('wire.not_found', id)
  return { entry, courses }
}
