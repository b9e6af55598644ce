import { existsSync } from 'node:fs'
import type { DataSource } from 'typeorm'
import { keyMark, sealedSamples, setKeyMark } from '../records/key-mark.js'
import { ensureKeyFile, type Keys } from './key-file.js'

/** Makes a key file for new records, and none beside records that have another. @throws Error in words */
export async function ensureKeyFileFor(database: DataSource, path: string): Promise<void> {
  if (existsSync(path)) return
  if ((await keyMark(database)) !== undefined || (await sealedSamples(database)).length > 0)
    throw new Error(
      `There is no key file at ${path}, but these records were made with one. Put it back from its backup, or name its place in \`keyFile\`. A new one could open none of the secrets.`,
    )
  ensureKeyFile(path)
}

/**
 * Holds the key file against the records: every process of an installation needs the one that they were made with.
 * @throws Error in words
 */
export async function checkKeys(database: DataSource, keys: Keys, path: string): Promise<void> {
  for (const { sealed, about } of await sealedSamples(database))
    try {
      keys.unseal(sealed, about)
    } catch (cause) {
      throw new Error(notTheOne(path), { cause })
    }
  await setKeyMark(database, keys.mark)
  if ((await keyMark(database)) !== keys.mark) throw new Error(notTheOne(path))
}

function notTheOne(path: string): string {
  return `The key file ${path} is not the one that these records were made with. All processes of an installation share one: copy it here, or put it back from its backup.`
}
