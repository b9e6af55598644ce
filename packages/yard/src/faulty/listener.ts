import { parentPort, workerData } from 'node:worker_threads'
import { listen } from './silence.js'

// One processor's share of the messages, a portion at a time.

const { portions, size } = workerData as { portions: number[]; size: number }
for (const seed of portions) parentPort!.postMessage(listen(size, seed))
