import { ERRORS, Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import { plainLine, type ItemsRead } from '@bathyscribe/core/content'
import { readContentItems } from '@bathyscribe/core/lti1'
import { DEEP_LINKING_MAX_CHARACTERS, readDeepLinkingAnswer, readJws, verifyJws } from '@bathyscribe/core/lti13'
import { readOAuthParameters, verifyRequest, type Parameter } from '@bathyscribe/core/oauth1'
import { verifyRs256 } from '../../keys/rsa.js'
import type { PickingRecord } from '../../records/entities/content.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { kidKey, secretKey } from '../../records/statements/key-use.js'
import { NO_LINK } from '../../records/statements/messages.js'
import { clip, maskParameters } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { nonceOf } from '../../inbound/steps/freshness.js'
import { keepItems } from './keep-items.js'
import { pickedUrl, pickingData } from './picker-facts.js'

/** How a picking ended, for the page that the person sees then. */
export interface Picked {
  state: PickingRecord['state']
  items: number
  refusedItems: number
  /** What the tool said to people. */
  said: string | null
}

/** What an answer says, whichever version carried it. */
interface Answer extends ItemsRead {
  data: string
  said: string | null
  failed: boolean
  nonce: { value: string; expiresAt: Date }
}

interface Refused {
  code: ErrorCode
  detail: string
}

/**
 * Takes the answer of a tool's picker, as the browser posts it from the tool's page. The steps, in their order: the picking; signature and claims; that the answer is
 * to this question; its single use; then items, HTML and files are made safe and kept. A refused answer leaves the picking open, so that a good one may still come.
 * @throws Refusal
 */
export async function receivePicked(context: Context, id: string, fields: readonly Parameter[]): Promise<Picked> {
  const started = performance.now()
  const picking = await context.records.pickings.byId(id)
  if (!picking) throw new Refusal('picker.not_found')
  const tool = await context.records.tools.byId(picking.registrationId)
  const reached: Reached = { context, picking, tool, fields, started }
  const answer = tool.version === '1.3' ? await readToken(reached) : await readSigned(reached)
  const refused = 'code' in answer ? answer : checkQuestion(context, picking, answer)
  if (refused) return refuse(reached, refused)
  return take(reached, answer as Answer)
}

interface Reached {
  context: Context
  picking: PickingRecord
  tool: RegistrationRecord
  fields: readonly Parameter[]
  started: number
}

function checkQuestion(context: Context, picking: PickingRecord, answer: Answer): Refused | undefined {
  if (answer.data !== pickingData(context, picking.id, picking.personId))
    return {
      code: 'picker.data_unknown',
      detail: answer.data === '' ? 'data is missing' : `“${answer.data.slice(0, 40)}”`,
    }
  if (picking.state !== 'open')
    return { code: picking.state === 'left' ? 'picker.closed' : 'picker.data_used', detail: picking.state }
  return picking.expiresAt <= context.clock.now() ? { code: 'picker.expired', detail: 'the picking' } : undefined
}

/** Content-Item Message 1.0: a form signed like a launch. */
async function readSigned({ context, picking, tool, fields }: Reached): Promise<Answer | Refused> {
  const { settings, clock, keys } = context
  const now = clock.now()
  if (!fields.some(([name]) => name === 'oauth_signature'))
    return { code: 'picker.unsigned', detail: 'oauth_signature' }
  const oauth = readOAuthParameters(fields)
  if ('code' in oauth) return oauth
  if (oauth.consumerKey !== tool.consumerKey)
    return { code: 'picker.key_unknown', detail: `“${oauth.consumerKey.slice(0, 80)}”` }
  const held = [
    ...(tool.secretSealed ? [tool.secretSealed] : []),
    ...(await context.records.secrets.others(tool.id, now)).map((one) => one.sealed),
  ]
  const problems = held.map((sealed) => {
    const problem = verifyRequest({ method: 'POST', url: pickedUrl(settings, picking.id), parameters: fields }, oauth, {
      sharedSecret: keys.unseal(sealed, tool.id),
      signatureMethod: tool.signatureMethod,
      nowSeconds: Math.floor(now.getTime() / 1000),
      windowSeconds: settings.clockToleranceSeconds,
    })
    if (!problem) context.keyUses.note(tool.id, secretKey(sealed), now)
    return problem
  })
  if (problems.every((one) => one !== undefined))
    return problems[0] ?? { code: 'tool.secret_missing', detail: tool.slug }
  const value = (name: string) => fields.find(([one]) => one === name)?.[1] ?? ''
  if (value('lti_message_type') !== 'ContentItemSelection')
    return { code: 'picker.wrong_message', detail: value('lti_message_type').slice(0, 80) }
  const read = readContentItems(value('content_items'), now)
  if ('code' in read) return read
  return {
    ...read,
    data: value('data'),
    ...saidIn(value('lti_errormsg'), value('lti_errorlog'), value('lti_msg')),
    nonce: nonceOf(context, oauth),
  }
}

/** Deep Linking 2.0: one token, signed by the tool's own key. */
async function readToken({ context, tool, picking, fields }: Reached): Promise<Answer | Refused> {
  const token = fields.find(([name]) => name === 'JWT')?.[1]
  if (!token) return { code: 'picker.unsigned', detail: 'JWT' }
  const jws = readJws(token, DEEP_LINKING_MAX_CHARACTERS)
  if ('code' in jws) return jws
  try {
    const problem = verifyJws(jws, await context.toolKeysets.keysOf(tool, jws.keyId), verifyRs256)
    if (problem) return problem
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return { code: error.code, detail: error.detail ?? '' }
  }
  context.keyUses.note(tool.id, kidKey(jws.keyId), context.clock.now())
  const answer = readDeepLinkingAnswer(jws.claims, {
    clientId: tool.clientId ?? '',
    issuer: context.settings.publicUrl,
    deploymentId: (await context.records.tools.deploymentFor(tool.id, picking.courseId)) ?? '',
    nowSeconds: Math.floor(context.clock.now().getTime() / 1000),
    leewaySeconds: Math.min(60, context.settings.clockToleranceSeconds),
  })
  if ('code' in answer) return (await underAnother(context, tool, jws.claims['iss'])) ?? answer
  return {
    ...answer,
    ...saidIn(answer.errorMessage, answer.errorLog, answer.message),
    nonce: { value: `picked ${answer.nonce}`, expiresAt: new Date((answer.expiresSeconds + 120) * 1000) },
  }
}

/** A tool that is registered twice answers under one client ID for both: then it is that which is wrong. */
async function underAnother(context: Context, tool: RegistrationRecord, iss: unknown): Promise<Refused | undefined> {
  if (typeof iss !== 'string' || iss === tool.clientId) return undefined
  const other = await context.records.tools.byClientId(iss.slice(0, 200))
  return other === null
    ? undefined
    : { code: 'picker.other_registration', detail: `“${other.name}” (${other.slug}) instead of “${tool.name}”` }
}

function saidIn(error: string | null, errorLog: string | null, message: string | null) {
  const failed = Boolean(error) || Boolean(errorLog)
  return { said: plainLine(error || message || '', 500) || null, failed }
}

/** The nonce is used up in the same transaction that keeps what was handed over: neither is ever there without the other. */
async function take(reached: Reached, answer: Answer): Promise<Picked> {
  const { context, picking, tool } = reached
  const kept = await keepItems(context, picking, answer)
  const state = kept.items.length > 0 ? 'answered' : answer.failed || kept.problems.length > 0 ? 'failed' : 'empty'
  const done = await context.records.transaction(async (records) => {
    if (!(await records.pickings.useNonce(tool.id, answer.nonce))) return 'its nonce was used before'
    const first = await records.pickings.close(picking.id, {
      state,
      items: kept.items,
      problems: kept.problems,
      said: answer.said,
      code: state === 'failed' ? 'picker.said' : null,
      answeredAt: context.clock.now(),
    })
    // Two answers at once: what came first stays.
    if (!first) return 'another answer was faster'
    for (const file of kept.files) await records.files.insert(file)
    return 'kept'
  })
  if (done !== 'kept') return refuse(reached, { code: 'picker.data_used', detail: done })
  const written = await leaveEntry(reached, {
    outcome: state === 'failed' ? 'failed' : 'accepted',
    statement:
      state === 'answered'
        ? `The picker handed over ${kept.items.length} of ${kept.items.length + kept.problems.length} items.`
        : (answer.said ?? 'The picker came back without an item.'),
  })
  if (written.written) await context.records.pickings.noteEntry(picking.id, written.wireEntryId)
  publish(reached)
  return { state, items: kept.items.length, refusedItems: kept.problems.length, said: answer.said }
}

async function refuse(reached: Reached, refused: Refused): Promise<never> {
  const written = await leaveEntry(reached, {
    outcome: 'refused',
    code: refused.code,
    detail: refused.detail || null,
    statement: ERRORS[refused.code].sentence,
  })
  await reached.context.records.pickings.noteRefusal(
    reached.picking.id,
    refused.code,
    written.written ? written.wireEntryId : null,
  )
  publish(reached)
  throw new Refusal(refused.code, sentenceOf(refused))
}

function publish({ context, picking }: Reached): void {
  context.changes.publish({ kind: 'picking', courseId: picking.courseId, personId: picking.personId })
}

function leaveEntry(
  { context, picking, tool, fields, started }: Reached,
  part: {
    outcome: 'accepted' | 'refused' | 'failed'
    statement: string
    code?: ErrorCode
    detail?: string | null
  },
) {
  // The signature of a token opens nothing any more once it was used, but it is nobody's business either.
  const shown = fields
    .slice(0, 50)
    .map(([name, value]): [string, string] => [
      name.slice(0, 100),
      clip(name === 'JWT' ? value.split('.').slice(0, 2).join('.') : value),
    ])
  return context.statements.writeMessage({
    ...NO_LINK,
    code: null,
    detail: null,
    ...part,
    at: context.clock.now(),
    kind: 'picker',
    direction: 'received',
    registrationId: tool.id,
    courseId: picking.courseId,
    assignmentId: picking.assignmentId,
    pickingId: picking.id,
    personId: picking.personId,
    durationMs: performance.now() - started,
    request: { method: 'POST', url: pickedUrl(context.settings, picking.id), parameters: maskParameters(shown) },
  })
}
