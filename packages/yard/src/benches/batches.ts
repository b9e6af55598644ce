interface Waiting<I, O> {
  item: I
  resolve: (answer: O) => void
  reject: (error: unknown) => void
}

const MOST = 64
const AT_ONCE = 3

/**
 * Answers what comes in one turn of the event loop by one statement, and what comes while some are on their way by the next. No order is kept and nothing is waited for apart.
 * @param run answers the items in their order
 * @param keyOf two of one key never share a statement
 */
export function inBatches<I, O>(
  run: (items: I[]) => Promise<O[]>,
  keyOf: (item: I) => string | undefined = () => undefined,
): (item: I) => Promise<O> {
  let queue: Waiting<I, O>[] = []
  let running = 0
  let isScheduled = false

  function schedule(): void {
    if (isScheduled || running >= AT_ONCE || queue.length === 0) return
    isScheduled = true
    setImmediate(() => {
      isScheduled = false
      const batch = take()
      running++
      void answer(batch).finally(() => {
        running--
        schedule()
      })
      schedule()
    })
  }

  function take(): Waiting<I, O>[] {
    const [batch, left, keys] = [[] as Waiting<I, O>[], [] as Waiting<I, O>[], new Set<string>()]
    for (const one of queue) {
      const key = keyOf(one.item)
      const fits = batch.length < MOST && (key === undefined || !keys.has(key))
      if (key !== undefined) keys.add(key)
      ;(fits ? batch : left).push(one)
    }
    queue = left
    return batch
  }

  async function answer(batch: Waiting<I, O>[]): Promise<void> {
    try {
      const answers = await run(batch.map((one) => one.item))
      batch.forEach((one, i) => one.resolve(answers[i]!))
    } catch (error) {
      for (const one of batch) one.reject(error)
    }
  }

  return (item) =>
    new Promise((resolve, reject) => {
      queue.push({ item, resolve, reject })
      schedule()
    })
}
