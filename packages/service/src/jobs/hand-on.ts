import { sendDue } from '../desk/records-office/send-due.js'
import type { Context } from '../desk/context.js'

const LOOK_EVERY_MS = 2000
const MINUTE_MS = 60_000

/** Keeps handing results on: what goes at once, what is scheduled, and what is due for another try. Any number of processes may do so side by side. */
export function startHandingOn(context: Context): { stop(): Promise<void> } {
  const { records, clock, log } = context
  let stopped = false
  let scheduledAt = clock.now().getTime()
  let timer: NodeJS.Timeout | undefined

  async function look(): Promise<void> {
    const office = await records.handedOn.office()
    if (!office || office.paused) return
    const now = clock.now()
    await records.handedOn.queue({ mode: 'at_once' }, false, now)
    if (office.everyMinutes !== null && now.getTime() - scheduledAt >= office.everyMinutes * MINUTE_MS) {
      scheduledAt = now.getTime()
      await records.handedOn.queue({ mode: 'scheduled' }, false, now)
    }
    while (!stopped && (await sendDue(context)) > 0);
  }

  let running: Promise<void> = Promise.resolve()
  const again = () => {
    if (stopped) return
    timer = setTimeout(() => {
      running = look()
        .catch((error: unknown) => log.warn({ reason: (error as Error).message }, 'results could not be handed on'))
        .finally(again)
    }, LOOK_EVERY_MS)
    timer.unref()
  }
  again()
  return {
    async stop() {
      stopped = true
      clearTimeout(timer)
      await running
    },
  }
}
