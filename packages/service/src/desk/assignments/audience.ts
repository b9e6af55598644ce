import { Refusal } from '@bathyscribe/contract'
import type { PreflightFacts } from '@bathyscribe/core/checks'
import type { Records } from '../../records/index.js'

/** Whom an assignment is for, by identifiers. */
export interface AudienceIds {
  groups: string[]
  people: string[]
}

/** Groups by identifier, by `Set: Group`, or by a name that only one of them has; people by identifier or user name. @throws Refusal */
export async function resolveAudience(
  records: Records,
  courseId: string,
  wanted: { groups: readonly string[]; people: readonly string[] },
): Promise<AudienceIds> {
  const all = wanted.groups.length > 0 ? await records.groups.list(courseId) : []
  const groups = wanted.groups.map((ref) => {
    const exact = all.filter((one) => one.id === ref || `${one.setName}: ${one.name}` === ref)
    const found = exact.length > 0 ? exact : all.filter((one) => one.name.toLowerCase() === ref.toLowerCase())
    if (found.length !== 1)
      throw new Refusal('group.not_found', found.length > 1 ? `“${ref}” is the name of several` : `“${ref}”`)
    return found[0]!.id
  })
  const people: string[] = []
  for (const ref of wanted.people) {
    const person = await records.people.byRef(ref)
    const enrolment = person && (await records.people.enrolment(courseId, person.id))
    if (!person || enrolment?.role !== 'learner') throw new Refusal('group.not_a_learner', ref)
    people.push(person.id)
  }
  return { groups: [...new Set(groups)], people: [...new Set(people)] }
}

/** The same as preflight looks at it. */
export async function audienceFacts(
  records: Records,
  courseId: string,
  ids: AudienceIds,
): Promise<NonNullable<PreflightFacts['audience']>> {
  const sets = await records.groups.sets(courseId)
  const chosen = sets.flatMap((set) =>
    set.groups
      .filter((one) => ids.groups.includes(one.id))
      .map((one) => ({ name: `${set.name}: ${one.name}`, members: one.members })),
  )
  const reached = new Set([...ids.people, ...chosen.flatMap((one) => one.members.map((person) => person.id))])
  return {
    groups: chosen.map((one) => ({ name: one.name, members: one.members.length })),
    people: ids.people.length,
    reached: reached.size,
  }
}
