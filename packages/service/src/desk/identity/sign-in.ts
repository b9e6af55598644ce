import { Refusal } from '@bathyscribe/contract'
import { plainUsername } from '@bathyscribe/core/identity'
import { act, by, type Actor, type Context } from '../context.js'
import { leavePageOf } from '../sign-on/leave.js'
import { openSession, type OpenedSession } from './open-session.js'
import { checkPassword, hashPassword } from './guarded-password.js'
import { requireStrong } from './password-strength.js'

/** Signs a person in. @returns the session's token, which only the browser keeps. @throws Refusal */
export async function signIn(
  context: Context,
  given: { username: string; password: string; userAgent: string; address: string },
): Promise<OpenedSession> {
  const { records, clock } = context
  const username = plainUsername(given.username).replaceAll('\u0000', '')
  const person = await records.people.byUsername(username)
  const entry = (action: string, after: Record<string, unknown> = {}) => ({
    at: clock.now(),
    personId: person?.id ?? null,
    via: 'password',
    action,
    subject: person ? `person ${person.username}` : 'an unknown account',
    after: { address: given.address, ...after },
  })
  if (!(await checkPassword(context, { ...given, username, passwordHash: person?.passwordHash ?? null }))) {
    await records.audit.note(entry('sign-in refused', { reason: 'wrong password' }))
    throw new Refusal('session.wrong_password')
  }
  if (!person || person.closedAt) {
    await records.audit.note(entry('sign-in refused', { reason: 'account closed' }))
    throw new Refusal('session.disabled')
  }

  return records.transaction(async (within) => {
    const opened = await openSession(context, within, person.id, given)
    await within.audit.add(entry('sign in'))
    return opened
  })
}

/** @returns the identity provider’s page that signs out there, too; null where there is none */
export async function signOut(context: Context, actor: Actor): Promise<string | null> {
  const leaveAt = await leavePageOf(context, actor)
  const signingOut = { doer: actor, action: 'sign out', subject: `person ${actor.username}` }
  await act(context, signingOut, async ({ signIns }, at) => {
    if (actor.via === 'session') await signIns.endSession(actor.id, actor.viaId)
    else await signIns.revokeTokens(actor.id, at, actor.viaId)
  })
  return leaveAt
}

/** Ends another session of one's own. */
export async function endSession(context: Context, actor: Actor, id: string): Promise<void> {
  await context.records.transaction(async (records) => {
    if (!(await records.signIns.endSession(actor.id, id))) return
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'end session',
      subject: `session ${id}`,
    })
  })
}

/** Takes the password once more; the session is fresh from then on. @throws Refusal when it is not right, or was guessed too often */
export async function confirmSession(
  context: Context,
  actor: Actor,
  given: { password: string; address: string },
): Promise<void> {
  const { records, clock } = context
  const passwordHash = (await records.people.byId(actor.id))?.passwordHash ?? null
  const right = await checkPassword(context, { ...given, username: actor.username, passwordHash })
  await records.transaction(async (within) => {
    if (right) await within.signIns.confirmSession(actor.viaId, clock.now())
    await within.audit.add({
      at: clock.now(),
      ...by(actor),
      action: right ? 'confirm password' : 'confirming refused',
      subject: `person ${actor.username}`,
      after: { address: given.address },
    })
  })
  if (!right) throw new Refusal('person.wrong_password')
}

/** Changes a password; every other session of the person ends, and tokens and connections unless they are to be kept. @throws Refusal when the present one is not right. */
export async function changePassword(
  context: Context,
  actor: Actor,
  given: { present: string; wanted: string; keepTokens: boolean; address: string },
): Promise<void> {
  const person = await context.records.people.byId(actor.id)
  const passwordHash = person?.passwordHash ?? null
  const { username } = actor
  if (!(await checkPassword(context, { username, password: given.present, passwordHash, address: given.address })))
    throw new Refusal('person.wrong_password')
  await requireStrong(given.wanted, [person?.username, person?.fullName, person?.email])
  const newHash = await hashPassword(given.wanted)
  await context.records.transaction(async (records) => {
    await records.people.update(actor.id, { passwordHash: newHash })
    await records.signInLinks.drop(actor.id)
    await records.signIns.endSessions(actor.id, actor.viaId)
    if (!given.keepTokens) {
      await records.signIns.revokeTokens(actor.id, context.clock.now())
      await records.connections.revokeAll(actor.id, 'person', context.clock.now())
    }
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'change password',
      subject: `person ${actor.username}`,
      after: { tokens: given.keepTokens ? 'kept' : 'ended' },
    })
  })
}
