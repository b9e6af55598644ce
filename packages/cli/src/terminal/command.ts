import type { Client } from '@bathyscribe/contract'
import { Command, InvalidArgumentError } from 'commander'
import { connect, type GlobalOptions } from './connect.js'
import { terminal } from './terminal.js'

/** What a command's action works with, besides its own arguments. */
export interface Job<O> {
  client: Client
  options: O & GlobalOptions
  /** Prints the answer: JSON for programs, otherwise what `forPeople` makes of it. Nothing when quiet. */
  show: <T>(answer: T, forPeople: (answer: T) => string) => void
}

/** Options of a command, its own and the global ones. */
export function optionsOf<O>(command: Command): O & GlobalOptions {
  return command.optsWithGlobals<O & GlobalOptions>()
}

export function show<T>(options: GlobalOptions, answer: T, forPeople: (answer: T) => string): void {
  if (options.json) terminal().print(`${JSON.stringify(answer, null, 2)}\n`)
  else if (!options.quiet) terminal().print(`${forPeople(answer)}\n`)
}

/** Wraps an action: connects as the person who is signed in, and passes the arguments on by position. */
export function job<O = object>(run: (job: Job<O>, ...args: string[]) => Promise<void>) {
  return async (...given: unknown[]): Promise<void> => {
    const command = given.at(-1) as Command
    const options = optionsOf<O>(command)
    const args = given.slice(0, -2) as string[]
    await run(
      { client: connect(options), options, show: (answer, forPeople) => show(options, answer, forPeople) },
      ...args,
    )
  }
}

/** The two examples at the end of a command's help. */
export function examples(first: string, second: string): string {
  return `\nExamples:\n  $ bathyscribe ${first}\n  $ bathyscribe ${second}`
}

/** Collects an option that may be given again. */
export function collect(one: string, before: string[] = []): string[] {
  return [...before, one]
}

/** Collects `NAME=VALUE` options into a record. */
export function collectPairs(text: string, before: Record<string, string> = {}): Record<string, string> {
  const at = text.indexOf('=')
  if (at < 1) throw new InvalidArgumentError('Write it as NAME=VALUE.')
  return { ...before, [text.slice(0, at)]: text.slice(at + 1) }
}

export function wholeNumber(text: string): number {
  if (!/^\d{1,6}$/.test(text)) throw new InvalidArgumentError('Give a whole number.')
  return Number(text)
}

/** The line under a table that says how to see more. */
export function more(next: string | null): string {
  return next === null ? '' : `\n… and more: --cursor ${next}`
}

/** Adds the options of every list. */
export function paged(command: Command): Command {
  return command
    .option('--limit <n>', 'rows at most, 1 to 200', wholeNumber)
    .option('--cursor <cursor>', 'go on where a list ended')
}
