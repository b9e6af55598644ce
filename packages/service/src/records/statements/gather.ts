/**
 * Answers many small statements by a few large ones: what is asked for while others are on their way goes along with the next.
 * Nobody waits for a timer: with nothing on its way, a question leaves at the end of the same turn of the event loop.
 *
 * Measured by `npm run bench -- outcomes` on two cores: see docs/performance.md.
 */
export interface GatherOptions<I> {
  /** Questions in one statement at most. */
  most: number
  /** Statements on their way at once. */
  atOnce: number
  /** Questions with a key in common never share a statement, nor are two of them on their way at once: order is kept. */
  keysOf?: (item: I) => readonly string[]
  /** Whether an error is worth asking each question again by itself (a bad row), or not (no connection). */
  splitOn?: (error: unknown) => boolean
  /** Whether an error says that something held the statement up, and not that it was wrong. */
  isHeldUp?: (error: unknown) => boolean
  /** What holds a question up, if something does. Questions for the same go by themselves for a while, so that no other waits with them. */
  heldBy?: (item: I) => string | undefined
  /** So long a question waits at most until it leaves, and one that is held up until it is done; then it is refused as `WaitedTooLong`. */
  longestWaitMs?: number
  longestHoldMs?: number
}

/** There was more to do than could be done in time: nothing of it was done, and it can be asked again. */
export class WaitedTooLong extends Error {
  constructor() {
    super('It could not be done in time, and was not begun.')
  }
}

interface Waiting<I, O> {
  item: I
  keys: readonly string[]
  since: number
  resolve: (answer: O) => void
  reject: (error: unknown) => void
}

/** So long what held one question up keeps others for the same apart. */
const APART_MS = 2000
const MOST_APART = 1000
const LOOK_AGAIN_MS = 50

/** @param run answers the items in their order, in one statement that is done as a whole or not at all. */
export function gather<I, O>(run: (items: I[]) => Promise<O[]>, options: GatherOptions<I>): (item: I) => Promise<O> {
  const gathering = new Gathering(run, options)
  return (item) => gathering.ask(item)
}

class Gathering<I, O> {
  private readonly longestWaitMs: number
  private readonly longestHoldMs: number
  private queue: Waiting<I, O>[] = []
  private onTheirWay = 0
  private isApartOnItsWay = false
  private isScheduled = false
  private overdue: NodeJS.Timeout | undefined
  private readonly keysOnTheirWay = new Set<string>()
  private readonly apartUntil = new Map<string, number>()

  constructor(
    private readonly run: (items: I[]) => Promise<O[]>,
    private readonly options: GatherOptions<I>,
  ) {
    this.longestWaitMs = options.longestWaitMs ?? Infinity
    this.longestHoldMs = options.longestHoldMs ?? this.longestWaitMs
  }

  ask(item: I): Promise<O> {
    return new Promise((resolve, reject) => {
      const keys = this.options.keysOf?.(item) ?? []
      this.queue.push({ item, keys, since: performance.now(), resolve, reject })
      this.schedule()
    })
  }

  private schedule(): void {
    if (this.isScheduled || this.queue.length === 0) return
    if (this.onTheirWay >= this.options.atOnce) return this.refuseOverdueLater()
    this.isScheduled = true
    setImmediate(() => {
      this.isScheduled = false
      const { batch, isApart } = this.takeBatch()
      if (batch.length === 0) return this.refuseOverdueLater()
      this.onTheirWay++
      if (isApart) this.isApartOnItsWay = true
      void this.answer(batch, isApart).finally(() => {
        this.onTheirWay--
        if (isApart) this.isApartOnItsWay = false
        for (const { keys } of batch) for (const key of keys) this.keysOnTheirWay.delete(key)
        this.schedule()
      })
      this.schedule()
    })
  }

  private takeBatch(): { batch: Waiting<I, O>[]; isApart: boolean } {
    this.refuseOverdue()
    const batch: Waiting<I, O>[] = []
    const left: Waiting<I, O>[] = []
    const seen = new Set<string>()
    let isApart = false
    for (const one of this.queue) {
      const apart = this.isKeptApart(one.item)
      const fits = apart ? batch.length === 0 && !this.isApartOnItsWay : batch.length < this.options.most && !isApart
      // A key that had to wait holds back everything after it with that key: order is kept.
      if (fits && !one.keys.some((key) => seen.has(key) || this.keysOnTheirWay.has(key))) {
        batch.push(one)
        isApart ||= apart
      } else left.push(one)
      for (const key of one.keys) seen.add(key)
    }
    this.queue = left
    for (const { keys } of batch) for (const key of keys) this.keysOnTheirWay.add(key)
    return { batch, isApart }
  }

  private async answer(batch: Waiting<I, O>[], isApart: boolean): Promise<void> {
    if (batch.length === 1) return this.answerEach(batch, isApart)
    try {
      const answers = await this.run(batch.map((one) => one.item))
      batch.forEach((one, i) => one.resolve(answers[i]!))
    } catch (error) {
      const atOnce = this.isHeldUp(error)
      if (atOnce || this.options.splitOn?.(error)) await this.answerEach(batch, isApart, atOnce)
      else for (const one of batch) one.reject(error)
    }
  }

  /** Each by itself. What is held up goes back to the front of the queue, so that it takes no place from others while it waits. */
  private async answerEach(batch: Waiting<I, O>[], isApart: boolean, atOnce = false): Promise<void> {
    const held: Waiting<I, O>[] = []
    const ask = async (one: Waiting<I, O>) => {
      if (await this.answerOne(one, isApart)) held.push(one)
    }
    if (atOnce) await Promise.all(batch.map(ask))
    else for (const one of batch) await ask(one)
    if (held.length > 0) this.queue = [...batch.filter((one) => held.includes(one)), ...this.queue]
  }

  /** What is held up is tried again as long as it may wait. @returns whether it is to wait apart from others */
  private async answerOne(one: Waiting<I, O>, isApart: boolean): Promise<boolean> {
    for (;;)
      try {
        const [only] = await this.run([one.item])
        one.resolve(only as O)
        return false
      } catch (error) {
        if (!this.isHeldUp(error)) {
          one.reject(error)
          return false
        }
        const goesApart = this.keepApart(one.item)
        if (performance.now() - one.since >= this.longestHoldMs) {
          one.reject(new WaitedTooLong())
          return false
        }
        if (goesApart && !isApart) return true
      }
  }

  private isKeptApart(item: I): boolean {
    if (this.apartUntil.size === 0) return false
    const name = this.options.heldBy?.(item)
    return name !== undefined && (this.apartUntil.get(name) ?? 0) > performance.now()
  }

  /** @returns whether it is known what holds it up */
  private keepApart(item: I): boolean {
    const name = this.options.heldBy?.(item)
    if (name === undefined) return false
    const now = performance.now()
    if (this.apartUntil.size >= MOST_APART)
      for (const [each, until] of this.apartUntil) if (until <= now) this.apartUntil.delete(each)
    this.apartUntil.set(name, now + APART_MS)
    return true
  }

  private refuseOverdue(): void {
    const now = performance.now()
    // The oldest stand first: mostly one look is enough.
    if (this.queue.length === 0 || now - this.queue[0]!.since < Math.min(this.longestHoldMs, this.longestWaitMs)) return
    this.queue = this.queue.filter((one) => {
      const isOverdue = now - one.since >= (this.isKeptApart(one.item) ? this.longestHoldMs : this.longestWaitMs)
      if (isOverdue) one.reject(new WaitedTooLong())
      return !isOverdue
    })
  }

  private refuseOverdueLater(): void {
    if (this.options.longestWaitMs === undefined || this.overdue !== undefined || this.queue.length === 0) return
    const inMs = this.queue[0]!.since + Math.min(this.longestHoldMs, this.longestWaitMs) - performance.now()
    this.overdue = setTimeout(
      () => {
        this.overdue = undefined
        this.refuseOverdue()
        this.refuseOverdueLater()
      },
      Math.max(LOOK_AGAIN_MS, inMs),
    ).unref()
  }

  private isHeldUp(error: unknown): boolean {
    return this.options.longestWaitMs !== undefined && (this.options.isHeldUp?.(error) ?? false)
  }
}
