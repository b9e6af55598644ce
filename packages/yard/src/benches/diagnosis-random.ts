import { once } from 'node:events'
import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import type { Heard } from '../faulty/silence.js'
import type { Result, Setting } from './bench.js'

const PORTION = 100
/** Seeds of portions are so far apart that no two make the same messages. */
const SEEDS = 10

/**
 * Whether anything is said of messages of which there is nothing to say: right ones in every form, right tokens, and messages whose signature was drawn by lot. The ratio is 1
 * when nothing was, else 0.
 */
export async function diagnosisRandom({ messages, say }: Setting): Promise<Result> {
  const portions = Array.from({ length: Math.ceil(messages / PORTION) }, (_, n) => n * SEEDS)
  const workers = availableParallelism()
  const heard: Heard[] = []
  await Promise.all(
    Array.from({ length: workers }, async (_, one) => {
      const mine = portions.filter((__, n) => n % workers === one)
      const worker = new Worker(new URL('../faulty/listener.js', import.meta.url), {
        workerData: { portions: mine, size: PORTION },
      })
      worker.on('message', (portion: Heard) => heard.push(portion))
      const [code] = (await once(worker, 'exit')) as [number]
      if (code !== 0) throw new Error(`A worker ended with ${code}.`)
    }),
  )
  const sum = (of: 'honest' | 'tokens' | 'random') => heard.reduce((all, one) => all + one[of], 0)
  const said = heard.flatMap((one) => one.said)
  const detail = { honest: sum('honest'), tokens: sum('tokens'), random: sum('random'), said: said.slice(0, 10) }
  say(`  diagnosis-random: ${detail.honest} right, ${detail.random} drawn by lot; of ${said.length} something was said`)
  const isWhole = detail.honest >= messages && detail.random >= messages && detail.tokens >= messages
  return { name: 'diagnosis-random', ratio: isWhole && said.length === 0 ? 1 : 0, floor: 1, detail }
}
