import { startService } from './service.js'
import { readSettings } from './settings/settings.js'

export { startService, type RunningService } from './service.js'
export * from './upkeep.js'

/** Runs the service until it is told to stop (SIGTERM, SIGINT). */
export async function runService(
  configFile: string | undefined,
  environment: NodeJS.ProcessEnv,
  say: (line: string) => void,
): Promise<void> {
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
