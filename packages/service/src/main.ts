import { setFlagsFromString } from 'node:v8'
import { startService } from './service.js'
import { readSettings } from './settings/settings.js'

export { startService, type RunningService } from './service.js'
export * from './upkeep.js'

/**
 * By so many percent of what is alive the heap grows before it is collected again. By itself it takes up to four times as much on a machine with much memory: 360 MB after 60,000
 * outcomes, where 215 do as well (`npm run bench -- memory`).
 */
const HEAP_GROWS_BY = 40

/** Runs the service until it is told to stop (SIGTERM, SIGINT). */
export async function runService(
  configFile: string | undefined,
  environment: NodeJS.ProcessEnv,
  say: (line: string) => void,
): Promise<void> {
  setFlagsFromString(`--heap-growing-percent=${HEAP_GROWS_BY}`)
  const settings = readSettings(configFile, environment)
  const service = await startService(settings, {
    offer: (code) => say(`There is no administrator yet. Open ${settings.publicUrl}/set-up and enter the code ${code}`),
  })
  say(`Bathyscribe answers at ${settings.publicUrl} (listening on ${service.address}).`)
  await new Promise<void>((resolve) => {
    const stop = () => {
      process.off('SIGTERM', stop).off('SIGINT', stop)
      say('Stopping: finishing what is in hand …')
      resolve()
    }
    process.on('SIGTERM', stop).on('SIGINT', stop)
  })
  await service.stop()
  say('Stopped.')
}
