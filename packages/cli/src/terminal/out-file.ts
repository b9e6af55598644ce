import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { EXIT, Failure } from './failure.js'
import { terminal } from './terminal.js'

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

/**
 * Writes what a command was asked to write, over what was there; `-` is standard output, which gets nothing else then.
 * @returns whether there is a file to tell of
 * @throws Failure where it cannot be written
 */
export function writeOut(file: string, content: string | Uint8Array): boolean {
  if (file === '-') {
    terminal().print(content)
    return false
  }
  try {
    writeFileSync(file, content)
  } catch (error) {
    throw new Failure(
      `${file} cannot be written (${(error as Error).message}).`,
      EXIT.usage,
      'Name a file in a folder that is there and that you may write to; - writes to standard output.',
    )
  }
  return true
}

/** A folder to write into, made where it is not there. @throws Failure */
export function makeFolder(folder: string): void {
  try {
    mkdirSync(folder, { recursive: true })
  } catch (error) {
    throw new Failure(
      `${folder} cannot be made (${(error as Error).message}).`,
      EXIT.usage,
      'Name a folder that you may write to.',
    )
  }
}
