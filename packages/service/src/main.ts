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
  const service = await startService(readSettings(configFile, environment))
  say(`Bathyscribe answers at ${service.context.settings.publicUrl} (listening on ${service.address}).`)
  if (service.setupCode !== undefined)
    say(
      `There is no administrator yet. Open ${service.context.settings.publicUrl}/set-up and enter the code ${service.setupCode}`,
    )
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
