import { Refusal, type CoursePreflight, type PreflightRemark as Remark } from '@bathyscribe/contract'
import { PREFLIGHT_RULES, type PreflightRemark } from '@bathyscribe/core/checks'
import { freeSlug, slugOf } from '@bathyscribe/core/text'
import { newAssignment, placeNew, slugTaken } from './assignment.js'
import type { AssignmentSummary } from '../../records/assignment-summary.js'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { audienceOf } from './change.js'
import { Surroundings, withAcceptances } from './surroundings.js'

/** What preflight says of every assignment of a course: a constant number of queries. */
export async function preflightCourse(context: Context, course: CourseRecord): Promise<CoursePreflight> {
  const { records } = context
  const summaries = await records.assignments.summariesOfCourse(course.id)
  const around = await Surroundings.read(context, records, course.id)
  const accepted = await records.preflight.acceptances(summaries.map((one) => one.id))
  return {
    items: summaries.map((one) => ({
      id: one.id,
      slug: one.slug,
      title: one.title,
      tool: one.tool,
      state: one.state as 'draft' | 'published',
      remarks: withAcceptances(
        around.remarks({ ...one, audience: audienceOf(one) }),
        accepted.filter((each) => each.assignmentId === one.id),
      ),
    })),
    evaluated: summaries.length * PREFLIGHT_RULES.length,
  }
}

/** What preflight says of one assignment now. */
export async function remarksOfAssignment(context: Context, id: string): Promise<Remark[]> {
  return remarksOfSummary(context, await context.records.assignments.summary(id))
}

/** The same of one that was just read. */
export async function remarksOfSummary(context: Context, one: AssignmentSummary): Promise<Remark[]> {
  const { records } = context
  const remarks = await remarksOf(context, records, one)
  return withAcceptances(remarks, remarks.length === 0 ? [] : await records.preflight.acceptances([one.id]))
}

/** The same, whoever let what stand. */
export async function remarksNow(
  context: Pick<Context, 'settings' | 'clock'>,
  records: Records,
  id: string,
): Promise<PreflightRemark[]> {
  return remarksOf(context, records, await records.assignments.summary(id))
}

async function remarksOf(
  context: Pick<Context, 'settings' | 'clock'>,
  records: Records,
  one: AssignmentSummary,
): Promise<PreflightRemark[]> {
  return Surroundings.remarksOn(context, records, one.courseId, { ...one, audience: audienceOf(one) })
}

/** Lets a warning stand, with a reason. It counts as long as the rule finds the same. @throws Refusal for what is no warning now */
export async function acceptWarning(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  wanted: { rule: string; reason: string },
): Promise<void> {
  const remark = (await remarksOfAssignment(context, assignment.id)).find((one) => one.rule === wanted.rule)
  if (remark?.verdict !== 'warn') throw new Refusal('assignment.not_accepted', wanted.rule)
  const now = context.clock.now()
  await context.records.transaction(async (records) => {
    await records.preflight.accept({
      assignmentId: assignment.id,
      rule: remark.rule,
      facts: remark.facts,
      reason: wanted.reason,
      personId: actor.id,
      at: now,
    })
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'accept preflight warning',
      subject: `assignment ${assignment.slug}`,
      courseId: assignment.courseId,
      after: { rule: remark.rule, reason: wanted.reason },
    })
  })
  context.changes.publish({ kind: 'assignment', courseId: assignment.courseId, assignmentId: assignment.id })
}

/** Copies an assignment as a draft in the same unit: with content and settings, with a link and a column of its own, without scores. */
export async function copyAssignment(context: Context, actor: Actor, original: AssignmentRecord): Promise<string> {
  const { records, clock } = context
  const now = clock.now()
  const title = `${original.title.slice(0, 190)} (copy)`
  const start = slugOf(title, 'assignment')
  const fresh = newAssignment(
    context,
    original.courseId,
    { id: original.registrationId, documentTarget: original.documentTarget },
    now,
  )
  const copy: AssignmentRecord = {
    ...original,
    ...{
      id: fresh.id,
      resourceLinkId: fresh.resourceLinkId,
      revision: 1,
      createdAt: now,
      updatedAt: now,
      settingsChangedAt: now,
    },
    title,
    slug: freeSlug(start, await records.assignments.slugsLike(original.courseId, start)),
    rowKey: null,
    state: 'draft',
    publishedAt: null,
  }
  const place = await records.outline.ofAssignment(original.id)
  const { audience } = await records.assignments.summary(original.id)
  await records
    .transaction(async (inside) => {
      await inside.assignments.insert(copy)
      await placeNew(inside, context, [copy], place?.unitId ?? null)
      if (audience)
        await inside.assignments.setAudiences([
          {
            assignmentId: copy.id,
            groups: audience.groups.map((one) => one.id),
            people: audience.people.map((one) => one.id),
          },
        ])
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'copy assignment',
        subject: `assignment ${copy.slug}`,
        courseId: original.courseId,
        after: { from: original.slug },
      })
    })
    .catch(slugTaken(copy.slug))
  context.changes.publish({ kind: 'assignment', courseId: original.courseId, assignmentId: copy.id })
  return copy.id
}
