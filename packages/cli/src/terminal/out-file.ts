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
  must(() => writeFileSync(file, text, { mode: 0o600, flag: 'wx' }), `${file} cannot be written`, way)
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
  const way = () => 'Name a file in a folder that is there and that you may write to; - writes to standard output.'
  must(() => writeFileSync(file, content), `${file} cannot be written`, way)
  return true
}

/** A folder to write into, made where it is not there. @throws Failure */
export function makeFolder(folder: string): void {
  const way = () => 'Name a folder that you may write to.'
  must(() => mkdirSync(folder, { recursive: true }), `${folder} cannot be made`, way)
}

/** Does what has to be done with a file, or says what cannot be done, why, and what leads on. */
function must(work: () => unknown, failed: string, way: () => string): void {
  try {
    work()
  } catch (error) {
    throw new Failure(`${failed} (${(error as Error).message}).`, EXIT.usage, way())
  }
}
