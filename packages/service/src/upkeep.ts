// What is done to records and keys beside the services that run. It is loaded without them: a command that only brings the records up to date is done in half the time.
import type { DataSource } from 'typeorm'
import { checkKeys, ensureKeyFileFor } from './keys/check-keys.js'
import { systemClock } from './keys/ids.js'
import { readKeys } from './keys/key-file.js'
import { reseal, type Resealed } from './keys/reseal.js'
import { createDatabase, migrate, requireMigrated } from './records/database.js'
import type { Settings } from './settings/settings.js'

export type { Resealed } from './keys/reseal.js'
export { environmentName, readSettings, Settings, SettingsFault } from './settings/settings.js'

/** Runs what migrations are missing, and makes the key file if there is none. @returns the names of those that were run */
export function migrateRecords(settings: Settings): Promise<string[]> {
  return onRecords(settings, async (database) => {
    await ensureKeyFileFor(database, settings.keyFile)
    const done = await migrate(database, settings.databaseSchema)
    await carryOver(database, settings)
    await checkKeys(database, readKeys(settings.keyFile), settings.keyFile)
    return done
  })
}

/** What a migration cannot do by statements alone. Loaded only where there is something to do. */
async function carryOver(database: DataSource, settings: Settings): Promise<void> {
  const [{ waiting }] = await database.query<[{ waiting: boolean }]>(
    `select exists (select 1 from preflight_acceptance where facts is null) as waiting`,
  )
  if (!waiting) return
  const [{ carryAcceptances }, { Records }] = await Promise.all([
    import('./desk/assignments/carry-acceptances.js'),
    import('./records/index.js'),
  ])
  await carryAcceptances({ records: new Records(database.manager), settings, clock: systemClock })
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
export async function onRecords<T>(settings: Settings, work: (database: DataSource) => Promise<T>): Promise<T> {
  const database = createDatabase(settings, 'none')
  await database.initialize()
  try {
    return await work(database)
  } finally {
    await database.destroy()
  }
}
