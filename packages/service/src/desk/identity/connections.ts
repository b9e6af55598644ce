import { Refusal, type ConnectionAnswer, type ConnectionAsked, type NewConnection } from '@bathyscribe/contract'
import { isCodeChallenge, isScope, SCOPES, type Scope } from '@bathyscribe/core/lti13'
import type { z } from 'zod'
import { fingerprint } from '../../keys/key-file.js'
import type { ConnectionRow } from '../../records/connections.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { isAdministrator, taughtCourses } from './access.js'
import { by, type Actor, type Context } from '../context.js'

const CODE_SECONDS = 120

/** What an instructor is asked: which tool, what it wants to do, in which of the own courses. @throws Refusal */
export async function showRequest(
  context: Context,
  actor: Actor,
  asked: z.output<typeof ConnectionAsked>,
): Promise<ConnectionAnswer> {
  const tool = await askingTool(context, asked)
  const scopes = wantedScopes(tool, asked.scope)
  const courses = await instructedCourses(context, actor)
  return {
    tool: { id: tool.id, slug: tool.slug, name: tool.name, state: tool.state },
    description: tool.description,
    scopes: scopes.map((scope) => ({ scope, says: SCOPES[scope] })),
    courses,
    refuseTo: redirectTo(asked.redirectUri, { error: 'access_denied', state: asked.state }),
  }
}

/**
 * Connects a tool with courses of the person, for as long as it is not taken back (RFC 6749 section 4.1, with PKCE). @returns where the browser goes, with a code of two minutes
 * @throws Refusal for courses that the person does not instruct, and for scopes that were not asked for
 */
export async function connect(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof NewConnection>,
): Promise<{ redirectTo: string }> {
  const tool = await askingTool(context, wanted)
  if (!isCodeChallenge(wanted.codeChallenge)) throw new Refusal('connection.challenge')
  const may = wantedScopes(tool, wanted.scope)
  const scopes = [...new Set(wanted.scopes)]
  if (scopes.length === 0 || scopes.some((one) => !may.includes(one as Scope))) throw new Refusal('connection.scope')
  const mine = await instructedCourses(context, actor)
  const courseIds = [...new Set(wanted.courses)]
  if (courseIds.length === 0 || courseIds.some((id) => !mine.some((one) => one.id === id)))
    throw new Refusal('connection.course')
  const { ids, clock } = context
  const now = clock.now()
  const [id, code] = [ids.next(), ids.secret()]
  await context.records.transaction(async (records) => {
    await records.connections.insert({
      id,
      registrationId: tool.id,
      personId: actor.id,
      scopes,
      courseIds,
      madeAt: now,
    })
    await records.connections.addGrant({
      fingerprint: fingerprint(code),
      connectionId: id,
      kind: 'code',
      redirectUri: wanted.redirectUri,
      challenge: wanted.codeChallenge,
      expiresAt: new Date(now.getTime() + CODE_SECONDS * 1000),
    })
    await records.audit.add({
      at: now,
      ...by(actor),
      action: 'connect tool',
      subject: `tool ${tool.slug}`,
      after: { connection: id, scopes, courses: courseIds },
    })
  })
  return { redirectTo: redirectTo(wanted.redirectUri, { code, state: wanted.state, iss: context.settings.publicUrl }) }
}

/** The connections that a person may see: the own, those of courses that the person teaches, all for administrators. */
export async function listConnections(
  context: Context,
  actor: Actor,
  toolRef: string | undefined,
): Promise<ConnectionRow[]> {
  const registrationId = toolRef === undefined ? undefined : (await context.records.tools.byRef(toolRef)).id
  const courseIds = await taughtCourses(context.records, actor)
  return context.records.connections.list({ personId: actor.id, courseIds, registrationId })
}

/** Takes a connection back: whoever made it, an administrator, or who instructs one of its courses. @throws Refusal */
export async function revokeConnection(context: Context, actor: Actor, id: string): Promise<void> {
  const { records, clock } = context
  const found = await records.connections.one(id)
  const mine = await instructedCourses(context, actor)
  const may =
    found &&
    (found.person.id === actor.id ||
      isAdministrator(actor) ||
      found.courses.some((one) => mine.some((each) => each.id === one.id)))
  if (!found || !may) throw new Refusal('connection.not_found', id)
  const whose = isAdministrator(actor) && found.person.id !== actor.id ? 'administrator' : 'person'
  await records.transaction(async (inside) => {
    if (!(await inside.connections.revoke(id, whose, clock.now()))) throw new Refusal('connection.ended')
    await inside.audit.add({
      at: clock.now(),
      ...by(actor),
      action: 'disconnect tool',
      subject: `tool ${found.tool.slug}`,
      before: { connection: id },
    })
  })
}

/** The tool that asks, at an address of its own. Without that nothing is sent anywhere. */
async function askingTool(
  { records }: Context,
  { clientId, redirectUri }: { clientId: string; redirectUri: string },
): Promise<RegistrationRecord> {
  const tool = await records.tools.byClientId(clientId)
  if (!tool || tool.state !== 'enabled') throw new Refusal('login.client_unknown', `“${clientId.slice(0, 80)}”`)
  if (!tool.redirectUris.includes(redirectUri)) throw new Refusal('login.redirect_uri_unknown')
  return tool
}

function wantedScopes(tool: RegistrationRecord, scope: string): Scope[] {
  const wanted = [...new Set(scope.split(' '))].filter((one): one is Scope => isScope(one) && tool.scopes.includes(one))
  if (wanted.length === 0) throw new Refusal('connection.scope', scope.slice(0, 200))
  return wanted
}

async function instructedCourses(
  { records }: Context,
  actor: Actor,
): Promise<{ id: string; code: string; title: string }[]> {
  const roles = await records.people.rolesOf(actor.id)
  const courses = await records.courses.refs(
    roles.filter(({ role }) => role === 'instructor').map(({ courseId }) => courseId),
  )
  return courses.sort((a, b) => a.code.localeCompare(b.code))
}

function redirectTo(address: string, parameters: Record<string, string>): string {
  const to = new URL(address)
  for (const [name, value] of Object.entries(parameters)) if (value !== '') to.searchParams.set(name, value)
  return to.href
}
