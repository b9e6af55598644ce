import type { Refusal } from '@bathyscribe/contract'
import type { Context } from '../desk/context.js'
import { NO_LINK, type MessageToWrite } from '../records/statements/messages.js'
import { isOurs } from './message.js'

/** What was refused before it came to its row, as for its size or its form, leaves an entry as well, as long as the records can be reached. */
export async function leaveUnread(
  context: Context,
  refusal: Refusal,
  parts: Pick<MessageToWrite, 'kind' | 'statement' | 'durationMs' | 'request'> & Partial<MessageToWrite>,
): Promise<void> {
  if (isOurs(refusal)) return
  await context.statements
    .writeMessage({
      ...NO_LINK,
      at: context.clock.now(),
      direction: 'received',
      outcome: 'refused',
      code: refusal.code,
      detail: refusal.detail ?? null,
      registrationId: null,
      ...parts,
    })
    .catch((error: unknown) => context.log.warn({ err: error }, 'no wire entry for a refused call'))
}
