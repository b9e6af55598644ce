import { Refusal, sentenceOf } from '@bathyscribe/contract'
import { Problem } from '@bathyscribe/core/result'
import { readOAuthParameters, type Parameter } from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'
import { explainSigned } from '../../desk/diagnosis/diagnose-signed.js'
import { explainToken } from '../../desk/diagnosis/diagnose-token.js'
import { keepItems } from '../../desk/pickers/keep-items.js'
import { pickedUrl, pickingData } from '../../desk/pickers/picker-facts.js'
import type { PickingRecord } from '../../records/entities/content.js'
import { clip, maskParameters } from '../../wire/mask.js'
import type { About, Refused, Room, Taken } from '../message.js'
import { signedItems } from './picked-11.js'
import { itemsInToken } from './picked-13.js'
import type { Answer, OfPicking, PickedCall } from './picked-answer.js'

/** How a picking ended, for the page that the person sees then. */
export interface Picked {
  state: PickingRecord['state']
  items: number
  refusedItems: number
  /** What the tool said to people. */
  said: string | null
}

type Answered = OfPicking & { answer: Answer }

/** The question that is answered, and the tool that was asked. */
export async function pickingAsked(
  { records }: Context,
  { id }: PickedCall,
): Promise<Pick<OfPicking, 'picking' | 'tool'> | Refusal> {
  const picking = await records.pickings.byId(id)
  return picking ? { picking, tool: await records.tools.byId(picking.registrationId) } : new Refusal('picker.not_found')
}

/** Who signed it, in the way of the tool’s version. */
export async function answerSigned(context: Context, call: OfPicking): Promise<{ answer: Answer } | Refusal> {
  const answer = call.tool.version === '1.3' ? await itemsInToken(context, call) : await signedItems(context, call)
  return answer instanceof Refusal ? answer : { answer }
}

/** That it answers this question, which is still open. */
export function toThisQuestion(context: Context, { picking, answer }: Answered): object | Refusal {
  const { data } = answer
  if (data !== pickingData(context, picking.id, picking.personId))
    return new Refusal('picker.data_unknown', data === '' ? 'data is missing' : `“${data.slice(0, 40)}”`)
  if (picking.state !== 'open')
    return new Refusal(picking.state === 'left' ? 'picker.closed' : 'picker.data_used', picking.state)
  return picking.expiresAt <= context.clock.now() ? new Refusal('picker.expired', 'the picking') : {}
}

/** Makes items safe and keeps them. The nonce is used up in the same transaction: neither is ever there without the other. */
export async function itemsKept(
  context: Context,
  { picking, tool, answer }: Answered,
): Promise<Taken<Picked> | Refusal> {
  const { records, clock } = context
  const kept = await keepItems(context, picking, answer)
  const state = kept.items.length > 0 ? 'answered' : answer.failed || kept.problems.length > 0 ? 'failed' : 'empty'
  const done = await records.transaction(async (inside) => {
    if (!(await inside.pickings.useNonce(tool.id, answer.nonce))) return 'its nonce was used before'
    const first = await inside.pickings.close(picking.id, {
      state,
      items: kept.items,
      problems: kept.problems,
      said: answer.said,
      code: state === 'failed' ? 'picker.said' : null,
      answeredAt: clock.now(),
    })
    // Two answers at once: what came first stays.
    if (!first) return 'another answer was faster'
    for (const file of kept.files) await inside.files.insert(file)
    return 'kept'
  })
  if (done !== 'kept') return new Refusal('picker.data_used', done)
  return {
    outcome: state === 'failed' ? 'failed' : 'accepted',
    statement:
      state === 'answered'
        ? `The picker handed over ${kept.items.length} of ${kept.items.length + kept.problems.length} items.`
        : (answer.said ?? 'The picker came back without an item.'),
    answer: async (wireEntryId) => {
      if (wireEntryId !== null) await records.pickings.noteEntry(picking.id, wireEntryId)
      return { state, items: kept.items.length, refusedItems: kept.problems.length, said: answer.said }
    },
  }
}

export function aboutFields(_: Context, { id, fields }: PickedCall): About {
  return { entry: { registrationId: null, request: { method: 'POST', url: id, parameters: shown(fields) } } }
}

export function aboutPicking({ settings }: Context, { picking, tool, fields }: OfPicking): About {
  const change = { kind: 'picking' as const, courseId: picking.courseId, personId: picking.personId }
  return {
    entry: {
      registrationId: tool.id,
      courseId: picking.courseId,
      assignmentId: picking.assignmentId,
      pickingId: picking.id,
      personId: picking.personId,
      request: { method: 'POST', url: pickedUrl(settings, picking.id), parameters: shown(fields) },
    },
    tells: { taken: change, refused: change },
  }
}

/** The signature of a token opens nothing any more once it was used, but it is nobody's business either. */
function shown(fields: readonly Parameter[]): Parameter[] {
  return maskParameters(
    fields
      .slice(0, 50)
      .map(([name, value]) => [
        name.slice(0, 100),
        clip(name === 'JWT' ? value.split('.').slice(0, 2).join('.') : value),
      ]),
  )
}

/** The picking stays open, so that a good answer may still come. */
export function refusePicked(context: Context, call: OfPicking, refusal: Refusal, at: Room): Refused<never> {
  const { id } = call.picking
  return {
    note: (wireEntryId) => context.records.pickings.noteRefusal(id, refusal.code, wireEntryId),
    ...(at === 'verify' && { explain: (wireEntryId: string) => explain(context, call, refusal, wireEntryId) }),
    answer: () => {
      throw new Refusal(refusal.code, sentenceOf(refusal))
    },
  }
}

async function explain(context: Context, call: OfPicking, { code }: Refusal, wireEntryId: string): Promise<void> {
  const { picking, tool, fields } = call
  const { courseId } = picking
  if (tool.version === '1.3') {
    const token = fields.find(([name]) => name === 'JWT')?.[1] ?? ''
    return explainToken(context, wireEntryId, { token, kind: 'picked', registrationId: tool.id, courseId, isAsked: true }) // oxfmt-ignore
  }
  const oauth = readOAuthParameters(fields)
  if (oauth instanceof Problem) return
  await explainSigned(context, wireEntryId, {
    code,
    url: pickedUrl(context.settings, picking.id),
    host: undefined,
    body: new Uint8Array(),
    parameters: fields.filter(([name]) => name !== 'oauth_signature'),
    oauth,
    signer: tool,
    courseId,
  })
}
