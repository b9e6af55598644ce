import { existsSync, writeFileSync } from 'node:fs'
import { EXIT, Failure } from './failure.js'

/** Before anything is asked for that cannot be asked for twice. @throws Failure */
export function requireNew(file: string | undefined): void {
  if (file !== undefined && existsSync(file))
    throw new Failure(`${file} is there already.`, EXIT.usage, 'Name a file that is not there yet.')
}

/** Writes a new file that only its owner can read. @param way what leads on where it cannot be written @throws Failure */
export function writeOwn(file: string, text: string, way: () => string): void {
  try {
    writeFileSync(file, text, { mode: 0o600, flag: 'wx' })
  } catch (error) {
    throw new Failure(`${file} cannot be written (${(error as Error).message}).`, EXIT.usage, way())
  }
}
