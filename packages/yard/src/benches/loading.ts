import { fork } from 'node:child_process'
import type { Load, LoadJob, Loaded } from '../load/load.js'
import { Stop } from '../machine/place.js'

export const CONNECTIONS = 32

/** What is asked of the load. */
export type Asked = LoadJob & Omit<Load, 'kind' | 'connections'> & { connections?: number }

/** One job in a load process of its own. @param begins hears when its requests are made and the first is about to be sent. @throws Stop unless everything came back good */
export function load(job: Asked, begins: () => void = () => undefined): Promise<Loaded> {
  return new Promise((resolve, reject) => {
    const child = fork(new URL('../load/load.js', import.meta.url))
    child.on('message', (message) => {
      if (message === 'ready') {
        begins()
        child.send('go')
        return
      }
      const result = message as Loaded
      child.kill()
      if (result.wrong + result.non2xx + result.errors > 0)
        reject(new Stop(`The load did not come back good: ${JSON.stringify(result)}`))
      else resolve(result)
    })
    child.once('error', reject)
    child.send({ connections: CONNECTIONS, ...job })
  })
}
