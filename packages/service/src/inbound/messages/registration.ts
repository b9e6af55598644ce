import { Problem } from '@bathyscribe/core/result'
import { ERRORS, Refusal } from '@bathyscribe/contract'
import { lookAlike } from '@bathyscribe/core/links'
import {
  readToolMetadata,
  writeToolMetadata,
  type Claims,
  type MetadataProblem,
  type ToolMetadata,
} from '@bathyscribe/core/lti13'
import type { Context } from '../../desk/context.js'
import { fieldsFrom, placementsFrom } from '../../desk/tools/decide.js'
import { blankRegistration, nameTaken, storeNew } from '../../desk/tools/registration.js'
import { freeToolSlug } from '../../desk/tools/tool-slug.js'
import { fingerprint } from '../../keys/key-file.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { clip } from '../../wire/mask.js'
import type { About, Refused, Taken } from '../message.js'

/** What a tool sends of itself. `sent` is undefined where it only asks. */
export interface RegistrationCall {
  method: 'GET' | 'POST' | 'PUT'
  token: string
  sent: unknown
}

/** What a tool is answered: the body, and its HTTP status. */
export interface RegistrationAnswer {
  status: 200 | 201 | 400 | 401
  body: Claims
}

export type Described = RegistrationCall & { metadata: ToolMetadata }

/** What is wrong with a description, in the words of Dynamic Client Registration section 3.3, too. */
class NotAsItMust extends Refusal {
  constructor(readonly problem: MetadataProblem) {
    super('metadata.invalid', problem.detail)
  }
}

/** That the token is of an invitation that is still open (Dynamic Registration 1.0 section 3.1). Strangers learn nothing of what is wrong with theirs, and fill no log with it. */
export async function openInvitation(
  { records, clock }: Context,
  { token }: RegistrationCall,
): Promise<object | Refusal> {
  return (await records.secrets.isOpenInvitation(fingerprint(token), clock.now()))
    ? {}
    : new Refusal('registration.token')
}

/** What it says of itself (Dynamic Registration 1.0 section 3.5; OpenID Connect Dynamic Client Registration section 2). */
export function metadataWhole(_: Context, { sent }: RegistrationCall): { metadata: ToolMetadata } | Refusal {
  const metadata = readToolMetadata(sent, { strict: true })
  return metadata instanceof Problem ? new NotAsItMust(metadata) : { metadata }
}

/** Makes the registration, which waits for approval. The token is used up only by one that is good. */
export async function registered(
  context: Context,
  { token, metadata }: Described,
): Promise<Taken<RegistrationAnswer> | Refusal> {
  const { records, ids, clock, changes } = context
  const now = clock.now()
  const management = ids.secret()
  const tool: RegistrationRecord = {
    ...blankRegistration(now),
    ...fieldsFrom(metadata),
    id: ids.next(),
    slug: await freeToolSlug(records, metadata.name),
    name: metadata.name,
    likeness: lookAlike(metadata.name),
    state: 'waiting',
    version: '1.3',
    clientId: ids.next(),
    placements: placementsFrom(metadata),
    managementHash: fingerprint(management),
  }
  const made = await records
    .transaction(async (inside) => {
      const invitation = await inside.secrets.useInvitation(fingerprint(token), now)
      if (!invitation) return new Refusal('registration.token')
      // The tool would hold one of the two client IDs, and answer under it for both.
      const [same] = await inside.tools.similar({ initiationUrl: tool.initiationUrl })
      if (same && invitation.secondReason === null) throw new RegisteredAlready(same.id)
      if (invitation.name !== null) {
        tool.name = invitation.name
        tool.likeness = lookAlike(invitation.name)
        tool.slug = await freeToolSlug(inside, invitation.name)
      }
      tool.courseId = invitation.courseId
      await storeNew(inside, context, null, tool, [], invitation.secondReason ?? undefined)
      await inside.secrets.tieInvitation(invitation.id, tool.id)
      if (invitation.courseId !== null)
        await inside.menus.addTool(invitation.courseId, tool.id, invitation.personId, now)
      return tool
    })
    .catch((error: unknown) => (error instanceof RegisteredAlready ? error : nameTaken(tool)(error)))
  if (made instanceof RegisteredAlready) {
    await records.secrets.noteSame(fingerprint(token), made.registrationId)
    changes.publish({ kind: 'tool', courseId: null })
    return new Refusal('tool.already_registered', 'the same login initiation address is registered here already')
  }
  if (made instanceof Refusal) return made
  const body = await describe(context, tool, metadata, management)
  return {
    statement: statementOf(tool),
    kept: { registrationId: tool.id, courseId: tool.courseId },
    answer: () => {
      changes.publish({ kind: 'tool', courseId: tool.courseId })
      return { status: 201, body }
    },
  }
}

/** The tool is registered already, and nobody said that it may be a second time. The token stays good. */
class RegisteredAlready extends Error {
  constructor(readonly registrationId: string) {
    super('registered already')
  }
}

export const statementOf = ({ name, state }: Pick<RegistrationRecord, 'name' | 'state'>) =>
  `“${name}” described itself; it is ${state}.`

export function aboutInvitation({ settings }: Context, { method }: RegistrationCall): About {
  return { entry: { registrationId: null, request: { method, url: `${settings.publicUrl}/lti/register` } } }
}

export function aboutDescription(context: Context, call: RegistrationCall): About {
  const { entry } = aboutInvitation(context, call)
  const request = { method: call.method, url: `${context.settings.publicUrl}/lti/register` }
  return call.sent === undefined
    ? { entry }
    : { entry: { ...entry, request: { ...request, body: clip(JSON.stringify(call.sent)) } } }
}

export function refuseDescription(_: Context, __: RegistrationCall, refusal: Refusal): Refused<RegistrationAnswer> {
  return { answer: () => answerOf(refusal) }
}

function answerOf(refusal: Refusal): RegistrationAnswer {
  if (refusal.code === 'registration.token')
    return { status: 401, body: { error: 'invalid_token', error_description: ERRORS[refusal.code].sentence } }
  if (refusal instanceof NotAsItMust)
    return { status: 400, body: { error: refusal.problem.error, error_description: refusal.problem.detail } }
  if (refusal.code !== 'tool.already_registered') throw refusal
  return { status: 400, body: { error: 'invalid_client_metadata', error_description: refusal.detail } }
}

/** A registration as its tool sees it. @param managementToken told once, when it was made */
export async function describe(
  { records, settings }: Context,
  tool: RegistrationRecord,
  metadata: ToolMetadata,
  managementToken?: string,
): Promise<Claims> {
  const deployment = await records.tools.mainDeployment(tool.id)
  const clientId = tool.clientId ?? ''
  return writeToolMetadata(metadata, {
    clientId,
    deploymentId: deployment?.id ?? '',
    // While it waits it is told what it asked for: a tool keeps what it is told, and gets no token until it is approved.
    scopes: tool.state === 'waiting' ? metadata.scopes : tool.scopes,
    managementUrl: `${settings.publicUrl}/lti/register/${clientId}`,
    ...(managementToken !== undefined && { managementToken }),
  })
}
