import type { connectionOperations } from '@bathyscribe/contract'
import { inText } from './views/moments.js'
import { connect, listConnections, revokeConnection, showRequest } from '../../desk/identity/connections.js'
import type { Context } from '../../desk/context.js'
import type { Handlers } from './routes.js'

/** Calls about connected tools. */
export function connectionHandlers(context: Context): Pick<Handlers, keyof typeof connectionOperations> {
  return {
    showConnectionRequest: ({ caller, query }) => showRequest(context, caller.actor, query),
    connectTool: ({ caller, body }) => connect(context, caller.actor, body),
    listConnections: async ({ caller, query }) => ({
      items: inText(await listConnections(context, caller.actor, query.tool)),
    }),
    revokeConnection: ({ caller, params }) => revokeConnection(context, caller.actor, params.id) as Promise<undefined>,
  }
}
