import { Refusal } from '@bathyscribe/contract'
import { teaches, type CourseRole } from '@bathyscribe/core/identity'
import type { Records } from '../../records/index.js'
import type { ToolScope } from '../../records/tools.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Actor } from '../context.js'

/** Whom something is shown to, as far as it depends on that. */
export type Seer = Pick<Actor, 'id' | 'siteRole'>

export function isAdministrator(actor: Pick<Actor, 'siteRole'>): boolean {
  return actor.siteRole === 'administrator'
}

/** The courses an actor teaches; null for administrators, who may see all. */
export async function taughtCourses(records: Records, actor: Seer): Promise<string[] | null> {
  if (isAdministrator(actor)) return null
  return (await records.people.rolesOf(actor.id)).filter(({ role }) => teaches(role)).map(({ courseId }) => courseId)
}

/** Whether something of a course may be shown to who teaches these; of no course it is shown to administrators only. */
export function isTaught(taught: readonly string[] | null, courseId: string | null): boolean {
  return taught === null || (courseId !== null && taught.includes(courseId))
}

/** The course that a question names, of those that are taught. What somebody does not teach is not told apart from what is not there. @throws Refusal */
export async function taughtCourse(
  records: Records,
  taught: readonly string[] | null,
  ref: string | undefined,
): Promise<string | undefined> {
  if (ref === undefined) return undefined
  const { id } = await records.courses.byRef(ref)
  if (!isTaught(taught, id)) throw new Refusal('course.not_found', ref)
  return id
}

/** The same of an assignment. @throws Refusal */
export async function taughtAssignment(
  records: Records,
  taught: readonly string[] | null,
  ref: string | undefined,
): Promise<string | undefined> {
  if (ref === undefined) return undefined
  const { id, courseId } = await records.assignments.byRef(ref)
  if (!isTaught(taught, courseId)) throw new Refusal('assignment.not_found', ref)
  return id
}

/** The active role of an actor in a course. */
export async function roleIn(records: Records, actor: Actor, courseId: string): Promise<CourseRole | undefined> {
  const enrolment = await records.people.enrolment(courseId, actor.id)
  return enrolment?.state === 'active' ? enrolment.role : undefined
}

/** Refuses anybody who does not teach, for pages that only show what teachers may see. */
export async function requireTeaching(records: Records, actor: Seer): Promise<string[] | null> {
  const taught = await taughtCourses(records, actor)
  if (taught !== null && taught.length === 0) throw new Refusal('access.denied')
  return taught
}

export async function toolScope(records: Records, actor: Seer): Promise<ToolScope> {
  const taught = await requireTeaching(records, actor)
  return { seesAll: taught === null, courseIds: taught ?? [] }
}

/** A tool that the actor may see. @throws Refusal `tool.not_found` also for one that exists but is not to be seen. */
export async function visibleTool(records: Records, actor: Seer, ref: string): Promise<RegistrationRecord> {
  const [scope, tool] = [await toolScope(records, actor), await records.tools.byRef(ref)]
  if (!scope.seesAll && isHiddenFrom(tool, scope.courseIds)) throw new Refusal('tool.not_found', ref)
  return tool
}

/** Whether courses may not even hear of a tool: it belongs to another one, or to the institution, where nobody has approved it yet. */
export function isHiddenFrom({ courseId, state }: RegistrationRecord, courseIds: readonly string[]): boolean {
  return courseId === null ? state === 'waiting' || state === 'deleted' : !courseIds.includes(courseId)
}

/** A tool that the actor may change: administrators any, instructors those of their own course. */
export async function ownTool(records: Records, actor: Actor, ref: string): Promise<RegistrationRecord> {
  const tool = await visibleTool(records, actor, ref)
  if (isAdministrator(actor)) return tool
  if (tool.courseId === null || (await roleIn(records, actor, tool.courseId)) !== 'instructor')
    throw new Refusal('access.denied')
  return tool
}
