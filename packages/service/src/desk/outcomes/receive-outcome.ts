import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
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
import type { OAuthParameters } from '@bathyscribe/core/oauth1'
import type { Link } from '../../records/statements/links.js'
import type { MessageToWrite } from '../../records/statements/messages.js'
import { clip, maskHeaders } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { nonceOf } from '../../inbound/steps/freshness.js'
import { diagnoseOutcome, mayDiagnose } from '../diagnosis/diagnose-outcome.js'
import {
  checkSignature,
  findSigner,
  readSigned,
  unauthenticated,
  type OutcomeCall,
  type Refused,
  type Signed,
  type Signer,
} from './check-signer.js'
import { describe, scoreOf, type Score } from './score-of.js'
import { toolCaller } from '../services/tool-caller.js'

export interface OutcomeAnswer {
  status: 200 | 401
  xml: string
}

/**
 * Takes a Basic Outcomes request (LTI 1.1.1 section 6): who signed it, what it asks, whether it may, then nonce, trail, result
 * and wire entry in one statement. Every refusal is answered in the envelope and leaves a wire entry that says why; a refused score
 * of a known person stands in the trail, too.
 */
export async function receiveOutcome(context: Context, call: OutcomeCall, attempt = 1): Promise<OutcomeAnswer> {
  const started = performance.now()
  const asked = readOutcomesRequest(call.body)
  const target = 'resultId' in asked ? readResultId(context.keys.resultIdKey, asked.resultId) : undefined
  const link = target && (await context.statements.findLink(target))

  const bearer = bearerToken(call.headers['authorization'] as string | undefined)
  if (bearer !== undefined && link?.registration.version === '1.3')
    return receiveByToken({ context, call, attempt, asked, link, signer: link.registration, started }, bearer)
  const signed = readSigned(call)
  const signer = 'code' in signed ? undefined : await findSigner(context, link, signed.oauth)
  const refused =
    'code' in signed
      ? signed
      : ((await checkSignature(context, call, signed, signer, link)) ??
        checkRequest(asked) ??
        checkTarget(asked as OutcomesRequest, link))

  const reached = { context, call, attempt, asked, link, signer, started }
  if (refused)
    return answerRefused(
      reached,
      'code' in signed || !refused.authenticated ? undefined : signed.oauth,
      refused,
      undefined,
      'code' in signed ? undefined : signed,
    )
  return record(reached, signed as Signed, asked as OutcomesRequest, link!)
}

/** The same for a link of LTI 1.3: a token stands in place of the signature, and nothing is used up by it. */
async function receiveByToken(reached: Reached, bearer: string): Promise<OutcomeAnswer> {
  const { context, asked, link } = reached
  const refused =
    (await checkToken(context, link, bearer)) ?? checkRequest(asked) ?? checkTarget(asked as OutcomesRequest, link)
  return refused
    ? answerRefused(reached, undefined, refused)
    : record(reached, undefined, asked as OutcomesRequest, link!)
}

async function checkToken(context: Context, link: Link | undefined, bearer: string): Promise<Refused | undefined> {
  if (!link) return unauthenticated('outcomes.result_id_unknown', '')
  try {
    const { tool } = await toolCaller(context, { bearer, scope: OUTCOMES_SCOPE, courseId: link.course.id })
    return tool.id === link.registration.id ? undefined : unauthenticated('oauth.key_of_another_tool', tool.name)
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return unauthenticated(error.code, error.detail ?? '')
  }
}

interface Reached {
  context: Context
  call: OutcomeCall
  /** How often it was begun: points may change between reading and writing. */
  attempt: number
  asked: OutcomesRequest | OutcomesProblem
  link: Link | undefined
  signer: Signer | undefined
  started: number
}

function checkRequest(asked: OutcomesRequest | OutcomesProblem): Refused | undefined {
  return 'code' in asked ? { code: asked.code, detail: asked.detail, authenticated: true } : undefined
}

function checkTarget(asked: OutcomesRequest, link: Link | undefined): Refused | undefined {
  const refuse = (code: ErrorCode, detail: string): Refused => ({ code, detail, authenticated: true })
  if (!link) return refuse('outcomes.result_id_unknown', asked.resultId.slice(0, 40))
  // A suspended tool may still return what was worked before, unless that was switched off with it; others have nothing to return.
  const { state, scoresWhileSuspended } = link.registration
  if (state !== 'enabled' && !(state === 'suspended' && scoresWhileSuspended))
    return refuse('outcomes.tool_not_enabled', state)
  if (link.resource.kind !== 'assignment') return refuse('outcomes.result_id_unknown', 'a menu entry has no result')
  if (asked.operation !== 'readResult' && (link.enrolment?.state !== 'active' || !isScored(link.enrolment.role)))
    return refuse(
      'score.not_a_learner',
      link.enrolment?.state === 'dropped' ? 'dropped' : (link.enrolment?.role ?? 'not in the course'),
    )
  return undefined
}

async function record(
  reached: Reached,
  signed: Signed | undefined,
  asked: OutcomesRequest,
  link: Link,
): Promise<OutcomeAnswer> {
  const oauth = signed?.oauth
  const score = asked.operation === 'readResult' ? undefined : scoreOf(asked, link)
  if (score?.outcome === 'refused')
    return answerRefused(
      reached,
      oauth,
      { code: score.code as ErrorCode, detail: `“${score.sent ?? ''}”`, authenticated: true },
      score,
    )
  const statement = describe(asked, score, link)
  const answer = envelope(reached, {
    codeMajor: 'success',
    severity: 'status',
    description: statement,
    ...(asked.operation === 'readResult' && { score: link.result?.fraction ?? '' }),
  })
  const written = await write(
    reached,
    { outcome: 'accepted', code: null, detail: null, statement, answer },
    oauth,
    score,
  )
  if (written.written) {
    if (score) publish(reached, 'score')
    return answer
  }
  if (written.why === 'nonce_used' && oauth)
    return answerRefused(
      reached,
      undefined,
      unauthenticated('oauth.nonce_used', oauth.nonce.slice(0, 60)),
      undefined,
      signed,
    )
  // The instructor changed the points between our reading and our writing: read again, compute again.
  return again(reached)
}

async function answerRefused(
  reached: Reached,
  oauth: OAuthParameters | undefined,
  refused: Refused,
  score?: Score,
  signed?: Signed,
): Promise<OutcomeAnswer> {
  const { link, asked } = reached
  const description = sentenceOf(refused)
  const answer = envelope(
    reached,
    {
      codeMajor: refused.code === 'outcomes.operation_unsupported' ? 'unsupported' : 'failure',
      severity: 'error',
      description: `${refused.code}: ${description}`,
    },
    refused.authenticated ? 200 : 401,
  )
  // A score that was refused for what it says, or for whom, belongs into the trail of that person.
  const kept: Score | undefined =
    score ??
    (link && refused.code === 'score.not_a_learner' && 'resultId' in asked
      ? { ...scoreOf(asked, link), outcome: 'refused', code: refused.code, fraction: null, points: null }
      : undefined)
  const entry = {
    outcome: 'refused' as const,
    code: refused.code,
    detail: refused.detail,
    statement: description,
    answer,
  }
  const written = await write(reached, entry, oauth, kept)
  publish(reached, 'refusal')
  if (written.written && signed) await explain(reached, signed, refused.code, written.wireEntryId)
  if (written.written || !oauth || written.why === 'not_kept') return answer
  return written.why === 'nonce_used'
    ? answerRefused(
        reached,
        undefined,
        unauthenticated('oauth.nonce_used', oauth.nonce.slice(0, 60)),
        undefined,
        signed,
      )
    : again(reached)
}

const TRIES = 4

/** @throws Refusal when the points change each time */
function again({ context, call, attempt }: Reached): Promise<OutcomeAnswer> {
  if (attempt >= TRIES) throw new Refusal('record.changed_meanwhile')
  return receiveOutcome(context, call, attempt + 1)
}

/** Why a signature was refused is found out beside the answer: it is kept with the entry, and a failure of it costs the tool nothing. */
async function explain(
  { context, call, signer }: Reached,
  { oauth, parameters }: Signed,
  code: ErrorCode,
  wireEntryId: string,
): Promise<void> {
  if (!signer?.secretSealed || !mayDiagnose(context, signer.id)) return
  try {
    const found = await diagnoseOutcome(context, {
      code,
      url: `${context.settings.publicUrl}${call.path}`,
      host: typeof call.headers['host'] === 'string' ? call.headers['host'] : undefined,
      body: call.body,
      parameters,
      oauth,
      signer: {
        id: signer.id,
        name: signer.name,
        consumerKey: signer.consumerKey ?? '',
        sharedSecret: context.keys.unseal(signer.secretSealed, signer.id),
      },
    })
    if (found) await context.records.diagnoses.keep(wireEntryId, found)
  } catch (error) {
    context.log.warn({ reason: (error as Error).message, wireEntryId }, 'a refusal could not be explained')
  }
}

function write(
  { context, call, link, signer, started }: Reached,
  entry: Pick<MessageToWrite, 'outcome' | 'code' | 'detail' | 'statement'> & { answer: OutcomeAnswer },
  oauth: OAuthParameters | undefined,
  score: Score | undefined,
) {
  const { answer, ...rest } = entry
  const now = context.clock.now()
  return context.statements.writeMessage({
    ...rest,
    at: now,
    kind: 'outcome',
    direction: 'received',
    registrationId: signer?.id ?? null,
    courseId: link?.course.id ?? null,
    assignmentId: link?.resource.id ?? null,
    personId: link?.person.id ?? null,
    soundingId: null,
    durationMs: performance.now() - started,
    request: {
      method: 'POST',
      url: `${context.settings.publicUrl}${call.path}`,
      headers: maskHeaders(call.headers),
      body: clip(Buffer.from(call.body).toString('utf8')),
    },
    response: { status: answer.status, body: answer.xml },
    ...(oauth &&
      signer && {
        nonce: nonceOf(context, oauth),
      }),
    ...(score && { score }),
  })
}

function envelope(
  { context, asked }: Pick<Reached, 'context' | 'asked'>,
  part: Pick<OutcomesResponse, 'codeMajor' | 'severity' | 'description'> & Partial<OutcomesResponse>,
  status: OutcomeAnswer['status'] = 200,
): OutcomeAnswer {
  const xml = writeOutcomesResponse({
    messageId: context.ids.next(),
    messageRef: asked.messageId,
    operationRef: asked.operation,
    ...part,
  })
  return { status, xml }
}

function publish({ context, link }: Reached, kind: 'score' | 'refusal'): void {
  if (link)
    context.changes.publish({
      kind,
      courseId: link.course.id,
      assignmentId: link.resource.id,
      personId: link.person.id,
    })
}

/** A failure envelope for what never reached the use case: a body too large, another content type, records out of reach. */
export function outcomeFailure(refusal: Refusal, messageId: string): string {
  return writeOutcomesResponse({
    messageId,
    codeMajor: 'failure',
    severity: 'error',
    description: `${refusal.code}: ${sentenceOf(refusal)}`,
    messageRef: '',
    operationRef: '',
  })
}
