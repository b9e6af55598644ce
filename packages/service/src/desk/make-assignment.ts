import { Refusal, type NewAssignment, type PreflightQuestion } from '@bathyscribe/contract'
import { preflight, type PreflightRemark } from '@bathyscribe/core/checks'
import type { z } from 'zod'
import { violatedKey } from '../records/database.js'
import type { AssignmentRecord } from '../records/entities/courses.js'
import type { RegistrationRecord } from '../records/entities/tools.js'
import { by, type Actor, type Context } from './context.js'
import { toolForCourse } from './places/usable-tool.js'
import { checkAddress } from './tools/register-tool.js'
import { freeSlug, slugOf } from './slug.js'

/** Makes an assignment; with `publish` only if preflight finds nothing broken, otherwise not at all. @throws Refusal */
export async function makeAssignment(
  context: Context,
  actor: Actor,
  courseId: string,
  wanted: z.output<typeof NewAssignment>,
): Promise<AssignmentRecord> {
  const { records, ids, clock } = context
  const tool = await toolForCourse(context, courseId, wanted.tool)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const category = wanted.category === null ? null : await records.courses.category(courseId, wanted.category)
  const now = clock.now()
  const start = slugOf(wanted.title, 'assignment')
  const assignment: AssignmentRecord = {
    id: ids.next(),
    courseId,
    registrationId: tool.id,
    slug: freeSlug(start, await records.assignments.slugsLike(courseId, start)),
    title: wanted.title,
    instructions: wanted.instructions,
    points: wanted.points,
    categoryId: category?.id ?? null,
    state: wanted.publish ? 'published' : 'draft',
    documentTarget: wanted.documentTarget ?? tool.documentTarget,
    launchUrl: wanted.launchUrl || null,
    customParameters: wanted.customParameters,
    resourceLinkId: ids.secret().slice(0, 24),
    revision: 1,
    position: 0,
    publishedAt: wanted.publish ? now : null,
    createdAt: now,
    updatedAt: now,
    settingsChangedAt: now,
  }
  if (wanted.publish) requirePreflight(remarksOn(context, assignment, tool))
  await records
    .transaction(async (inside) => {
      await inside.assignments.insert(assignment)
      await inside.menus.addTool(courseId, tool.id, actor.id, now)
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'make assignment',
        subject: `assignment ${assignment.slug}`,
        courseId,
        after: { title: assignment.title, tool: tool.slug, points: assignment.points, state: assignment.state },
      })
    })
    .catch((error: unknown) => {
      throw violatedKey(error) === undefined ? error : new Refusal('assignment.slug_taken', assignment.slug)
    })
  context.changes.publish({ kind: 'assignment', courseId, assignmentId: assignment.id, personId: null })
  return assignment
}

/** What preflight says of an assignment as it stands. */
export function remarksOn(
  context: Pick<Context, 'settings'>,
  assignment: Pick<AssignmentRecord, 'title' | 'points' | 'categoryId' | 'launchUrl' | 'documentTarget'>,
  tool: Pick<RegistrationRecord, 'state' | 'launchUrl' | 'version' | 'features'>,
): PreflightRemark[] {
  return preflight({
    title: assignment.title,
    points: assignment.points,
    hasCategory: assignment.categoryId !== null,
    launchUrl: assignment.launchUrl ?? tool.launchUrl,
    registrationState: tool.state,
    toolReturnsScores: tool.features.includes('scores'),
    toolVersion: tool.version,
    platformIsSecure: context.settings.publicUrl.startsWith('https:'),
    documentTarget: assignment.documentTarget,
  })
}

/** @throws Refusal that lists every remark that stops publishing. */
export function requirePreflight(remarks: readonly PreflightRemark[]): void {
  const broken = remarks.filter((remark) => remark.verdict === 'fail')
  if (broken.length > 0)
    throw new Refusal(
      'assignment.preflight',
      broken.map((remark) => remark.statement).join(' '),
      broken.map((remark) => ({ path: remark.rule, message: `${remark.statement} ${remark.remedy}` })),
    )
}

/** Preflight of what is being typed, in whatever order it is filled in. */
export async function preflightQuestion(
  context: Context,
  courseId: string,
  asked: z.output<typeof PreflightQuestion>,
): Promise<{ remarks: PreflightRemark[]; effectiveLaunchUrl: string | null }> {
  const tool = asked.tool ? await toolForCourse(context, courseId, asked.tool) : null
  const launchUrl = asked.launchUrl || null
  const remarks = remarksOn(
    context,
    {
      title: asked.title ?? '',
      points: asked.points ?? '0',
      categoryId: asked.category ?? null,
      launchUrl,
      documentTarget: asked.documentTarget ?? tool?.documentTarget ?? 'frame',
    },
    tool ?? { state: 'enabled', launchUrl: null, version: '1.1', features: ['scores'] },
  )
  return {
    remarks: tool ? remarks : remarks.filter((remark) => remark.rule !== 'launch_address_usable'),
    effectiveLaunchUrl: launchUrl ?? tool?.launchUrl ?? null,
  }
}
