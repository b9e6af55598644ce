import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import {
  addressDifference,
  checkAuthorization,
  readHints,
  type AuthorizationRequest,
  type LoginHint,
} from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { plainAscii } from '@bathyscribe/core/text'
import type { Actor, Context } from '../../desk/context.js'
import { entryOfLink, launchChange, openingKind } from '../../desk/launches/launch-entry.js'
import { claimsFor } from '../../desk/launches/login.js'
import { launchObstacle } from '../../desk/launches/obstacles.js'
import { noteEntry } from '../../desk/launches/open-launch.js'
import { reviewObstacle } from '../../desk/launches/open-review.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Link } from '../../records/statements/links.js'
import { clip, mask } from '../../wire/mask.js'
import { isOurs, refuseByRoute, type About, type Refused, type Taken } from '../message.js'
import { tokenNonce } from '../steps/freshness.js'

/** What a tool sends the browser with, and what tells who is signed in there: somebody who is known already, or the hash of a session. */
export interface AuthorizationCall {
  request: AuthorizationRequest
  signedIn: { actor: Actor } | { session: Buffer } | undefined
}

/** What the browser is to post to the tool: an id_token, or an error. */
export interface AuthorizationAnswer {
  url: string
  fields: Parameter[]
  /** Whether it is an error. */
  refused: boolean
}

type Client = Pick<RegistrationRecord, 'id' | 'redirectUris'>
type Hinted = AuthorizationCall & { hint: LoginHint | undefined }
type Linked = Hinted & { link: Link | undefined; actor: Actor | undefined }
type FromClient = Linked & { client: Client }
type Redirected = FromClient & { redirectUri: string }
type Whole = Redirected & { replay: string }
type OurHint = Whole & { hint: LoginHint }
type Launch = OurHint & { link: Link }
type Reviewing = Launch & { reviewed: Link | undefined }

/** The hints that we gave the tool along (LTI 1.3 core section 4.1). */
export function ourHints({ keys }: Context, { request }: AuthorizationCall) {
  const hints = { login: request['login_hint'] ?? '', message: request['lti_message_hint'] ?? '' }
  return { hint: readHints(keys.hintKeys, hints) }
}

/** The link that a hint names, as it is for the person named there, and who is signed in: one question where that is the same person. */
export async function linkOfHint(
  { statements }: Context,
  { hint, signedIn }: Hinted,
): Promise<{ link: Link | undefined; actor: Actor | undefined }> {
  if (!hint) return { link: undefined, actor: undefined }
  const { linkId, personId } = hint
  const own = signedIn && 'session' in signedIn && (await statements.findOwnLink({ linkId, session: signedIn.session }))
  const actor = own ? own.actor : signedIn && 'actor' in signedIn ? signedIn.actor : undefined
  const link = own && own.actor.id === personId ? own.link : await statements.findLink({ linkId, personId })
  return { link, actor }
}

/** The hint names the registration; without a good one the client ID does. */
export async function clientOfRequest(
  { records }: Context,
  { request, link }: Linked,
): Promise<{ client: Client } | Refusal> {
  const clientId = request['client_id'] ?? ''
  if (link && link.registration.clientId === clientId) return { client: link.registration }
  const client = clientId === '' ? null : await records.tools.byClientId(clientId)
  return client ? { client } : new Refusal('login.client_unknown', `“${clientId.slice(0, 80)}”`)
}

/** That the answer goes to an address of the tool’s: without that nothing is sent anywhere (LTI 1.3 core section 4.1.2). */
export function registeredRedirect(_: Context, { request, client }: FromClient): { redirectUri: string } | Refusal {
  const redirectUri = request['redirect_uri'] ?? ''
  return client.redirectUris.includes(redirectUri)
    ? { redirectUri }
    : new Refusal('login.redirect_uri_unknown', addressDifference(redirectUri.slice(0, 2000), client.redirectUris))
}

/** The form of the request (OpenID Connect Core section 3.2.2.1). */
export function wholeRequest(_: Context, { request }: Redirected): { replay: string } | Refusal {
  const problem = checkAuthorization(request)
  return problem ? Refusal.of(problem) : { replay: request['nonce'] ?? '' }
}

/** That the hint is one of ours, for this tool, and not over. */
export function hintOfClient({ clock }: Context, { hint, client }: Whole): { hint: LoginHint } | Refusal {
  if (!hint || hint.registrationId !== client.id) return new Refusal('login.hint_unknown')
  const late = Math.floor(clock.now().getTime() / 1000) - hint.expiresSeconds
  return late > 0 ? new Refusal('login.hint_expired', `${late} seconds ago`) : { hint }
}

/** That the browser is the one that was sent off: whoever is signed in there opened the launch. */
export function samePerson(_: Context, { hint, actor }: OurHint): object | Refusal {
  return actor?.id === hint.actorId ? {} : new Refusal('login.other_person')
}

export function hintNonce(context: Context, { hint }: OurHint) {
  return { nonce: tokenNonce(context, `login ${hint.id}`, hint.expiresSeconds) }
}

export const hintUsed = () => new Refusal('login.hint_used')

/** That the person may still open it. */
export function openLink({ clock }: Context, { request, hint, link }: OurHint): { link: Link } | Refusal {
  if (!link) return new Refusal('login.hint_unknown', 'the link is gone')
  if (link.registration.clientId !== request['client_id']) return new Refusal('login.hint_unknown')
  const obstacle = (hint.aboutId ? reviewObstacle : launchObstacle)(link, clock.now())
  return obstacle ? new Refusal(obstacle) : { link }
}

/** Whose submission is to be reviewed, where one is (Submission Review 1.0). */
export async function personReviewed(
  { statements }: Context,
  { hint }: Launch,
): Promise<{ reviewed: Link | undefined } | Refusal> {
  if (!hint.aboutId) return { reviewed: undefined }
  const reviewed = await statements.findLink({ linkId: hint.linkId, personId: hint.aboutId })
  return reviewed?.enrolment ? { reviewed } : new Refusal('login.hint_unknown')
}

/** The id_token (LTI 1.3 core section 5.3), signed beside the writing of the entry. */
export function idToken(context: Context, call: Reviewing): Taken<AuthorizationAnswer> {
  const { request, redirectUri, replay, link, hint, reviewed } = call
  const claims = claimsFor(context, link, replay, { target: hint.target, about: reviewed })
  const token = context.keyring.sign(claims)
  const purpose = reviewed ? `, to review what ${reviewed.person.fullName} handed in` : ''
  return {
    statement: `Sent ${link.person.fullName} to ${new URL(redirectUri).host}${purpose}.`,
    kept: {
      kind: openingKind(link),
      direction: 'sent',
      visit: link.resource.kind === 'assignment' && !reviewed,
      request: {
        method: 'POST',
        url: redirectUri,
        parameters: [['state', clip(request['state'] ?? '')]],
        body: JSON.stringify(claims),
      },
    },
    beside: token,
    answer: async () => {
      if (!reviewed) await noteEntry(context, link)
      return { url: redirectUri, fields: [['id_token', await token], ...stateOf(request)], refused: false }
    },
  }
}

export function aboutRequest({ settings }: Context, { request }: AuthorizationCall): About {
  const shown = Object.entries(request).map(([name, value]): Parameter => [
    name.slice(0, 100),
    name.endsWith('_hint') ? mask(value) : clip(value),
  ])
  return {
    entry: {
      registrationId: null,
      request: { method: 'GET', url: `${settings.publicUrl}/lti/authorize`, parameters: shown.slice(0, 50) },
    },
  }
}

export function aboutHint(context: Context, call: Linked): About {
  const { entry } = aboutRequest(context, call)
  return { entry: { ...entry, registrationId: call.link?.registration.id ?? null } }
}

/** A hint for another tool says nothing of this one: then nothing of its link is noted. */
export function aboutLaunch(context: Context, call: FromClient): About {
  const { link, client } = call
  const entry = { ...aboutRequest(context, call).entry, registrationId: client.id }
  if (link?.registration.id !== client.id) return { entry }
  return {
    entry: { ...entry, ...entryOfLink(link) },
    tells: { taken: launchChange(link, 'launch'), refused: launchChange(link, 'refusal') },
  }
}

/** The words of OpenID Connect Core section 3.1.2.6; what keeps a person from opening the link is `unauthorized_client`. */
const WORDS: Partial<Record<ErrorCode, string>> = {
  'login.response_type': 'unsupported_response_type',
  'login.scope': 'invalid_scope',
  'login.parameter_wrong': 'invalid_request',
  'login.parameter_missing': 'invalid_request',
  'login.value_too_long': 'invalid_request',
  'login.hint_unknown': 'invalid_request',
  'login.hint_expired': 'invalid_request',
  'login.hint_used': 'invalid_request',
  'login.other_person': 'login_required',
}

/** A page here, never a redirect: nobody knows yet whose address it would be. */
export function refuseHere(context: Context, call: AuthorizationCall, refusal: Refusal): Refused<never> {
  // Where an address differs is for the technologist, who finds it in the wire log.
  const said = refusal.code === 'login.redirect_uri_unknown' ? new Refusal(refusal.code) : refusal
  return refuseByRoute(context, call, said)
}

export function refuseAtTool(
  _: Context,
  { request, redirectUri }: Redirected,
  refusal: Refusal,
): Refused<AuthorizationAnswer> {
  return {
    answer: () => {
      if (isOurs(refusal)) throw refusal
      return {
        url: redirectUri,
        fields: [
          ['error', WORDS[refusal.code] ?? 'unauthorized_client'],
          ['error_description', plainAscii(`${refusal.code}: ${sentenceOf(refusal)}`)],
          ...stateOf(request),
        ],
        refused: true,
      }
    },
  }
}

function stateOf(request: AuthorizationRequest): Parameter[] {
  return request['state'] === undefined ? [] : [['state', request['state']]]
}
