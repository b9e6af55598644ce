import type { Result, Setting } from './bench.js'
import { load } from './loading.js'
import { residentMb } from './processor-time.js'

const LIMIT_MB = 250
const SAMPLES = 10
const EACH = 10_000

/** Resident memory of the service over 100,000 outcomes: its size at the end, and whether the last half still grew. */
export async function memory({ signing, url, pids, say }: Setting): Promise<Result> {
  const samples: number[] = []
  for (let i = 1; i <= SAMPLES; i++) {
    const job = { kind: 'outcomes', path: '/lti/outcomes', expect: '>success<', prepare: 0, ...signing } as const
    await load({ ...job, target: url, amount: EACH })
    samples.push(residentMb(pids[0]))
    say(`  memory after ${i * EACH} outcomes: ${samples.at(-1)} MB`)
  }
  const [half, end] = [Math.max(...samples.slice(3, 6)), Math.max(...samples.slice(7))]
  const grows = end > half * 1.1 + 5
  return { name: 'memory', ratio: grows ? 0 : LIMIT_MB / end, floor: 1, detail: { afterMb: samples, grows } }
}
