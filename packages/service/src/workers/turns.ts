/** So many wait already that it would take too long. */
export class NoTurn extends Error {}

/** Lets so many work at once; who comes then waits in a row. */
export class Turns {
  private busy = 0
  private readonly waiting: (() => void)[] = []

  constructor(
    private readonly atOnce: number,
    private readonly mostWaiting: number,
  ) {}

  /**
   * @param gone aborts when nobody waits for the work any more: it then gives up its place in the row
   * @throws NoTurn when the row is full; the signal's reason when it aborts before the work begins
   */
  async take<T>(work: () => Promise<T>, gone?: AbortSignal): Promise<T> {
    gone?.throwIfAborted()
    if (this.busy >= this.atOnce) await this.wait(gone)
    else this.busy++
    try {
      return await work()
    } finally {
      const next = this.waiting.shift()
      if (next) next()
      else this.busy--
    }
  }

  private wait(gone: AbortSignal | undefined): Promise<void> {
    if (this.waiting.length >= this.mostWaiting) throw new NoTurn()
    return new Promise((resolve, reject) => {
      const leave = () => {
        this.waiting.splice(this.waiting.indexOf(come), 1)
        reject(gone!.reason as Error)
      }
      const come = () => {
        gone?.removeEventListener('abort', leave)
        resolve()
      }
      this.waiting.push(come)
      gone?.addEventListener('abort', leave, { once: true })
    })
  }
}
