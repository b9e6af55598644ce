import { openSync } from 'node:fs'
import { ReadStream } from 'node:tty'
import { confirm, isCancel } from '@clack/prompts'

/**
 * Asks a person yes or no. Standard input may be taken by what was piped in, so the terminal itself is asked.
 * @returns undefined when there is nobody to ask
 */
export async function askToConfirm(question: string): Promise<boolean | undefined> {
  if (!process.stdout.isTTY) return undefined
  const input = process.stdin.isTTY ? process.stdin : openTerminal()
  if (!input) return undefined
  const answer = await confirm({ message: question, input })
  if (input !== process.stdin) input.destroy()
  return !isCancel(answer) && answer
}

function openTerminal(): ReadStream | undefined {
  try {
    return new ReadStream(openSync('/dev/tty', 'r'))
  } catch {
    return undefined
  }
}
