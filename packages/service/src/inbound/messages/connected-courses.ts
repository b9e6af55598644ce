import { Refusal } from '@bathyscribe/contract'
import type { Context } from '../../desk/context.js'
import { courseServices } from '../../desk/services/claims.js'
import type { ServiceAnswer } from '../../desk/services/answer.js'
import type { ConnectionRow } from '../../records/connections.js'
import type { ClientRow } from '../../records/statements/clients.js'
import type { About, Taken } from '../message.js'
import { connected } from '../steps/service-token.js'
import { aboutCall, type WithToken } from './service.js'

const COURSES_MEDIA_TYPE = 'application/vnd.bathyscribe.courses.v1+json'

type Connected = WithToken & { tool: ClientRow; connection: ConnectionRow }

/** That the token is for a connection that still stands (docs/connections.md). */
export function standingConnection(
  context: Context,
  { token }: WithToken,
): Promise<Pick<Connected, 'tool' | 'connection'> | Refusal> {
  return connected(context, token)
}

/** The courses that a connection opens, each with its services. */
export async function connectedCourses(context: Context, { connection }: Connected): Promise<Taken<ServiceAnswer>> {
  const courses = await context.records.connections.courses(connection.id)
  const body = {
    courses: courses.map(({ id, code, title }) => {
      const at = courseServices(context.settings, id)
      return { id, label: code, title, memberships: `${at}/memberships`, lineitems: `${at}/lineitems` }
    }),
  }
  return {
    statement: `Listed ${courses.length} courses that ${connection.person.fullName} connected.`,
    answer: () => ({ mediaType: COURSES_MEDIA_TYPE, body }),
  }
}

export function aboutConnection(context: Context, call: Connected): About {
  return { entry: { ...aboutCall(context, call).entry, registrationId: call.tool.id } }
}
