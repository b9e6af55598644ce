import type { DataSource } from 'typeorm'
import { sealingAlone, SealedValues, type SealedValue } from '../records/sealed-values.js'
import { AuditOfDone } from '../records/audit.js'
import { addKey, forgetOldKeys, readKeys } from './key-file.js'

/** What was sealed anew. */
export interface Resealed {
  /** The key that was added; null when only what lagged behind was brought up. */
  newKey: string | null
  /** By column. */
  sealedAnew: Record<string, number>
  /** Keys that the file does not hold any more. */
  forgotten: string[]
}

/**
 * Seals every secret of the records under another key, as after a backup with the key file went astray. Running processes go on: each reads the file again when it
 * meets the new key. What one of them sealed under an earlier key meanwhile is brought up by the next call, so that earlier keys are only taken out of the
 * file by a call that adds none, after every process was started anew.
 * @param how `forget` adds no key, brings up what lags behind, and takes earlier keys out of the file
 * @throws Error in words when another one is at it, or a value cannot be opened; nothing has been sealed anew then
 */
export async function reseal(
  database: DataSource,
  path: string,
  now: Date,
  how: { forget: boolean },
): Promise<Resealed> {
  const done = await sealingAlone(database, async () => {
    // Opened first: where one cannot be, no key has been added yet.
    const before = readKeys(path)
    for (const value of await new SealedValues(database.manager).all()) open(before, value)
    const newKey = how.forget ? null : addKey(path)
    const sealedAnew = await sealAll(database, path, now, newKey)
    return { newKey, sealedAnew, forgotten: how.forget ? await forget(database, path) : [] }
  })
  if (!done) throw new Error('Somebody else is resealing the secrets. Wait until that is done.')
  return done
}

/** All under the key that seals today, or none. @returns how many, by column */
async function sealAll(
  database: DataSource,
  path: string,
  now: Date,
  newKey: string | null,
): Promise<Record<string, number>> {
  const keys = readKeys(path)
  return database.transaction(async (manager) => {
    const values = new SealedValues(manager)
    const done: Record<string, number> = {}
    for (const value of await values.all())
      if (!keys.isCurrent(value.sealed) && (await values.replace(value, keys.seal(open(keys, value), value.about))))
        done[value.column] = (done[value.column] ?? 0) + 1
    const after = { newKey, sealedAnew: done }
    await new AuditOfDone(manager).add({ at: now, personId: null, via: 'server', action: 'reseal', subject: 'secrets', after }) // oxfmt-ignore
    return done
  })
}

/** Only when all is committed that was sealed anew: a key that went is not to be had again. */
async function forget(database: DataSource, path: string): Promise<string[]> {
  const keys = readKeys(path)
  if ((await new SealedValues(database.manager).all()).some((one) => !keys.isCurrent(one.sealed)))
    throw new Error(
      'A process still seals under an earlier key, so no key was taken out. Restart every process, then do this again.',
    )
  return forgetOldKeys(path)
}

function open(keys: ReturnType<typeof readKeys>, value: SealedValue): string {
  try {
    return keys.unseal(value.sealed, value.about)
  } catch (cause) {
    throw new Error(
      `A secret in ${value.column} cannot be opened by this key file, so nothing was resealed. Put back the key file that holds its key.`,
      { cause },
    )
  }
}
