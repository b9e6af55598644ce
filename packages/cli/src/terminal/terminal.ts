import { AsyncLocalStorage } from 'node:async_hooks'
import { readFileSync } from 'node:fs'
import pc from 'picocolors'

/** What a command reads from and writes to. A program that runs commands inside itself brings its own. */
export interface Terminal {
  environment: NodeJS.ProcessEnv
  /** Answers. */
  print: (text: string | Uint8Array) => void
  /** What is said beside the answers: progress, errors, what to do next. */
  say: (text: string) => void
  /** Standard input to its end. */
  readInput: () => string
  /** Whether a person is at the other end of the three. */
  readonly isTTY: { readonly input: boolean; readonly output: boolean; readonly messages: boolean }
  colours: boolean
}

const OF_PROCESS: Terminal = {
  environment: process.env,
  print: (text) => void process.stdout.write(text),
  say: (text) => void process.stderr.write(text),
  readInput: () => readFileSync(0, 'utf8'),
  isTTY: {
    get input() {
      return process.stdin.isTTY
    },
    get output() {
      return process.stdout.isTTY
    },
    get messages() {
      return process.stderr.isTTY
    },
  },
  colours: pc.isColorSupported,
}

const brought = new AsyncLocalStorage<Terminal>()

/** The terminal of the command that is running. */
export function terminal(): Terminal {
  return brought.getStore() ?? OF_PROCESS
}

/** Runs something with a terminal of its own. */
export function atTerminal<T>(own: Terminal, run: () => T): T {
  return brought.run(own, run)
}
