import { Refusal, type Access } from '@bathyscribe/contract'
import { teaches, type CourseRole } from '@bathyscribe/core/identity'
import { bearerToken } from '@bathyscribe/core/lti13'
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import { isAdministrator, ownTool, roleIn } from '../desk/identity/access.js'
import type { Actor, Context } from '../desk/context.js'
import { fingerprint } from '../keys/key-file.js'
import type { AssignmentRecord, CourseRecord } from '../records/entities/courses.js'
import type { OwnLink } from '../records/statements/links.js'
import type { Settings } from '../settings/settings.js'

const SESSION_COOKIE = 'bathyscribe_session'
/** The name of a cookie of ours: by https under a prefix with which browsers take it from this very host only (RFC 6265bis section 4.1.3.2). */
export function hostCookie({ publicUrl }: Pick<Settings, 'publicUrl'>, name: string): string {
  return publicUrl.startsWith('https:') ? `__Host-${name}` : name
}
/** What such a cookie is set with; it only goes when it is cleared with the same. */
export function hostCookieSet({ publicUrl }: Pick<Settings, 'publicUrl'>) {
  return { path: '/', httpOnly: true, sameSite: 'lax', secure: publicUrl.startsWith('https:') } as const
}
export const sessionCookie = (settings: Pick<Settings, 'publicUrl'>) => hostCookie(settings, SESSION_COOKIE)
/** The session once more, for the authorisation address alone: see where it is set. */
export const LOGIN_COOKIE = 'bathyscribe_login'

/** Who calls, and which course or assignment the address names, after it was found that they may. */
export class Caller {
  constructor(
    private readonly found: {
      actor?: Actor
      course?: CourseRecord
      assignment?: AssignmentRecord
      role?: CourseRole | undefined
    },
  ) {}

  get actor(): Actor {
    if (!this.found.actor) throw new Refusal('session.required')
    return this.found.actor
  }
  get course(): CourseRecord {
    if (!this.found.course) throw new Refusal('course.not_found')
    return this.found.course
  }
  get assignment(): AssignmentRecord {
    if (!this.found.assignment) throw new Refusal('assignment.not_found')
    return this.found.assignment
  }
  /** Sees the course from the teaching side. */
  get teaching(): boolean {
    return isAdministrator(this.actor) || teaches(this.found.role)
  }
}

/** @returns undefined when no token is given. @throws Refusal for a bad one */
async function actorOfToken(context: Context, request: FastifyRequest): Promise<Actor | undefined> {
  const bearer = bearerToken(request.headers.authorization, 200)
  if (bearer === undefined) return undefined
  const actor = await context.statements.findToken(fingerprint(bearer))
  if (!actor) throw new Refusal('token.unknown')
  return actor
}

/** Finds who makes a request, by API token or session. @returns undefined when nobody is signed in. @throws Refusal for a bad token */
export async function findActor(
  context: Context,
  request: FastifyRequest,
  { isUse = true }: { isUse?: boolean } = {},
): Promise<Actor | undefined> {
  const byToken = await actorOfToken(context, request)
  if (byToken) return byToken
  const cookie = request.cookies[sessionCookie(context.settings)]
  return cookie === undefined ? undefined : context.statements.findSession(fingerprint(cookie), isUse)
}

/** What tells who a tool sent with a login: the holder of an API token, or the hash of a session, which is not asked for yet. @throws Refusal for a bad token */
export async function findSignedIn(
  context: Context,
  request: FastifyRequest,
): Promise<{ actor: Actor } | { session: Buffer } | undefined> {
  const actor = await actorOfToken(context, request)
  if (actor) return { actor }
  const cookie = request.cookies[sessionCookie(context.settings)] ?? request.cookies[LOGIN_COOKIE]
  return cookie === undefined ? undefined : { session: fingerprint(cookie) }
}

/** Finds who opens a link by their session, and the link as it is for them: one question. @throws Refusal where nobody is signed in so */
export async function findOwnLink(context: Context, request: FastifyRequest, linkId: string): Promise<OwnLink> {
  // A token opens no pages; one that is not known is told so.
  if ((await actorOfToken(context, request)) !== undefined) throw new Refusal('session.required')
  const cookie = request.cookies[sessionCookie(context.settings)]
  const found = cookie && (await context.statements.findOwnLink({ linkId, session: fingerprint(cookie) }))
  if (!found) throw new Refusal('session.required')
  return found
}

/** Decides whether a call may be made: sign-in, CSRF, token scope, role in the course that the address names. @throws Refusal */
export async function admit(
  app: FastifyInstance,
  context: Context,
  access: Access,
  request: FastifyRequest,
  reply: FastifyReply,
): Promise<Caller> {
  if (access.who === 'anyone') return new Caller({})
  const actor = await findActor(context, request)
  if (!actor) throw new Refusal('session.required')
  if (actor.via === 'session' && request.method !== 'GET') {
    request.sessionId = actor.viaId
    await requireCsrf(app, request, reply)
  }
  if (actor.via === 'token' && (access.scope === null || !actor.scopes.includes(access.scope)))
    throw new Refusal('token.scope', access.scope ?? 'none')
  if (access.who === 'administrator' && !isAdministrator(actor)) throw new Refusal('access.denied')
  if (access.freshOnly && actor.via === 'session') requireFresh(context, actor)
  const { tool } = request.params as { tool?: string }
  if (access.who === 'registrar') {
    if (tool === undefined) await requireInstructorSomewhere(context, actor)
    else await ownTool(context.records, actor, tool)
  }
  if (access.who !== 'member' && access.who !== 'teacher' && access.who !== 'instructor') return new Caller({ actor })
  return admitToCourse(context, access, access.who, actor, request.params as { course?: string; assignment?: string })
}

/** What hands out secrets, ways in or rights is not for whoever finds a browser open (OWASP ASVS 3.7.1). */
function requireFresh({ clock, settings }: Context, { confirmedAt }: Actor): void {
  const age = clock.now().getTime() - (confirmedAt?.getTime() ?? -Infinity)
  if (age > settings.confirmMinutes * 60_000) throw new Refusal('session.confirm_needed')
}

/** Registering is for administrators, and for instructors as far as their own courses go. */
async function requireInstructorSomewhere({ records }: Context, actor: Actor): Promise<void> {
  if (isAdministrator(actor)) return
  if (!(await records.people.rolesOf(actor.id)).some(({ role }) => role === 'instructor'))
    throw new Refusal('access.denied')
}

/** Those who are not in a course learn nothing of it, not even that it exists. */
async function admitToCourse(
  { records }: Context,
  access: Access,
  who: 'member' | 'teacher' | 'instructor',
  actor: Actor,
  params: { course?: string; assignment?: string },
): Promise<Caller> {
  const assignment = params.assignment === undefined ? undefined : await records.assignments.byRef(params.assignment)
  if (assignment?.state === 'deleted' && !access.deletedToo)
    throw new Refusal('assignment.not_found', params.assignment)
  if ((assignment?.state === 'column' || assignment?.state === 'merged') && !access.columnToo)
    throw new Refusal('assignment.is_column', assignment.title)
  // A deleted course is nobody's but an administrator's, who may look at it and restore it.
  const course = await records.courses.byRef(
    assignment?.courseId ?? params.course ?? '',
    access.deletedToo && assignment === undefined && isAdministrator(actor),
  )
  const role = await roleIn(records, actor, course.id)
  const found = { actor, course, role, ...(assignment && { assignment }) }
  if (isAdministrator(actor)) return new Caller(found)
  if (role === undefined)
    throw assignment
      ? new Refusal('assignment.not_found', params.assignment)
      : new Refusal('course.not_found', params.course)
  if (assignment && assignment.state !== 'published' && !teaches(role))
    throw new Refusal('assignment.not_found', params.assignment)
  const enough = who === 'member' || (who === 'teacher' ? teaches(role) : role === 'instructor')
  if (!enough) throw new Refusal('access.denied')
  return new Caller(found)
}

function requireCsrf(app: FastifyInstance, request: FastifyRequest, reply: FastifyReply): Promise<void> {
  return new Promise((resolve, reject) => {
    app.csrfProtection(request, reply, (error?: Error) => (error ? reject(error) : resolve()))
  })
}
