import type { RecordsInside } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'

/** Goes on to the next key: what was signed with the one before stays good, so that nothing is interrupted. */
export function rotateKeys(context: Context, actor: Actor, reason: string): Promise<void> {
  return context.keyring.rotate(noting(context, actor, 'rotate platform keys', reason))
}

/** Ends all keys, as after a theft: nothing that they signed is good any more. */
export function endKeys(context: Context, actor: Actor, reason: string): Promise<void> {
  return context.keyring.endAll(noting(context, actor, 'end platform keys', reason))
}

function noting({ clock }: Context, actor: Actor, action: string, reason: string) {
  return ({ audit }: RecordsInside) =>
    audit.add({ at: clock.now(), ...by(actor), action, subject: 'platform keys', after: { reason } })
}
