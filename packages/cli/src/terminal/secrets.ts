import { readFileSync } from 'node:fs'
import { isCancel, password } from '@clack/prompts'
import { EXIT, Failure } from './failure.js'
import { terminal } from './terminal.js'

/**
 * Reads a secret from a file, from standard input (`-`), or from a prompt that shows nothing: never from an argument, which other
 * users of the machine could see. A line end at the end is not part of it.
 */
export async function readSecret(file: string | undefined, question: string): Promise<string> {
  if (file !== undefined) {
    const text = readText(file)
    return text.replace(/\r?\n$/, '')
  }
  if (!terminal().isTTY.input)
    throw new Failure(
      `There is no terminal to ask for: ${question}.`,
      EXIT.usage,
      'Give a file, or - for standard input.',
    )
  const answer = await password({ message: question })
  if (isCancel(answer)) throw new Failure('Nothing was done.', EXIT.usage)
  return answer
}

/** The text of a file, or of standard input for `-`. @throws Failure when it cannot be read */
export function readText(file: string): string {
  try {
    return file === '-' ? terminal().readInput() : readFileSync(file, 'utf8')
  } catch {
    throw new Failure(`${file} cannot be read.`, EXIT.usage, 'Check its name; - reads standard input.')
  }
}
