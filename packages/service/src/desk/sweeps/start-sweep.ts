import { Refusal, type NewSweep, type SweepScope } from '@bathyscribe/contract'
import type { z } from 'zod'
import { requireTeaching, toolScope, visibleTool, type Seer } from '../identity/access.js'
import { act, type Actor, type Context, type Doer } from '../context.js'

const MOST_LINKS = 5000

/** What a scope means for a person: names for its title, identifiers for the records. */
interface Resolved {
  title: string
  courseId: string | null
  registrationId: string | null
  term: string | null
  assignmentIds: string[] | null
}

/**
 * Starts a sweep over the links that a person may sound. @returns its identifier
 * @throws Refusal when there is nothing to sound, or too much
 */
export async function startSweep(
  context: Context,
  actor: Seer & Doer,
  scope: SweepScope & Partial<Pick<z.output<typeof NewSweep>, 'drafts' | 'depth' | 'follower'>>,
  scheduleId: string | null = null,
): Promise<string> {
  const { records, ids } = context
  const courseIds = await requireTeaching(records, actor)
  const { title, ...asked } = await resolveScope(context, actor, scope)
  const { drafts = false, depth = 'plain', follower = 'http' } = scope
  if (follower === 'browser' && !context.browser.found)
    throw new Refusal('sounding.no_browser', context.browser.reason ?? undefined)
  const links = await records.sweeps.links({ courseIds, ...asked, drafts, most: MOST_LINKS + 1 })
  if (links.length === 0) throw new Refusal('sweep.nothing')
  if (links.length > MOST_LINKS) throw new Refusal('sweep.too_many', `more than ${MOST_LINKS}`)
  const id = ids.next()
  // What is everything differs from person to person, so that sweeps of two people are not held against each other.
  const scopeKey = JSON.stringify([
    asked,
    drafts,
    courseIds === null ? 'all' : actor.id,
    ...(depth === 'plain' && follower === 'http' ? [] : [depth, follower]),
  ])
  await act(
    context,
    { doer: actor, action: 'sweep.start', subject: `sweep ${id}`, courseId: asked.courseId },
    async (inside, startedAt) => {
      // A second one at the same time would only knock twice at the same doors.
      if (scheduleId === null && (await inside.sweeps.hasRunning(actor.id, scopeKey)))
        throw new Refusal('sweep.running')
      await inside.sweeps.insert(
        { id, title, scopeKey, personId: actor.id, scheduleId, startedAt, depth, follower },
        links,
      )
    },
    () => ({ after: { title, links: links.length } }),
  )
  context.changes.publish({ kind: 'sweep', courseId: null })
  return id
}

/** @throws Refusal for what there is not, or what the person may not see */
export async function resolveScope(context: Context, actor: Seer, scope: SweepScope): Promise<Resolved> {
  const { records } = context
  const course = scope.course === undefined ? undefined : await records.courses.byRef(scope.course)
  const { seesAll, courseIds } = await toolScope(records, actor)
  if (course && !seesAll && !courseIds.includes(course.id)) throw new Refusal('course.not_found', scope.course)
  const tool = scope.tool === undefined ? undefined : await visibleTool(records, actor, scope.tool)
  const assignments =
    scope.assignments && (await Promise.all(scope.assignments.map((ref) => records.assignments.byRef(ref))))
  if (!seesAll)
    for (const one of assignments ?? [])
      if (!courseIds.includes(one.courseId)) throw new Refusal('assignment.not_found', one.slug)
  const parts = [
    assignments && `${assignments.length} ${assignments.length === 1 ? 'link' : 'links'}`,
    tool?.name,
    course && `${(tool ?? assignments) ? 'in ' : ''}${course.code}`,
    scope.term && `term ${scope.term}`,
  ].filter(Boolean)
  return {
    title: parts.length > 0 ? parts.join(' ') : seesAll ? 'Everything' : 'All of my courses',
    courseId: course?.id ?? null,
    registrationId: tool?.id ?? null,
    term: scope.term ?? null,
    assignmentIds: assignments?.map((one) => one.id).sort() ?? null,
  }
}

/** Pauses a sweep, lets it go on, or ends it; what is being sounded is finished. @throws Refusal when it is over */
export async function moveSweep(
  context: Context,
  actor: Actor,
  id: string,
  to: 'running' | 'paused' | 'stopped',
): Promise<void> {
  const sweep = await context.records.sweeps.show(id, await requireTeaching(context.records, actor))
  if (sweep.by?.id !== actor.id && actor.siteRole !== 'administrator') throw new Refusal('access.denied')
  await act(
    context,
    { doer: actor, action: 'sweep.move', subject: `sweep ${id}` },
    async ({ sweeps }, at) => {
      if (!(await sweeps.move(id, to, at))) throw new Refusal('sweep.over', sweep.state)
    },
    () => ({ before: { state: sweep.state }, after: { state: to } }),
  )
  context.changes.publish({ kind: 'sweep', courseId: null })
}
