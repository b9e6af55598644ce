import { hash, verify } from '@node-rs/argon2'
import { plainUsername, Refusal } from '@bathyscribe/contract'
import { fingerprint } from '../keys/key-file.js'
import { by, type Actor, type Context } from './context.js'

// Checked instead of nothing for unknown names, so that an answer takes as long whether the name exists or not.
let nobodysHash: string | undefined

export async function hashPassword(password: string): Promise<string> {
  return hash(password)
}

/** Signs a person in. @returns the session's token, which only the browser keeps. @throws Refusal */
export async function signIn(
  context: Context,
  given: { username: string; password: string; userAgent: string },
): Promise<{ token: string; personId: string; expiresAt: Date }> {
  const { records, clock, ids, settings } = context
  const person = await records.people.byUsername(plainUsername(given.username).replaceAll('\u0000', ''))
  nobodysHash ??= await hash(ids.secret())
  const right = await verify(person?.passwordHash ?? nobodysHash, given.password)
  if (!person || !person.passwordHash || !right) throw new Refusal('session.wrong_password')
  if (person.closedAt) throw new Refusal('session.disabled')

  const now = clock.now()
  const token = ids.secret()
  const expiresAt = new Date(now.getTime() + settings.sessionHours * 3600_000)
  await records.signIns.insertSession({
    id: ids.next(),
    tokenHash: fingerprint(token),
    personId: person.id,
    createdAt: now,
    lastSeenAt: now,
    expiresAt,
    userAgent: given.userAgent.replaceAll('\u0000', '').slice(0, 300),
  })
  return { token, personId: person.id, expiresAt }
}

export async function signOut(context: Context, actor: Actor): Promise<void> {
  if (actor.via === 'session') await context.records.signIns.endSession(actor.id, actor.viaId)
  else await context.records.signIns.revokeTokens(actor.id, context.clock.now(), actor.viaId)
}

/** Changes a password; every other session of the person ends. @throws Refusal when the present one is not right. */
export async function changePassword(
  context: Context,
  actor: Actor,
  given: { present: string; wanted: string },
): Promise<void> {
  const person = await context.records.people.byId(actor.id)
  if (!person?.passwordHash || !(await verify(person.passwordHash, given.present)))
    throw new Refusal('person.wrong_password')
  const passwordHash = await hash(given.wanted)
  await context.records.transaction(async (records) => {
    await records.people.update(actor.id, { passwordHash })
    await records.signIns.endSessions(actor.id, actor.viaId)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'change password',
      subject: `person ${actor.username}`,
    })
  })
}
