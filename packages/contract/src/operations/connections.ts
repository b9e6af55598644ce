import { z } from 'zod'
import { Id } from '../resources/common.js'
import * as connections from '../resources/connections.js'
import { person, personHere, teaching } from './access.js'
import { define } from './define.js'

/** Calls about tools that are connected by consent instead of being launched. */
export const connectionOperations = {
  showConnectionRequest: define('connections', 'GET /api/connection-request', 'What a tool asks you to let it do', {
    access: person,
    query: connections.ConnectionAsked,
    answer: connections.ConnectionAnswer,
  }),
  connectTool: define('connections', 'POST /api/connections', 'Connects a tool with courses that you instruct', {
    access: personHere,
    status: 201,
    body: connections.NewConnection,
    answer: z.object({ redirectTo: z.string() }),
  }),
  listConnections: define(
    'connections',
    'GET /api/connections',
    'Lists connections: yours, and those of your courses',
    {
      touchedBy: ['tool'],
      access: person,
      query: z.strictObject({ tool: z.string().max(120).optional() }),
      answer: z.object({ items: z.array(connections.Connection) }),
    },
  ),
  revokeConnection: define('connections', 'DELETE /api/connections/:id', 'Takes a connection back, at once', {
    access: { who: 'person', scope: teaching.scope },
    params: z.object({ id: Id }),
  }),
} as const
