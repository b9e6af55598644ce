import type { ChangeEvent } from '@bathyscribe/contract'
import { Refusal } from '@bathyscribe/contract'
import type { FastifyInstance } from 'fastify'
import { taughtCourses } from '../../desk/identity/access.js'
import type { Context } from '../../desk/context.js'
import { findActor } from '../caller.js'

const BEAT_MS = 25_000
/** Windows of one session or token that may listen at once, of each process. */
const STREAMS_AT_MOST = 10
/** What everybody in a course hears of it: that something changed, not which assignment, which may be a draft. */
const FOR_MEMBERS: readonly ChangeEvent['kind'][] = ['menu', 'outline', 'assignment']

/**
 * `GET /api/events`: changes as server-sent events (HTML, section 9.2). Teachers hear of their courses, administrators of all,
 * members of their courses’ menus and outlines, everybody of themselves. A stream ends when the session behind it does.
 */
export function registerEvents(app: FastifyInstance, context: Context): void {
  const open = new Set<() => void>()
  const places = new Map<string, number>()
  /** @returns what gives the place back, once */
  function takePlace(key: string): () => void {
    const taken = places.get(key) ?? 0
    if (taken >= STREAMS_AT_MOST) throw new Refusal('request.too_many_streams')
    places.set(key, taken + 1)
    return () => {
      const left = places.get(key)! - 1
      if (left > 0) places.set(key, left)
      else places.delete(key)
    }
  }
  app.addHook('preClose', async () => {
    for (const end of open) end()
  })

  app.get('/api/events', { schema: { hide: true } }, async (request, reply) => {
    const actor = await findActor(context, request)
    if (!actor) throw new Refusal('session.required')
    if (actor.via === 'token' && !actor.scopes.includes('read')) throw new Refusal('token.scope', 'read')
    const leave = takePlace(`${actor.via} ${actor.viaId}`)
    let [courses, member] = await Promise.all([
      taughtCourses(context.records, actor),
      coursesOf(context, actor.id),
    ]).catch((error: unknown) => {
      leave()
      throw error
    })
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
      // An open window alone is no use of a session.
      void findActor(context, request, { isUse: false })
        .then(async (still) => {
          if (!still) return end()
          courses = await taughtCourses(context.records, still)
          member = await coursesOf(context, still.id)
          raw.write(': beat\n\n')
        })
        .catch(() => end())
    }, BEAT_MS)
    const end = () => {
      if (!open.delete(end)) return
      clearInterval(beat)
      unsubscribe()
      leave()
      raw.end()
    }
    open.add(end)
    raw.on('close', end)
    if (raw.closed) end()
  })
}

/** The courses that a person is in, in whatever role. */
async function coursesOf({ records }: Context, personId: string): Promise<string[]> {
  return (await records.people.rolesOf(personId)).map(({ courseId }) => courseId)
}
