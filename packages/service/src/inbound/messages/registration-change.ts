import { Refusal } from '@bathyscribe/contract'
import type { ToolMetadata } from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import { store } from '../../desk/tools/change-tool.js'
import { fieldsFrom, placementsFrom } from '../../desk/tools/decide.js'
import { fingerprint } from '../../keys/key-file.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { About, Taken } from '../message.js'
import {
  aboutDescription,
  describe,
  metadataWhole,
  statementOf,
  type RegistrationAnswer,
  type RegistrationCall,
} from './registration.js'

/** A call of a registration at its own address, by the tool that it is of. */
export interface ManagementCall extends RegistrationCall {
  clientId: string
}
type OfTool = ManagementCall & { tool: RegistrationRecord; known: ToolMetadata }
type Changed = OfTool & { metadata: ToolMetadata | undefined }

/** That the token is the management token of this registration (Dynamic Client Registration section 4; RFC 7592). */
export async function toolManaged(
  { records }: Context,
  { token, clientId }: ManagementCall,
): Promise<Pick<OfTool, 'tool' | 'known'> | Refusal> {
  const tool = await records.tools.byManagementHash(fingerprint(token))
  return !tool?.metadata || tool.clientId !== clientId || tool.state === 'deleted' || tool.state === 'retired'
    ? new Refusal('registration.token')
    : { tool, known: tool.metadata }
}

/** What it wants changed; who only asks says nothing. */
export function changeWhole(context: Context, call: OfTool): { metadata: ToolMetadata | undefined } | Refusal {
  return call.sent === undefined ? { metadata: undefined } : metadataWhole(context, call)
}

/** What was never approved can still be changed freely; afterwards a change is a proposal. */
export async function changeProposed(
  context: Context,
  { tool, known, metadata }: Changed,
): Promise<Taken<RegistrationAnswer>> {
  if (metadata === undefined)
    return {
      statement: `“${tool.name}” read its registration.`,
      answer: async () => ({ status: 200, body: await describe(context, tool, known) }),
    }
  const updatedAt = context.clock.now()
  const change: Partial<RegistrationRecord> =
    tool.state === 'waiting'
      ? { ...fieldsFrom(metadata), placements: placementsFrom(metadata), updatedAt }
      : { proposal: metadata, updatedAt }
  await store(context, null, tool, tool.revision, change, 'change proposed by the tool')
  return {
    statement: statementOf(tool),
    answer: async () => ({
      status: 200,
      body: await describe(context, { ...tool, ...change }, change.metadata ?? known),
    }),
  }
}

export function aboutRegistration(context: Context, call: OfTool): About {
  const { tool } = call
  return {
    entry: { ...aboutDescription(context, call).entry, registrationId: tool.id, courseId: tool.courseId },
  }
}
