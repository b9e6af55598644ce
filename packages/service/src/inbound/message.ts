import { Refusal } from '@bathyscribe/contract'
import type { Context } from '../desk/context.js'
import type { Changes } from '../records/changes.js'
import type { MessageToWrite } from '../records/statements/messages.js'

/** The rooms of a message's way, in their order. */
export const ROOMS = ['read', 'identify', 'verify', 'fresh', 'may', 'take'] as const
export type Room = (typeof ROOMS)[number]

/** What a step finds out, beside what is known already; or why the message goes no further. */
export type Found<Facts> = Facts | Refusal | Promise<Facts | Refusal>

/** What a message uses up: it is good once, and remembered for longer than it would be good. */
export interface Nonce {
  value: string
  expiresAt: Date
}

/** What is written of a message beside the message itself. */
export type Kept = Partial<
  Pick<
    MessageToWrite,
    'score' | 'visit' | 'response' | 'request' | 'kind' | 'direction' | 'code' | 'registrationId' | 'courseId'
  >
>

/** Whose a message is, and what came in. */
export type Entry = Pick<MessageToWrite, 'registrationId' | 'request'> &
  Partial<Pick<MessageToWrite, 'courseId' | 'assignmentId' | 'menuEntryId' | 'unitItemId' | 'pickingId' | 'personId'>>

/** Whose a message is, what came in, and which pages hear of it. */
export interface About {
  entry: Entry
  tells?: { taken?: Change; refused?: Change }
}
type Change = Parameters<Changes['publish']>[0]

/** How a refusal is answered, in the message's own form, and what is kept of it. */
export interface Refused<Answer> {
  /** Once the entry stands. What has no form of its own throws the refusal. */
  answer: () => Answer
  kept?: Kept | undefined
  /** @param wireEntryId null for what was not kept */
  note?: (wireEntryId: string | null) => Promise<void>
  /** Whatever helps to find its cause, once it is answered. A failure of it costs nobody anything. */
  explain?: (wireEntryId: string) => Promise<void>
}

/** Where a message has no form of its own for errors: the route writes them. */
export function refuseByRoute(_: Context, __: object, refusal: Refusal): Refused<never> {
  return {
    answer: () => {
      throw refusal
    },
  }
}

/** Whether a refusal is no fault of the sender's (RFC 9110 sections 15.6.1 and 15.6.4). 502 and 504 are: they are said of what the tool's end answered us. */
export const isOurs = ({ status }: Refusal) => status === 500 || status === 503

/** A message that was taken: what is kept of it in the one statement that writes its entry, and what is answered once that stands. */
export interface Taken<Answer> {
  /** `failed`: it is good, and tells of a failure at the tool's end. */
  outcome?: 'accepted' | 'failed'
  statement: string
  kept?: Kept
  /** What is made meanwhile, such as a signature; nothing is answered before it is done. */
  beside?: Promise<unknown>
  /** @param wireEntryId null for what was not kept, as it came from a stranger */
  answer: (wireEntryId: string | null) => Answer | Promise<Answer>
  /** Nothing was written, because what was read has changed. @returns why reading it again mends nothing; undefined when it may */
  isOver?: () => Promise<Refusal | undefined>
}

/** Where a message stopped, or that it was taken; with all that is needed to write and answer it. */
export interface Reached<Answer> {
  end: { taken: Taken<Answer> } | { refusal: Refusal; at: Room }
  /** Undefined: nothing of it is kept, and nobody is told. */
  about: About | undefined
  nonce: Nonce | undefined
  /** Refuses it after all. */
  refuse: (refusal: Refusal, at: Room) => Refused<Answer>
  /** What it is called that its nonce was used before. */
  used: () => Refusal
}

export interface Message<Call, Answer> {
  name: string
  kind: MessageToWrite['kind']
  steps: readonly { room: Room; name: string }[]
  go: (context: Context, call: Call) => Promise<Reached<Answer>>
}

/** What is made of a message at some place of its way, by what is known there. */
interface Parts<So, Answer> {
  about: (context: Context, so: So) => About | undefined
  refuse: (context: Context, so: So, refusal: Refusal, at: Room) => Refused<Answer>
  nonce: (so: So) => Nonce | undefined
  used: (so: So) => Refusal
}

/** A step with what holds where it refuses. What the steps before it found is told by the row that it stands in, which is why it is not asked for here. */
interface Step<Answer> {
  room: Room
  name: string
  does: (context: Context, so: never) => Found<object>
  parts: Parts<never, Answer>
}

/**
 * A row of the table: the steps of a message in their order. Each is given what those before it found out, by its type, so that a row in a wrong order
 * does not compile. Rows never change: each call makes a longer one.
 */
export class Row<Call extends object, So extends Call, Answer> {
  constructor(
    readonly name: string,
    readonly kind: MessageToWrite['kind'],
    private readonly parts: Parts<So, Answer>,
    private readonly steps: readonly Step<Answer>[] = [],
  ) {}

  /** What it says, as far as it can be read. */
  read<Facts extends object>(step: (context: Context, so: So) => Found<Facts>) {
    return this.step('read', step)
  }
  /** Whose it is, and what it is about, by what it says itself. */
  identify<Facts extends object>(step: (context: Context, so: So) => Found<Facts>) {
    return this.step('identify', step)
  }
  /** That it is from whom it says. */
  verify<Facts extends object>(step: (context: Context, so: So) => Found<Facts>) {
    return this.step('verify', step)
  }
  /** By what it is good once only; it is used up in the statement that writes the entry. */
  fresh(step: (context: Context, so: So) => { nonce: Nonce | undefined }, used: (so: So) => Refusal) {
    const row = this.step('fresh', step)
    return new Row(row.name, row.kind, { ...row.parts, nonce: ({ nonce }) => nonce, used }, row.steps)
  }
  /** That who sent it may have done what it asks. */
  may<Facts extends object>(step: (context: Context, so: So) => Found<Facts>) {
    return this.step('may', step)
  }

  /** What the wire entry says, from here on. */
  about(about: (context: Context, so: So) => About): Row<Call, So, Answer> {
    return new Row(this.name, this.kind, { ...this.parts, about }, this.steps)
  }
  /** How it is refused, from here on. */
  refuse(refuse: (context: Context, so: So, refusal: Refusal, at: Room) => Refused<Answer>): Row<Call, So, Answer> {
    return new Row(this.name, this.kind, { ...this.parts, refuse }, this.steps)
  }

  take(take: (context: Context, so: So) => Found<Taken<Answer>>): Message<Call, Answer> {
    const { parts, steps } = this
    return {
      name: this.name,
      kind: this.kind,
      steps: [...steps.map(({ room, name }) => ({ room, name })), { room: 'take', name: take.name }],
      go: async (context, call) => {
        // Grows by what each step finds out; the types of the row see to it that none asks for what is not there yet.
        let so = call as unknown as So
        for (const { does, room, parts: there } of steps) {
          const answer = asked(() => does(context, so as never))
          const found = answer instanceof Promise ? await answer : answer
          if (found instanceof Refusal) return reached(there, context, so as never, { refusal: found, at: room })
          // A new one each time: measured cheaper than one that grows in place (docs/performance.md).
          if (!isEmpty(found)) so = { ...so, ...found }
        }
        const taken = await asked(() => take(context, so))
        return reached(parts, context, so, taken instanceof Refusal ? { refusal: taken, at: 'take' } : { taken })
      },
    }
  }

  private step<Facts extends object>(room: Room, does: (context: Context, so: So) => Found<Facts>) {
    const { parts, steps } = this
    return new Row<Call, So & Facts, Answer>(this.name, this.kind, parts, [
      ...steps,
      { room, name: does.name, does, parts },
    ])
  }
}

/** Most steps only look. */
function isEmpty(found: object): boolean {
  for (const _ in found) return false
  return true
}

function reached<So, Answer>(
  { about, nonce, used, refuse }: Parts<So, Answer>,
  context: Context,
  so: So,
  end: Reached<Answer>['end'],
): Reached<Answer> {
  return {
    end,
    about: about(context, so),
    nonce: nonce(so),
    used: () => used(so),
    refuse: (refusal, at) => refuse(context, so, refusal, at),
  }
}

/** What lies below a step may throw its refusal. Most steps know at once, and nobody waits for them. */
function asked<T>(step: () => T | Promise<T>): T | Refusal | Promise<T | Refusal> {
  try {
    const found = step()
    return found instanceof Promise ? found.catch(refusalOf) : found
  } catch (error) {
    return refusalOf(error)
  }
}

function refusalOf(error: unknown): Refusal {
  if (error instanceof Refusal) return error
  throw error
}

/** Begins a row. @param about what its entry says while nothing is known of it; undefined for none @param refuse how it is refused then */
export function inbound<Call extends object, Answer>(
  name: string,
  kind: MessageToWrite['kind'],
  about: (context: Context, call: Call) => About | undefined,
  refuse: (context: Context, call: Call, refusal: Refusal, at: Room) => Refused<Answer>,
): Row<Call, Call, Answer> {
  const used = () => new Refusal('request.invalid', 'it came before')
  return new Row(name, kind, { about, refuse, nonce: () => undefined, used })
}
