import { plainAscii } from '@bathyscribe/core/text'
import { ERRORS, Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import {
  addressDifference,
  checkAuthorization,
  readHints,
  type AuthorizationProblem,
  type AuthorizationRequest,
  type LoginHint,
} from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Link } from '../../records/statements/links.js'
import { NO_LINK } from '../../records/statements/messages.js'
import { clip, mask } from '../../wire/mask.js'
import type { Actor, Context } from '../context.js'
import { launchEntry, openingKind, publishLaunch } from './launch-entry.js'
import { claimsFor } from './login.js'
import { launchObstacle } from './obstacles.js'
import { reviewObstacle } from './open-review.js'
import { noteEntry } from './open-launch.js'

/** What the browser is to post to the tool: an id_token, or an error. */
export interface AuthorizationAnswer {
  url: string
  fields: Parameter[]
  /** Whether it is an error. */
  refused: boolean
}

type Client = Pick<RegistrationRecord, 'id' | 'redirectUris'>

/** Why the launch does not go on, in the standard's word and in ours. */
interface Refused {
  error: AuthorizationProblem['error']
  code: ErrorCode
  detail: string
}

/**
 * Answers an authorisation request (LTI 1.3 core section 4.1.2; OpenID Connect Core section 3.2.2). The steps, in their order: client and redirect address,
 * without which nothing is sent anywhere; the form of the request; our hints, their time, whom they are for, their single use; the launch itself. The wire entry
 * is committed before the page is answered.
 * @param actor who is signed in at the browser; undefined for nobody
 * @throws Refusal `login.client_unknown`, `login.redirect_uri_unknown`: a page here, never a redirect
 */
export async function authorize(
  context: Context,
  actor: Actor | undefined,
  request: AuthorizationRequest,
): Promise<AuthorizationAnswer> {
  const started = performance.now()
  const hint = readHints(context.keys.hintKeys, {
    login: request['login_hint'] ?? '',
    message: request['lti_message_hint'] ?? '',
  })
  const link = hint && (await context.statements.findLink({ linkId: hint.linkId, personId: hint.personId }))
  const reached: Reached = { context, request, hint, link, started }
  const client = await clientOf(reached)
  const redirectUri = await redirectUriOf(reached, client)

  const refused = checkAuthorization(request) ?? checkHint(reached, client, actor) ?? checkLaunch(reached)
  if (refused) return refuse(reached, client, redirectUri, refused)
  const about = hint?.aboutId
    ? await context.statements.findLink({ linkId: hint.linkId, personId: hint.aboutId })
    : undefined
  if (hint?.aboutId && !about?.enrolment)
    return refuse(reached, client, redirectUri, { error: 'invalid_request', code: 'login.hint_unknown', detail: '' })
  return answer(reached, redirectUri, link!, hint!, about)
}

interface Reached {
  context: Context
  request: AuthorizationRequest
  hint: LoginHint | undefined
  link: Link | undefined
  started: number
}

/** The hint names the registration; without a good one the client ID does. */
async function clientOf(reached: Reached): Promise<Client> {
  const { context, request, link } = reached
  const clientId = request['client_id'] ?? ''
  if (link && link.registration.clientId === clientId) return link.registration
  const found = clientId === '' ? null : await context.records.tools.byClientId(clientId)
  if (found) return found
  const detail = `“${clientId.slice(0, 80)}”`
  await leaveEntry(reached, link?.registration.id ?? null, 'login.client_unknown', detail)
  throw new Refusal('login.client_unknown', detail)
}

async function redirectUriOf(reached: Reached, client: Client): Promise<string> {
  const redirectUri = reached.request['redirect_uri'] ?? ''
  if (client.redirectUris.includes(redirectUri)) return redirectUri
  const detail = addressDifference(redirectUri.slice(0, 2000), client.redirectUris)
  await leaveEntry(reached, client.id, 'login.redirect_uri_unknown', detail)
  throw new Refusal('login.redirect_uri_unknown')
}

function checkHint({ context, hint }: Reached, client: Client, actor: Actor | undefined): Refused | undefined {
  const bad = (code: ErrorCode, detail = ''): Refused => ({ error: 'invalid_request', code, detail })
  if (!hint || hint.registrationId !== client.id) return bad('login.hint_unknown')
  const late = Math.floor(context.clock.now().getTime() / 1000) - hint.expiresSeconds
  if (late > 0) return bad('login.hint_expired', `${late} seconds ago`)
  return actor?.id === hint.actorId ? undefined : { error: 'login_required', code: 'login.other_person', detail: '' }
}

function checkLaunch({ context, link, request, hint }: Reached): Refused | undefined {
  if (!link) return { error: 'invalid_request', code: 'login.hint_unknown', detail: 'the link is gone' }
  const obstacle =
    link.registration.clientId === request['client_id']
      ? (hint?.aboutId ? reviewObstacle : launchObstacle)(link, context.clock.now())
      : 'login.hint_unknown'
  return obstacle && { error: 'unauthorized_client', code: obstacle, detail: '' }
}

async function answer(
  reached: Reached,
  redirectUri: string,
  link: Link,
  hint: LoginHint,
  about: Link | undefined,
): Promise<AuthorizationAnswer> {
  const { context, request, started } = reached
  const claims = claimsFor(context, link, request['nonce']!, { target: hint.target, about })
  const now = context.clock.now()
  // Signing and writing go side by side; nothing is answered before both are done.
  const [token, written] = await Promise.all([
    context.keyring.sign(claims),
    context.statements.writeMessage(
      launchEntry(context, link, undefined, {
        at: now,
        kind: openingKind(link),
        outcome: 'accepted',
        statement: about
          ? `Sent ${link.person.fullName} to ${new URL(redirectUri).host}, to review what ${about.person.fullName} handed in.`
          : `Sent ${link.person.fullName} to ${new URL(redirectUri).host}.`,
        durationMs: performance.now() - started,
        visit: link.resource.kind === 'assignment' && !about,
        request: {
          method: 'POST',
          url: redirectUri,
          parameters: [['state', clip(request['state'] ?? '')]],
          body: JSON.stringify(claims),
        },
        nonce: { value: `login ${hint.id}`, expiresAt: new Date((hint.expiresSeconds + 60) * 1000) },
      }),
    ),
  ])
  if (!written.written)
    return refuse(reached, link.registration, redirectUri, {
      error: 'invalid_request',
      code: 'login.hint_used',
      detail: '',
    })
  if (!about) await noteEntry(context, link)
  publishLaunch(context, link, 'launch')
  return { url: redirectUri, fields: [['id_token', token], ...stateOf(request)], refused: false }
}

async function refuse(
  reached: Reached,
  client: Client,
  redirectUri: string,
  refused: Refused,
): Promise<AuthorizationAnswer> {
  await leaveEntry(reached, client.id, refused.code, refused.detail)
  return {
    url: redirectUri,
    fields: [
      ['error', refused.error],
      ['error_description', plainAscii(`${refused.code}: ${sentenceOf(refused)}`)],
      ...stateOf(reached.request),
    ],
    refused: true,
  }
}

function stateOf(request: AuthorizationRequest): Parameter[] {
  return request['state'] === undefined ? [] : [['state', request['state']]]
}

/** A refused request leaves an entry that says why, as received. */
async function leaveEntry(
  { context, request, link, started }: Reached,
  registrationId: string | null,
  code: ErrorCode,
  detail: string,
): Promise<void> {
  const shown = Object.entries(request).map(([name, value]): Parameter => [
    name.slice(0, 100),
    name.endsWith('_hint') ? mask(value) : clip(value),
  ])
  const entry = {
    direction: 'received' as const,
    kind: 'login',
    outcome: 'refused' as const,
    code,
    detail: detail || null,
    statement: ERRORS[code].sentence,
    durationMs: performance.now() - started,
    request: { method: 'GET', url: `${context.settings.publicUrl}/lti/authorize`, parameters: shown.slice(0, 50) },
  }
  if (link && link.registration.id === registrationId) {
    await context.statements.writeMessage(launchEntry(context, link, undefined, entry))
    publishLaunch(context, link, 'refusal')
    return
  }
  await context.statements.writeMessage({
    ...NO_LINK,
    ...entry,
    at: context.clock.now(),
    registrationId,
  })
}
