import type { ChangeEvent } from '@bathyscribe/contract'
import { Refusal } from '@bathyscribe/contract'
import type { FastifyInstance } from 'fastify'
import { taughtCourses } from '../../desk/access.js'
import type { Context } from '../../desk/context.js'
import { findActor } from '../caller.js'

const BEAT_MS = 25_000
/** What everybody in a course hears of it: that something changed, not which assignment, which may be a draft. */
const FOR_MEMBERS: readonly ChangeEvent['kind'][] = ['menu', 'outline', 'assignment']

/**
 * `GET /api/events`: changes as server-sent events (HTML, section 9.2). Teachers hear of their courses, administrators of all,
 * members of their courses’ menus and outlines, everybody of themselves. A stream ends when the session behind it does.
 */
export function registerEvents(app: FastifyInstance, context: Context): void {
  const open = new Set<() => void>()
  app.addHook('preClose', async () => {
    for (const end of open) end()
  })

  app.get('/api/events', { schema: { hide: true } }, async (request, reply) => {
    const actor = await findActor(context, request)
    if (!actor) throw new Refusal('session.required')
    if (actor.via === 'token' && !actor.scopes.includes('read')) throw new Refusal('token.scope', 'read')
    let courses = await taughtCourses(context.records, actor)
    let member = await coursesOf(context, actor.id)
    const heard = (change: ChangeEvent): ChangeEvent | undefined => {
      const teaches =
        courses === null ||
        (change.courseId !== null ? courses.includes(change.courseId) : change.kind === 'tool' && courses.length > 0)
      if (teaches || change.personId === actor.id) return change
      const isMember = change.courseId !== null && member.includes(change.courseId)
      return isMember && FOR_MEMBERS.includes(change.kind) ? { ...change, assignmentId: null } : undefined
    }

    reply.hijack()
    const { raw } = reply
    raw.writeHead(200, {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    })
    raw.write('retry: 2000\n\n')
    const unsubscribe = context.changes.subscribe((change) => {
      const told = heard(change)
      if (told) raw.write(`event: change\ndata: ${JSON.stringify(told)}\n\n`)
    })
    const beat = setInterval(() => {
      void findActor(context, request)
        .then(async (still) => {
          if (!still) return end()
          courses = await taughtCourses(context.records, still)
          member = await coursesOf(context, still.id)
          raw.write(': beat\n\n')
        })
        .catch(() => end())
    }, BEAT_MS)
    const end = () => {
      clearInterval(beat)
      unsubscribe()
      open.delete(end)
      raw.end()
    }
    open.add(end)
    raw.on('close', end)
  })
}

/** The courses that a person is in, in whatever role. */
async function coursesOf({ records }: Context, personId: string): Promise<string[]> {
  return (await records.people.rolesOf(personId)).map(({ courseId }) => courseId)
}
