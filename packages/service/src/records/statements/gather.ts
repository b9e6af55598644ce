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
  const longestWaitMs = options.longestWaitMs ?? Infinity
  const longestHoldMs = options.longestHoldMs ?? longestWaitMs
  let queue: Waiting<I, O>[] = []
  let onTheirWay = 0
  let isApartOnItsWay = false
  let isScheduled = false
  let overdue: NodeJS.Timeout | undefined
  const keysOnTheirWay = new Set<string>()
  const apartUntil = new Map<string, number>()

  function schedule() {
    if (isScheduled || queue.length === 0) return
    if (onTheirWay >= options.atOnce) return refuseOverdueLater()
    isScheduled = true
    setImmediate(() => {
      isScheduled = false
      const { batch, isApart } = takeBatch()
      if (batch.length === 0) return refuseOverdueLater()
      onTheirWay++
      if (isApart) isApartOnItsWay = true
      void answer(batch, isApart).finally(() => {
        onTheirWay--
        if (isApart) isApartOnItsWay = false
        for (const { keys } of batch) for (const key of keys) keysOnTheirWay.delete(key)
        schedule()
      })
      schedule()
    })
  }

  function takeBatch(): { batch: Waiting<I, O>[]; isApart: boolean } {
    refuseOverdue()
    const batch: Waiting<I, O>[] = []
    const left: Waiting<I, O>[] = []
    const seen = new Set<string>()
    let isApart = false
    for (const one of queue) {
      const apart = isKeptApart(one.item)
      const fits = apart ? batch.length === 0 && !isApartOnItsWay : batch.length < options.most && !isApart
      // A key that had to wait holds back everything after it with that key: order is kept.
      if (fits && !one.keys.some((key) => seen.has(key) || keysOnTheirWay.has(key))) {
        batch.push(one)
        isApart ||= apart
      } else left.push(one)
      for (const key of one.keys) seen.add(key)
    }
    queue = left
    for (const { keys } of batch) for (const key of keys) keysOnTheirWay.add(key)
    return { batch, isApart }
  }

  async function answer(batch: Waiting<I, O>[], isApart: boolean): Promise<void> {
    if (batch.length === 1) return answerEach(batch, isApart)
    try {
      const answers = await run(batch.map((one) => one.item))
      batch.forEach((one, i) => one.resolve(answers[i]!))
    } catch (error) {
      const atOnce = isHeldUp(error)
      if (atOnce || options.splitOn?.(error)) await answerEach(batch, isApart, atOnce)
      else for (const one of batch) one.reject(error)
    }
  }

  /** Each by itself. What is held up goes back to the front of the queue, so that it takes no place from others while it waits. */
  async function answerEach(batch: Waiting<I, O>[], isApart: boolean, atOnce = false): Promise<void> {
    const held: Waiting<I, O>[] = []
    const ask = async (one: Waiting<I, O>) => {
      if (await answerOne(one, isApart)) held.push(one)
    }
    if (atOnce) await Promise.all(batch.map(ask))
    else for (const one of batch) await ask(one)
    if (held.length > 0) queue = [...batch.filter((one) => held.includes(one)), ...queue]
  }

  /** What is held up is tried again as long as it may wait. @returns whether it is to wait apart from others */
  async function answerOne(one: Waiting<I, O>, isApart: boolean): Promise<boolean> {
    for (;;)
      try {
        const [only] = await run([one.item])
        one.resolve(only as O)
        return false
      } catch (error) {
        if (!isHeldUp(error)) {
          one.reject(error)
          return false
        }
        const goesApart = keepApart(one.item)
        if (performance.now() - one.since >= longestHoldMs) {
          one.reject(new WaitedTooLong())
          return false
        }
        if (goesApart && !isApart) return true
      }
  }

  const isHeldUp = (error: unknown) => options.longestWaitMs !== undefined && (options.isHeldUp?.(error) ?? false)

  function isKeptApart(item: I): boolean {
    if (apartUntil.size === 0) return false
    const name = options.heldBy?.(item)
    return name !== undefined && (apartUntil.get(name) ?? 0) > performance.now()
  }

  /** @returns whether it is known what holds it up */
  function keepApart(item: I): boolean {
    const name = options.heldBy?.(item)
    if (name === undefined) return false
    const now = performance.now()
    if (apartUntil.size >= MOST_APART) for (const [each, until] of apartUntil) if (until <= now) apartUntil.delete(each)
    apartUntil.set(name, now + APART_MS)
    return true
  }

  function refuseOverdue(): void {
    const now = performance.now()
    // The oldest stand first: mostly one look is enough.
    if (queue.length === 0 || now - queue[0]!.since < Math.min(longestHoldMs, longestWaitMs)) return
    queue = queue.filter((one) => {
      const isOverdue = now - one.since >= (isKeptApart(one.item) ? longestHoldMs : longestWaitMs)
      if (isOverdue) one.reject(new WaitedTooLong())
      return !isOverdue
    })
  }

  function refuseOverdueLater(): void {
    if (options.longestWaitMs === undefined || overdue !== undefined || queue.length === 0) return
    const inMs = queue[0]!.since + Math.min(longestHoldMs, longestWaitMs) - performance.now()
    overdue = setTimeout(
      () => {
        overdue = undefined
        refuseOverdue()
        refuseOverdueLater()
      },
      Math.max(LOOK_AGAIN_MS, inMs),
    ).unref()
  }

  return (item) =>
    new Promise((resolve, reject) => {
      queue.push({ item, keys: options.keysOf?.(item) ?? [], since: performance.now(), resolve, reject })
      schedule()
    })
}
