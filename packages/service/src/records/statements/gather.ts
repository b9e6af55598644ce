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
  /** Questions with a key in common never share a statement. */
  keysOf?: (item: I) => readonly string[]
  /** Whether an error is worth asking each question again by itself (a bad row), or not (no connection). */
  splitOn?: (error: unknown) => boolean
}

interface Waiting<I, O> {
  item: I
  resolve: (answer: O) => void
  reject: (error: unknown) => void
}

/** @param run answers the items in their order, in one statement that is done as a whole or not at all. */
export function gather<I, O>(run: (items: I[]) => Promise<O[]>, options: GatherOptions<I>): (item: I) => Promise<O> {
  let queue: Waiting<I, O>[] = []
  let onTheirWay = 0
  let scheduled = false

  function schedule() {
    if (scheduled || queue.length === 0 || onTheirWay >= options.atOnce) return
    scheduled = true
    setImmediate(() => {
      scheduled = false
      const batch = takeBatch()
      onTheirWay++
      void answer(batch).finally(() => {
        onTheirWay--
        schedule()
      })
      schedule()
    })
  }

  function takeBatch(): Waiting<I, O>[] {
    const taken: Waiting<I, O>[] = []
    const left: Waiting<I, O>[] = []
    const seen = new Set<string>()
    for (const one of queue) {
      const keys = options.keysOf?.(one.item) ?? []
      // A key that had to wait holds back everything after it with that key: order is kept.
      if (taken.length < options.most && !keys.some((key) => seen.has(key))) taken.push(one)
      else left.push(one)
      for (const key of keys) seen.add(key)
    }
    queue = left
    return taken
  }

  async function answer(batch: Waiting<I, O>[]): Promise<void> {
    try {
      const answers = await run(batch.map((one) => one.item))
      batch.forEach((one, i) => one.resolve(answers[i]!))
    } catch (error) {
      if (batch.length > 1 && options.splitOn?.(error)) for (const one of batch) await answer([one])
      else for (const one of batch) one.reject(error)
    }
  }

  return (item) =>
    new Promise((resolve, reject) => {
      queue.push({ item, resolve, reject })
      schedule()
    })
}
