import { openSync } from 'node:fs'
import { ReadStream } from 'node:tty'
import { confirm, isCancel } from '@clack/prompts'
import { EXIT, Failure } from './failure.js'
import { terminal } from './terminal.js'

/**
 * Asks a person yes or no. Standard input may be taken by what was piped in, so the terminal itself is asked.
 * @returns undefined when there is nobody to ask
 */
export async function askToConfirm(question: string): Promise<boolean | undefined> {
  if (!terminal().isTTY.output) return undefined
  const input = terminal().isTTY.input ? process.stdin : openTerminal()
  if (!input) return undefined
  const answer = await confirm({ message: question, input })
  if (input !== process.stdin) input.destroy()
  return !isCancel(answer) && answer
}

/** Asks before something is done. @throws Failure when the person does not want it, or nobody can be asked: that nothing was done, and how it is done without being asked */
export async function requireConsent(question: string, nothingDone: string, withoutAsking: string): Promise<void> {
  if (!(await askToConfirm(question))) throw new Failure(nothingDone, EXIT.refused, withoutAsking)
}

function openTerminal(): ReadStream | undefined {
  try {
    return new ReadStream(openSync('/dev/tty', 'r'))
  } catch {
    return undefined
  }
}
