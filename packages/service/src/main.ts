import type { DataSource } from 'typeorm'
import { checkKeys, ensureKeyFileFor } from './keys/check-keys.js'
import { readKeys } from './keys/key-file.js'
import { reseal, type Resealed } from './keys/reseal.js'
import { createDatabase, migrate, requireMigrated } from './records/database.js'
import { readSettings, type Settings } from './settings/settings.js'
import { startService } from './service.js'

export { startService, type RunningService } from './service.js'
export type { Resealed } from './keys/reseal.js'
export { environmentName, readSettings, Settings, SettingsFault } from './settings/settings.js'

/** Runs what migrations are missing, and makes the key file if there is none. @returns the names of those that were run */
export function migrateRecords(settings: Settings): Promise<string[]> {
  return onRecords(settings, async (database) => {
    await ensureKeyFileFor(database, settings.keyFile)
    const done = await migrate(database, settings.databaseSchema)
    await checkKeys(database, readKeys(settings.keyFile), settings.keyFile)
    return done
  })
}

/**
 * Seals every secret under another key.
 * @param how `forget` takes earlier keys out of the key file instead of adding one
 * @throws Error in words
 */
export function resealSecrets(settings: Settings, how: { forget: boolean }): Promise<Resealed> {
  return onRecords(settings, async (database) => {
    await requireMigrated(database)
    await checkKeys(database, readKeys(settings.keyFile), settings.keyFile)
    return reseal(database, settings.keyFile, new Date(), how)
  })
}

/** Does something to the records beside the services that run, for as long as it takes. */
async function onRecords<T>(settings: Settings, work: (database: DataSource) => Promise<T>): Promise<T> {
  const database = createDatabase(settings, 'none')
  await database.initialize()
  try {
    return await work(database)
  } finally {
    await database.destroy()
  }
}

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
