import { join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The folder of the whole project. */
export const ROOT = fileURLToPath(new URL('../../../..', import.meta.url)).replace(/\/$/, '')
/** What is made while running, and can be thrown away. */
export const RUN = join(ROOT, '.run')
/** What a run of the tests leaves behind: its report, and evidence of what failed. */
export const REPORT = join(RUN, 'report')
/** Debian's Chromium without a window: it needs half the time of the one with. */
export const CHROMIUM = '/usr/bin/chromium-headless-shell'
/** The command line as it was built. */
export const CLI = join(ROOT, 'packages/cli/bin/bathyscribe.js')

/** A sentence for the person at the terminal, and the end of the program. */
export class Stop extends Error {
  override readonly name = 'Stop'
}

/** Says a line to the person at the terminal. */
export type Say = (line: string) => void

export const say: Say = (line) => void process.stdout.write(`${line}\n`)
/** Beside what is printed for programs. */
export const sayBeside: Say = (line) => void process.stderr.write(`${line}\n`)
