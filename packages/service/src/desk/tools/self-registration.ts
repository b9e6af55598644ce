import { checkAddress } from './address.js'
import { blankRegistration, nameTaken, storeNew } from './registration.js'
import { freeToolSlug } from './tool-slug.js'
import { ERRORS, Refusal, type Invitation, type NewInvitation } from '@bathyscribe/contract'
import { visibleText } from '@bathyscribe/core/text'
import {
  readToolMetadata,
  writeToolMetadata,
  type Claims,
  type MetadataProblem,
  type ToolMetadata,
} from '@bathyscribe/core/lti13'
import type { z } from 'zod'
import { fingerprint } from '../../keys/key-file.js'
import type { InvitationRecord, RegistrationRecord } from '../../records/entities/tools.js'
import { NO_LINK } from '../../records/statements/messages.js'
import { clip } from '../../wire/mask.js'
import { walk } from '../../wire/walk.js'
import { isAdministrator, roleIn, visibleTool } from '../identity/access.js'
import { by, type Actor, type Context } from '../context.js'
import { store } from './change-tool.js'
import { fieldsFrom, placementsFrom } from './decide.js'
import { lookAlike } from '@bathyscribe/core/links'

const TOKEN_HOURS = 1

/** Lets a tool register itself (Dynamic Registration 1.0 section 3.1): its address, a token for one use, and where our configuration stands. */
export async function inviteTool(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof NewInvitation>,
): Promise<Invitation> {
  const { records, ids, clock, settings } = context
  checkAddress(wanted.address, 'address')
  const courseId = wanted.course === null ? null : (await records.courses.byRef(wanted.course)).id
  if (!isAdministrator(actor)) {
    if (courseId === null) throw new Refusal('access.denied', 'name your course')
    if ((await roleIn(records, actor, courseId)) !== 'instructor') throw new Refusal('course.not_found', wanted.course!)
    if (settings.courseTools === 'off') throw new Refusal('tool.policy')
  }
  const token = ids.secret()
  const now = clock.now()
  const invitation: InvitationRecord = {
    id: ids.next(),
    tokenHash: fingerprint(token),
    address: wanted.address,
    courseId,
    personId: actor.id,
    madeAt: now,
    expiresAt: new Date(now.getTime() + TOKEN_HOURS * 3600_000),
    usedAt: null,
    registrationId: null,
    name: wanted.name ?? null,
    secondReason: wanted.secondReason ?? null,
    sameAsId: null,
  }
  await records.transaction(async (inside) => {
    await inside.secrets.insertInvitation(invitation)
    await inside.audit.add({
      at: now,
      ...by(actor),
      action: 'invite tool',
      subject: `invitation ${invitation.id}`,
      courseId,
      after: {
        address: new URL(wanted.address).origin,
        opened: wanted.open,
        ...(wanted.secondReason && { secondReason: wanted.secondReason }),
      },
    })
  })
  const openAt = new URL(wanted.address)
  openAt.searchParams.set('openid_configuration', `${settings.publicUrl}/.well-known/openid-configuration`)
  openAt.searchParams.set('registration_token', token)
  const said = wanted.open ? await openAddress(context, openAt.href) : null
  return invitationView(context, actor, await records.secrets.invitation(invitation.id), openAt.href, said)
}

/** Opens the tool's address as a browser would, for tools that need nobody to click. @returns what its page says */
async function openAddress(context: Context, url: string): Promise<string> {
  const walked = await walk(context.outgoing, { method: 'GET', url }, { stopAt: () => false })
  if (walked.failure !== null) throw new Refusal(walked.code ?? 'outgoing.unreachable', new URL(url).host)
  return visibleText(walked.body).slice(0, 400)
}

/** @throws Refusal unless it was made by the same person, or for an administrator */
export async function showInvitation(context: Context, actor: Actor, id: string): Promise<Invitation> {
  const invitation = await context.records.secrets.invitation(id)
  if (invitation.personId !== actor.id && !isAdministrator(actor)) throw new Refusal('invitation.not_found', id)
  return invitationView(context, actor, invitation, invitation.address, null)
}

async function invitationView(
  context: Context,
  actor: Actor,
  invitation: InvitationRecord,
  openAt: string,
  said: string | null,
): Promise<Invitation> {
  const tool = invitation.registrationId && (await context.records.tools.byId(invitation.registrationId))
  const isSecond = !tool && invitation.sameAsId !== null
  const same = isSecond ? await visibleTool(context.records, actor, invitation.sameAsId!).catch(() => null) : null
  return {
    id: invitation.id,
    address: invitation.address,
    openAt,
    expiresAt: invitation.expiresAt.toISOString(),
    usedAt: invitation.usedAt?.toISOString() ?? null,
    registeredAlready: isSecond,
    sameAs: same ? { id: same.id, slug: same.slug, name: same.name, state: same.state } : null,
    tool: tool ? { id: tool.id, slug: tool.slug, name: tool.name, state: tool.state } : null,
    said,
  }
}

/** The tool is registered already, and nobody said that it may be a second time. The token stays good. */
class RegisteredAlready extends Error {
  constructor(readonly registrationId: string) {
    super('registered already')
  }
}

/** What a tool is answered: the body, and its HTTP status. */
export interface RegistrationAnswer {
  status: 200 | 201 | 400 | 401
  body: Claims
}

/** Takes a registration by the tool itself. The token is used up only by a registration that is good; then it waits for approval. */
export async function receiveRegistration(context: Context, token: string, sent: unknown): Promise<RegistrationAnswer> {
  const started = performance.now()
  const { records, ids, clock } = context
  const now = clock.now()
  // Strangers learn nothing of what is wrong with theirs, and fill no log with it.
  if (!(await records.secrets.isOpenInvitation(fingerprint(token), now))) return unknownToken(context, started)
  const metadata = readToolMetadata(sent, { strict: true })
  if ('code' in metadata) {
    await leaveEntry(context, null, started, sent, metadata)
    return refused(metadata)
  }
  const management = ids.secret()
  const tool: RegistrationRecord = {
    ...blankRegistration(now),
    ...fieldsFrom(metadata),
    id: ids.next(),
    slug: await freeToolSlug(records, metadata.name),
    name: metadata.name,
    likeness: lookAlike(metadata.name),
    state: 'waiting',
    version: '1.3',
    clientId: ids.next(),
    placements: placementsFrom(metadata),
    managementHash: fingerprint(management),
  }
  const made = await records
    .transaction(async (inside) => {
      const invitation = await inside.secrets.useInvitation(fingerprint(token), now)
      if (!invitation) return undefined
      // The tool would hold one of the two client IDs, and answer under it for both.
      const [same] = await inside.tools.similar({ initiationUrl: tool.initiationUrl })
      if (same && invitation.secondReason === null) throw new RegisteredAlready(same.id)
      if (invitation.name !== null) {
        tool.name = invitation.name
        tool.likeness = lookAlike(invitation.name)
        tool.slug = await freeToolSlug(inside, invitation.name)
      }
      tool.courseId = invitation.courseId
      await storeNew(inside, context, null, tool, [], invitation.secondReason ?? undefined)
      await inside.secrets.tieInvitation(invitation.id, tool.id)
      if (invitation.courseId !== null)
        await inside.menus.addTool(invitation.courseId, tool.id, invitation.personId, now)
      return invitation
    })
    .catch((error: unknown) => (error instanceof RegisteredAlready ? error : nameTaken(tool)(error)))
  if (made instanceof RegisteredAlready) {
    await records.secrets.noteSame(fingerprint(token), made.registrationId)
    context.changes.publish({ kind: 'tool', courseId: null })
    const detail = 'the same login initiation address is registered here already'
    await leaveEntry(context, null, started, sent, { code: 'tool.already_registered', detail })
    return refused({ error: 'invalid_client_metadata', detail })
  }
  if (!made) return unknownToken(context, started)
  await leaveEntry(context, tool, started, sent, undefined)
  context.changes.publish({ kind: 'tool', courseId: tool.courseId })
  return { status: 201, body: await describe(context, tool, metadata, management) }
}

/** Reads or changes a registration by the tool's own management token (OpenID Connect Dynamic Client Registration section 4; RFC 7592). */
export async function manageRegistration(
  context: Context,
  clientId: string,
  token: string,
  sent: unknown,
): Promise<RegistrationAnswer> {
  const started = performance.now()
  const tool = await context.records.tools.byManagementHash(fingerprint(token))
  if (!tool?.metadata || tool.clientId !== clientId || tool.state === 'deleted' || tool.state === 'retired')
    return unknownToken(context, started)
  if (sent === undefined) return { status: 200, body: await describe(context, tool, tool.metadata) }
  const metadata = readToolMetadata(sent, { strict: true })
  if ('code' in metadata) {
    await leaveEntry(context, tool, started, sent, metadata)
    return refused(metadata)
  }
  const now = context.clock.now()
  // What was never approved can still be changed freely; afterwards a change is a proposal.
  const change: Partial<RegistrationRecord> =
    tool.state === 'waiting'
      ? { ...fieldsFrom(metadata), placements: placementsFrom(metadata), updatedAt: now }
      : { proposal: metadata, updatedAt: now }
  await store(context, null, tool, tool.revision, change, 'change proposed by the tool')
  await leaveEntry(context, tool, started, sent, undefined)
  return { status: 200, body: await describe(context, { ...tool, ...change }, change.metadata ?? tool.metadata) }
}

async function unknownToken(context: Context, started: number): Promise<RegistrationAnswer> {
  await leaveEntry(context, null, started, undefined, { code: 'registration.token', detail: '' })
  return { status: 401, body: { error: 'invalid_token', error_description: ERRORS['registration.token'].sentence } }
}

function refused(problem: Pick<MetadataProblem, 'error' | 'detail'>): RegistrationAnswer {
  return { status: 400, body: { error: problem.error, error_description: problem.detail } }
}

async function describe(
  context: Context,
  tool: RegistrationRecord,
  metadata: ToolMetadata,
  managementToken?: string,
): Promise<Claims> {
  const deployment = await context.records.tools.mainDeployment(tool.id)
  return writeToolMetadata(metadata, {
    clientId: tool.clientId!,
    deploymentId: deployment?.id ?? '',
    // While it waits it is told what it asked for: a tool keeps what it is told, and gets no token until it is approved.
    scopes: tool.state === 'waiting' ? metadata.scopes : tool.scopes,
    managementUrl: `${context.settings.publicUrl}/lti/register/${tool.clientId!}`,
    ...(managementToken !== undefined && { managementToken }),
  })
}

async function leaveEntry(
  context: Context,
  tool: RegistrationRecord | null,
  started: number,
  sent: unknown,
  problem: { code: 'metadata.invalid' | 'registration.token' | 'tool.already_registered'; detail: string } | undefined,
): Promise<void> {
  await context.statements.writeMessage({
    ...NO_LINK,
    at: context.clock.now(),
    kind: 'registration',
    direction: 'received',
    outcome: problem ? 'refused' : 'accepted',
    code: problem?.code ?? null,
    detail: problem?.detail.slice(0, 500) || null,
    statement: problem ? ERRORS[problem.code].sentence : `“${tool!.name}” described itself; it is ${tool!.state}.`,
    registrationId: tool?.id ?? null,
    courseId: tool?.courseId ?? null,
    durationMs: performance.now() - started,
    request: {
      method: 'POST',
      url: `${context.settings.publicUrl}/lti/register`,
      ...(sent !== undefined && { body: clip(JSON.stringify(sent)) }),
    },
  })
}
