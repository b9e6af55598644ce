import { Problem } from '@bathyscribe/core/result'
import { Refusal, sentenceOf } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import { bearerToken, OUTCOMES_SCOPE } from '@bathyscribe/core/lti13'
import {
  readOutcomesRequest,
  readResultId,
  writeOutcomesResponse,
  type OutcomesProblem,
  type OutcomesRequest,
  type OutcomesResponse,
} from '@bathyscribe/core/lti1'
import {
  parseAuthorizationHeader,
  readOAuthParameters,
  verifyRequest,
  type OAuthParameters,
  type Parameter,
} from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'
import { explainSigned } from '../../desk/diagnosis/diagnose-signed.js'
import type { ScoredLink } from '../../records/statements/scored-links.js'
import { clip, maskHeaders } from '../../wire/mask.js'
import { isOurs, type About, type Refused, type Room, type Taken } from '../message.js'
import { nonceOf } from '../steps/freshness.js'
import { verifiedBySecret, type Signer } from '../steps/secret-signature.js'
import { accessToken, callerOf, mayCall } from '../steps/service-token.js'
import { describe, scoreOf, type Score } from './outcome-score.js'

/** A call of the outcomes service as it came in. `path` is that of the request, with its query. */
export interface OutcomeCall {
  path: string
  headers: Readonly<Record<string, string | string[] | undefined>>
  body: Uint8Array
}

export interface OutcomeAnswer {
  status: 200 | 401
  xml: string
}

type Asked = OutcomeCall & { asked: OutcomesRequest | OutcomesProblem }
type About11 = Asked & { link: ScoredLink | undefined }
/** By what a call says whose it is: a signature, or for links of LTI 1.3 a token. */
type Sender =
  | { by: 'signature'; oauth: OAuthParameters; parameters: Parameter[]; signer: Signer | undefined }
  | { by: 'token'; bearer: string; link: ScoredLink }
type Sent = About11 & { sender: Sender }

/** Reads the envelope (LTI 1.1.1 section 6); what is wrong with it is told only to who may ask. */
export function envelope(_: Context, { body }: OutcomeCall) {
  return { asked: readOutcomesRequest(body) }
}

/** The result that it names: a link and a person, in an identifier of ours. What stands there is looked up for whoever asks for it only. */
export async function linkOfResult(
  { keys, statements }: Context,
  { asked }: Asked,
): Promise<{ link: ScoredLink | undefined }> {
  const target = asked instanceof Problem ? undefined : readResultId(keys.resultIdKey, asked.resultId)
  if (asked instanceof Problem || target === undefined) return { link: undefined }
  return {
    link: await (asked.operation === 'readResult' ? statements.findLink(target) : statements.findScored(target)),
  }
}

/** The result names the registration; where it cannot, the key does. */
export async function senderOf(context: Context, { headers, link }: About11): Promise<{ sender: Sender } | Refusal> {
  const header = headers['authorization']
  if (typeof header !== 'string' || header === '') return new Refusal('oauth.header_missing')
  const bearer = bearerToken(header)
  if (bearer !== undefined && link?.registration.version === '1.3') return { sender: { by: 'token', bearer, link } }
  const parameters = parseAuthorizationHeader(header)
  if (!parameters) return new Refusal('oauth.header_malformed', header.slice(0, 40))
  const oauth = readOAuthParameters(parameters)
  if (oauth instanceof Problem) return Refusal.of(oauth)
  const signer = link ? link.registration : (await context.records.tools.byKey(oauth.consumerKey))[0]
  return { sender: { by: 'signature', oauth, parameters, signer } }
}

/** The signature over header and body (RFC 5849 section 3.2; OAuth Body Hash), or the token. */
export async function signatureOrToken(context: Context, call: Sent): Promise<object | Refusal> {
  const { sender, link } = call
  if (sender.by === 'token') return tokenOf(context, sender)
  const { oauth, parameters, signer } = sender
  const key = `“${oauth.consumerKey.slice(0, 80)}”`
  if (!signer?.secretSealed) return new Refusal('oauth.key_unknown', key)
  if (oauth.consumerKey !== signer.consumerKey)
    return new Refusal(link ? 'oauth.key_of_another_tool' : 'oauth.key_unknown', key)
  const url = `${context.settings.publicUrl}${call.path}`
  return verifiedBySecret(context, signer, (sharedSecret) =>
    verifyRequest({ method: 'POST', url, parameters }, oauth, {
      sharedSecret,
      signatureMethod: signer.signatureMethod,
      nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
      windowSeconds: context.settings.clockToleranceSeconds,
      body: call.body,
    }),
  )
}

async function tokenOf(
  context: Context,
  { bearer, link }: Extract<Sender, { by: 'token' }>,
): Promise<object | Refusal> {
  const token = await accessToken(context, bearer)
  if (token instanceof Refusal) return token
  const caller = await callerOf(context, token, { bearer, scope: OUTCOMES_SCOPE, courseId: link.course.id })
  if (caller instanceof Refusal) return caller
  const refusal = await mayCall(context, { token, caller, scope: OUTCOMES_SCOPE })
  if (refusal) return refusal
  return caller.tool.id === link.registration.id
    ? { signedBy: link.registration }
    : new Refusal('oauth.key_of_another_tool', caller.tool.name)
}

/** A signature is good once; a token is used for as many scores as there are. */
export function oauthNonce(context: Context, { sender }: Sent) {
  return { nonce: sender.by === 'signature' ? nonceOf(context, sender.oauth) : undefined }
}

export function nonceUsed({ sender }: Sent): Refusal {
  return new Refusal('oauth.nonce_used', sender.by === 'signature' ? sender.oauth.nonce.slice(0, 60) : undefined)
}

/** That it asks for something that there is, in full. */
export function wellFormed(_: Context, { asked }: Sent): { request: OutcomesRequest } | Refusal {
  return asked instanceof Problem ? Refusal.of(asked) : { request: asked }
}
type Readable = Sent & { request: OutcomesRequest }

/** That the result is one of an assignment of ours. */
export function assignmentOfResult(_: Context, { request, link }: Readable): { link: ScoredLink } | Refusal {
  if (!link) return new Refusal('outcomes.result_id_unknown', request.resultId.slice(0, 40))
  return link.resource.kind === 'assignment'
    ? { link }
    : new Refusal('outcomes.result_id_unknown', 'a menu entry has no result')
}
type Placed = Readable & { link: ScoredLink }

/** That its tool is at work; a suspended one may still return what was worked before, unless that was switched off with it. */
export function toolAtWork(_: Context, { link }: Placed): object | Refusal {
  const { state, scoresWhileSuspended } = link.registration
  return state === 'enabled' || (state === 'suspended' && scoresWhileSuspended)
    ? {}
    : new Refusal('outcomes.tool_not_enabled', state)
}

/** That scores go to learners of the course. */
export function scoredLearner(_: Context, { request, link: { enrolment } }: Placed): object | Refusal {
  if (request.operation === 'readResult' || (enrolment?.state === 'active' && isScored(enrolment.role))) return {}
  const why = enrolment?.state === 'dropped' ? 'dropped' : (enrolment?.role ?? 'not in the course')
  return new Refusal('score.not_a_learner', why)
}

/** Moves or reads the result (LTI 1.1.1 sections 6.1.1 to 6.1.3). */
export function outcome(context: Context, { request, link }: Placed): Taken<OutcomeAnswer> | Refusal {
  const { score, refusal } = request.operation === 'readResult' ? NO_SCORE : scoreOf(request, link)
  if (refusal) return refusal
  const statement = describe(request, score, link)
  const xml = envelopeOf(context, request, {
    codeMajor: 'success',
    severity: 'status',
    description: statement,
    ...(request.operation === 'readResult' && { score: link.result?.fraction ?? '' }),
  })
  const answer: OutcomeAnswer = { status: 200, xml }
  return {
    statement,
    kept: { response: responseOf(answer), ...(score && { score }) },
    answer: () => answer,
  }
}
const NO_SCORE: { score: Score | undefined; refusal: Refusal | undefined } = { score: undefined, refusal: undefined }

export function aboutOutcome(context: Context, call: OutcomeCall): About {
  return { entry: { registrationId: null, request: requestOf(context, call) } }
}

function requestOf({ settings }: Context, { path, headers, body }: OutcomeCall): object {
  return {
    method: 'POST',
    url: `${settings.publicUrl}${path}`,
    headers: maskHeaders(headers),
    body: clip(Buffer.from(body).toString('utf8')),
  }
}

export function aboutResult(context: Context, call: About11): About {
  return call.link ? aboutLink(context, call, call.link, call.link.registration.id) : aboutOutcome(context, call)
}

export function aboutSender(context: Context, call: Sent): About {
  const { link, sender } = call
  const signer = sender.by === 'signature' ? sender.signer : undefined
  if (link) return aboutLink(context, call, link, signer?.id ?? link.registration.id)
  const about = aboutOutcome(context, call)
  return signer ? { entry: { ...about.entry, registrationId: signer.id } } : about
}

function aboutLink(context: Context, call: OutcomeCall, link: ScoredLink, registrationId: string): About {
  const place = { courseId: link.course.id, assignmentId: link.resource.id, personId: link.person.id }
  return {
    entry: { registrationId, request: requestOf(context, call), ...place },
    tells: { refused: { kind: 'refusal', ...place } },
  }
}

export function aboutScore(context: Context, call: Placed): About {
  const about = aboutSender(context, call)
  const { course, resource, person } = call.link
  if (about.tells && call.request.operation !== 'readResult')
    about.tells.taken = { kind: 'score', courseId: course.id, assignmentId: resource.id, personId: person.id }
  return about
}

/** Before it is known who asks, all is refused as unauthenticated. */
const UNAUTHENTICATED: readonly Room[] = ['read', 'identify', 'verify', 'fresh']

export function refuseCall(
  context: Context,
  { asked }: OutcomeCall & { asked?: OutcomesRequest | OutcomesProblem },
  refusal: Refusal,
  at: Room,
): Refused<OutcomeAnswer> {
  const xml = envelopeOf(context, asked, {
    codeMajor: refusal.code === 'outcomes.operation_unsupported' ? 'unsupported' : 'failure',
    severity: 'error',
    description: `${refusal.code}: ${sentenceOf(refusal)}`,
  })
  const answer: OutcomeAnswer = { status: UNAUTHENTICATED.includes(at) ? 401 : 200, xml }
  return {
    answer: () => {
      if (isOurs(refusal)) throw refusal
      return answer
    },
    kept: { response: responseOf(answer) },
  }
}

/** With what may be found out about its cause. */
export function refuseSigned(context: Context, call: Sent, refusal: Refusal, at: Room): Refused<OutcomeAnswer> {
  return {
    ...refuseCall(context, call, refusal, at),
    explain: (wireEntryId) => explain(context, call, refusal, wireEntryId),
  }
}

/** Whoever asks is known: what it asks is refused in a good answer. */
export function refuseKnown(context: Context, call: Sent, refusal: Refusal, at: Room): Refused<OutcomeAnswer> {
  return refuseSigned(context, call, refusal, at === 'fresh' ? at : 'may')
}

/** A score that was refused for what it says, or for whom, belongs into the trail of that person. */
export function refuseScore(context: Context, call: Placed, refusal: Refusal, at: Room): Refused<OutcomeAnswer> {
  const refused = refuseKnown(context, call, refusal, at)
  if (call.request.operation === 'readResult' || at === 'fresh') return refused
  const { score, refusal: ofScore } = scoreOf(call.request, call.link)
  const kept =
    ofScore?.code === refusal.code
      ? score
      : refusal.code === 'score.not_a_learner'
        ? { ...score, outcome: 'refused' as const, code: refusal.code, fraction: null, points: null }
        : undefined
  return { ...refused, kept: { ...refused.kept, ...(kept && { score: kept }) } }
}

async function explain(context: Context, call: Sent, { code }: Refusal, wireEntryId: string): Promise<void> {
  const { sender } = call
  if (sender.by === 'token') return
  const { oauth, parameters, signer } = sender
  const { host } = call.headers
  await explainSigned(context, wireEntryId, {
    code,
    url: `${context.settings.publicUrl}${call.path}`,
    host: typeof host === 'string' ? host : undefined,
    body: call.body,
    parameters,
    oauth,
    signer,
    courseId: call.link?.course.id ?? null,
  })
}

function envelopeOf(
  { ids }: Context,
  asked: OutcomesRequest | OutcomesProblem | undefined,
  part: Pick<OutcomesResponse, 'codeMajor' | 'severity' | 'description'> & Partial<OutcomesResponse>,
): string {
  return writeOutcomesResponse({
    messageId: ids.next(),
    messageRef: asked?.messageId ?? '',
    operationRef: asked?.operation ?? '',
    ...part,
  })
}

const responseOf = ({ status, xml }: OutcomeAnswer) => ({ status, body: xml })

/** A failure envelope for what never reached the row: a body too large, another content type, records out of reach. */
export function outcomeFailure(context: Context, refusal: Refusal): string {
  return envelopeOf(context, undefined, {
    codeMajor: 'failure',
    severity: 'error',
    description: `${refusal.code}: ${sentenceOf(refusal)}`,
  })
}
