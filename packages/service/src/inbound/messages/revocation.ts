import type { Context } from '../../desk/context.js'
import { fingerprint } from '../../keys/key-file.js'
import { kidKey } from '../../records/statements/key-use.js'
import type { Taken } from '../message.js'
import type { WithClient } from '../steps/client-assertion.js'
import type { TokenAnswer } from './token.js'

/** Ends a connection by one of its tokens, as the tool that holds it asks (RFC 7009). Unknown tokens are answered alike. */
export function revoked(context: Context, { client, jws, form }: WithClient): Taken<TokenAnswer> {
  const { records, clock, keyUses } = context
  return {
    statement: `“${client.name}” ended a connection by its token.`,
    answer: async () => {
      const now = clock.now()
      keyUses.note(client.id, kidKey(jws.keyId), now)
      const found = await records.connections.connectionOfGrant(fingerprint(form['token'] ?? ''))
      if (found?.registrationId === client.id) await records.connections.revoke(found.connectionId, 'tool', now)
      return { status: 200, body: {} }
    },
  }
}
