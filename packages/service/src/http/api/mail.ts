import type { mailOperations } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { changeDigest, readDigest, sendDigestNow } from '../../desk/mail/send-digest.js'
import type { Handlers } from './routes.js'

/** Calls about the digest of Watch by mail. */
export function mailHandlers(context: Context): Pick<Handlers, keyof typeof mailOperations> {
  return {
    showMailDigest: ({ caller }) => readDigest(context, caller.actor),
    changeMailDigest: ({ caller, body }) => changeDigest(context, caller.actor, body),
    sendMailDigest: ({ caller }) => sendDigestNow(context, caller.actor),
  }
}
