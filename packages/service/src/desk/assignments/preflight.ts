import { Refusal, remarkInWords, type PreflightAnswer, type PreflightQuestion } from '@bathyscribe/contract'
import type { PreflightRemark } from '@bathyscribe/core/checks'
import { differences } from '@bathyscribe/core/content'
import { toDate } from '@bathyscribe/core/dates'
import type { z } from 'zod'
import type { Actor, Context } from '../context.js'
import { pickedToolLink } from '../pickers/picked.js'
import { toolForCourse } from '../places/usable-tool.js'
import { audienceFacts, resolveAudience, type AudienceIds } from './audience.js'
import { Surroundings, withAcceptances } from './surroundings.js'

/** @throws Refusal that lists every remark that stops publishing. */
export function requirePreflight(remarks: readonly PreflightRemark[]): void {
  const broken = remarks.filter((remark) => remark.verdict === 'fail').map(remarkInWords)
  if (broken.length > 0)
    throw new Refusal(
      'assignment.preflight',
      broken.map((remark) => remark.statement).join(' '),
      broken.map((remark) => ({ path: remark.rule, message: `${remark.statement} ${remark.remedy}` })),
    )
}

/** Rules that cannot be judged before a tool is chosen. */
const OF_TOOL = new Set(['content', 'address', 'target', 'tool'])

/** Preflight of what is being typed, in whatever order it is filled in. */
export async function preflightQuestion(
  context: Context,
  actor: Actor,
  courseId: string,
  asked: z.output<typeof PreflightQuestion>,
): Promise<z.output<typeof PreflightAnswer>> {
  const { records } = context
  const tool = asked.tool ? await toolForCourse(context, courseId, asked.tool) : null
  const content = tool && asked.content ? await pickedToolLink(context, actor, courseId, null, asked.content) : null
  const existing = asked.assignment === undefined ? null : await records.assignments.byRef(asked.assignment)
  const mine = existing?.courseId === courseId ? existing : null
  const offered = content ?? (mine && asked.content === undefined ? mine.content : null)
  const unit = asked.unit ? await records.outline.unit(courseId, asked.unit) : null
  const audience: AudienceIds | null = asked.audience ? await resolveAudience(records, courseId, asked.audience) : null
  const launchUrl = content ? content.url : asked.launchUrl || null
  const around = await Surroundings.read(context, records, courseId, tool ? [tool.id] : [])
  const typed = {
    title: asked.title ?? '',
    points: asked.points ?? '0',
    counted: asked.counted ?? true,
    opensAt: toDate(asked.opensAt ?? null),
    dueAt: toDate(asked.dueAt ?? null),
    closesAt: toDate(asked.closesAt ?? null),
    documentTarget: asked.documentTarget ?? tool?.documentTarget ?? 'frame',
  }
  const remarks = around.remarks({
    ...typed,
    id: mine?.id,
    state: mine?.state ?? (asked.publish ? 'published' : 'draft'),
    categoryId: asked.category ?? null,
    launchUrl,
    customParameters: content ? content.custom : (asked.customParameters ?? {}),
    instructions: asked.instructions ?? '',
    content: offered,
    contentToolId: content ? content.registrationId : (mine?.contentToolId ?? null),
    registrationId: tool?.id ?? '',
    unit: unit && { ...unit, published: unit.published || asked.publishUnit === true },
    audience: audience && (await audienceFacts(records, courseId, audience)),
  })
  return {
    remarks: withAcceptances(tool ? remarks : remarks.filter((remark) => !OF_TOOL.has(remark.field)), []),
    effectiveLaunchUrl: launchUrl ?? tool?.launchUrl ?? null,
    differences: offered
      ? differences(
          {
            ...typed,
            points: asked.points ?? '',
            opensAt: asked.opensAt ?? null,
            dueAt: asked.dueAt ?? null,
            closesAt: asked.closesAt ?? null,
          },
          offered,
        )
      : [],
  }
}
