import { found } from '@bathyscribe/core/checks'
import type { Context } from '../desk/context.js'
import { startDueSweeps } from '../desk/sweeps/schedule.js'
import type { Outcome } from '../desk/soundings/run-sounding.js'
import { soundLink } from '../desk/sweeps/sound-link.js'

/** A sounding of a sweep whose process is gone. */
const RUN_AGAIN = found('sounding', 'run_again', {})
const SIDE_BY_SIDE = 12
const PER_HOST = 6
const LOOK_EVERY_MS = 1000
const BEAT_EVERY_MS = 3000
/** A process that has said nothing for so long is gone; its links are sounded anew. */
const SILENT_MS = 20_000
const SCHEDULES_EVERY_MS = 30_000

/**
 * Works off the links of sweeps, some at a time. Any number of processes do so side by side; the database gives each link to one of them, and what one leaves behind when it is
 * killed to another.
 * @param sound runs a started sounding to its end and never throws
 */
export function startSweeping(
  context: Context,
  sound: (soundingId: string, stopping: AbortSignal) => Promise<Outcome | undefined>,
): { stop(): Promise<void> } {
  const { records, clock, changes, ids, log } = context
  const worker = ids.next()
  const stopping = new AbortController()
  const atWork = new Set<Promise<void>>()
  // By this process's own watch: a clock that is put back holds up no beat.
  let beatAt = -Infinity
  let schedulesAt = -Infinity
  let looking: Promise<void> | undefined
  let again = false

  async function look(): Promise<void> {
    const now = clock.now()
    if (performance.now() - beatAt > BEAT_EVERY_MS) {
      beatAt = performance.now()
      if (atWork.size > 0) await records.sweepWork.beat(worker, now)
      for (const left of await records.sweepWork.giveBackLost(new Date(now.getTime() - SILENT_MS)))
        await records.soundings.interrupt(left, now, RUN_AGAIN)
    }
    if (performance.now() - schedulesAt > SCHEDULES_EVERY_MS) {
      schedulesAt = performance.now()
      await startDueSweeps(context)
    }
    const slots = SIDE_BY_SIDE - atWork.size
    // Where one link was just sounded there are others, as a rule.
    if (slots <= 0 || (atWork.size === 0 && !(await records.sweepWork.anyWaiting()))) return
    const links = await records.transaction((inside) =>
      inside.sweepWork.claim(worker, now, { slots, perHost: PER_HOST }),
    )
    for (const link of links) {
      const work: Promise<void> = soundLink(context, link, (id) => sound(id, stopping.signal), stopping.signal)
        .catch((error: unknown) => {
          log.error({ err: error, link }, 'a link of a sweep could not be sounded')
          return records.sweepWork.giveBack(link, new Date(clock.now().getTime() + SILENT_MS)).catch(() => undefined)
        })
        .finally(() => {
          atWork.delete(work)
          wake()
        })
      atWork.add(work)
    }
  }

  function wake(): void {
    if (stopping.signal.aborted) return
    if (looking) {
      again = true
      return
    }
    looking = look()
      .catch((error: unknown) => log.warn({ reason: (error as Error).message }, 'sweeps could not be looked at'))
      .finally(() => {
        looking = undefined
        if (again) {
          again = false
          wake()
        }
      })
  }
  const timer = setInterval(wake, LOOK_EVERY_MS)
  timer.unref()
  const unsubscribe = changes.subscribe((change) => {
    if (change.kind === 'sweep' && atWork.size === 0) wake()
  })

  return {
    async stop() {
      clearInterval(timer)
      unsubscribe()
      stopping.abort(new Error('The service is stopping.'))
      await looking
      await Promise.all(atWork)
    },
  }
}
