import { Refusal, sentenceOf } from '@bathyscribe/contract'
import type { Context } from '../desk/context.js'
import type { MessageToWrite, MessageWritten } from '../records/statements/messages.js'
import { isOurs, type Kept, type Message, type Reached, type Room, type Taken } from './message.js'

/** How often a message is read anew whose ground was changed between reading and writing. */
const TRIES = 4

/** One try of a message: what is needed to write its entry. */
interface Try<Answer> {
  context: Context
  kind: MessageToWrite['kind']
  startedAt: number
  reached: Reached<Answer>
}

const TOO_MANY = 429
const AGAIN = Symbol('what was read has changed')

/**
 * Takes a message through its row: step by step until one refuses, then entry, nonce and effect in one statement, then the answer. What somebody else changed
 * between reading and writing is read again. Every refusal that is the sender's own leaves an entry that says why.
 * @throws whatever is no refusal: the records are out of reach, or the fault is ours
 */
export async function run<Call, Answer>(context: Context, message: Message<Call, Answer>, call: Call): Promise<Answer> {
  const startedAt = performance.now()
  for (let attempt = 1; ; attempt++) {
    const reached = await message.go(context, call)
    const one = { context, kind: message.kind, startedAt, reached }
    const answer = attempt > TRIES ? await giveUp(one) : await finish(one)
    if (answer !== AGAIN) return answer
  }
}

function finish<Answer>(one: Try<Answer>): Promise<Answer | typeof AGAIN> {
  const { end } = one.reached
  return 'taken' in end ? take(one, end.taken) : refuse(one, end.refusal, end.at)
}

async function take<Answer>(one: Try<Answer>, taken: Taken<Answer>): Promise<Answer | typeof AGAIN> {
  const { outcome = 'accepted', statement, kept } = taken
  const [written] = await Promise.all([write(one, { outcome, statement, ...kept }), taken.beside])
  if (written.written) {
    tell(one, 'taken')
    return taken.answer(written.wireEntryId)
  }
  if (written.why === 'not_kept') return taken.answer(null)
  if (written.why === 'nonce_used') return refuseUsed(one)
  const over = await taken.isOver?.()
  return over ? refuse(one, over, 'take') : AGAIN
}

/** Answers a refusal once its entry stands, and once it is known that its nonce was not used before. */
async function refuse<Answer>(one: Try<Answer>, refusal: Refusal, at: Room): Promise<Answer | typeof AGAIN> {
  const { answer, kept, note, explain } = one.reached.refuse(refusal, at)
  // What is no fault of the sender's is not held against it, and what comes too often fills no log.
  if (isOurs(refusal) || refusal.status === TOO_MANY) return answer()
  const written = await write(one, {
    outcome: 'refused',
    code: refusal.code,
    detail: refusal.detail || null,
    statement: sentenceOf(refusal),
    ...kept,
  })
  if (!written.written && written.why === 'nonce_used') return refuseUsed(one)
  if (!written.written && written.why !== 'not_kept') return AGAIN
  await note?.(written.written ? written.wireEntryId : null)
  tell(one, 'refused')
  if (written.written)
    await explain?.(written.wireEntryId).catch((error: unknown) => {
      one.context.log.warn(
        { reason: String(error), wireEntryId: written.wireEntryId },
        'a refusal could not be explained',
      )
    })
  return answer()
}

/** It is told to come again, and may: nothing of it is used up. */
function giveUp<Answer>(one: Try<Answer>): Promise<Answer | typeof AGAIN> {
  const refusal = new Refusal('record.changed_meanwhile')
  return refuse({ ...one, reached: { ...one.reached, nonce: undefined } }, refusal, 'take')
}

/** The same message came before: that is what is wrong with it, whatever else is. */
function refuseUsed<Answer>(one: Try<Answer>): Promise<Answer | typeof AGAIN> {
  return refuse({ ...one, reached: { ...one.reached, nonce: undefined } }, one.reached.used(), 'fresh')
}

function write<Answer>(
  { context, kind, startedAt, reached: { about, nonce } }: Try<Answer>,
  parts: Pick<MessageToWrite, 'outcome' | 'statement'> & Partial<Pick<MessageToWrite, 'detail'>> & Kept,
): Promise<MessageWritten> {
  if (!about) return Promise.resolve({ written: false, why: 'not_kept' })
  const { entry } = about
  // Written out, and not put together by spreading: this is done for every message.
  return context.statements.writeMessage({
    at: context.clock.now(),
    kind: parts.kind ?? kind,
    direction: parts.direction ?? 'received',
    outcome: parts.outcome,
    code: parts.code ?? null,
    detail: parts.detail ?? null,
    statement: parts.statement,
    registrationId: parts.registrationId ?? entry.registrationId,
    courseId: parts.courseId ?? entry.courseId ?? null,
    assignmentId: entry.assignmentId ?? null,
    menuEntryId: entry.menuEntryId ?? null,
    unitItemId: entry.unitItemId ?? null,
    pickingId: entry.pickingId ?? null,
    personId: entry.personId ?? null,
    soundingId: null,
    durationMs: performance.now() - startedAt,
    request: parts.request ?? entry.request,
    response: parts.response ?? null,
    nonce,
    score: parts.score,
    visit: parts.visit,
  })
}

function tell<Answer>({ context, reached: { about } }: Try<Answer>, what: 'taken' | 'refused'): void {
  const change = about?.tells?.[what]
  if (change) context.changes.publish(change)
}
