import { Refusal, type Invitation, type NewInvitation } from '@bathyscribe/contract'
import { visibleText } from '@bathyscribe/core/text'
import type { z } from 'zod'
import { checkAddress } from './address.js'
import { fingerprint } from '../../keys/key-file.js'
import type { InvitationRecord } from '../../records/entities/tools.js'
import { walk } from '../../wire/walk.js'
import { isAdministrator, roleIn, visibleTool } from '../identity/access.js'
import { by, type Actor, type Context } from '../context.js'

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
