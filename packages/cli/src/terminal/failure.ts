/** The exit codes of every command. */
export const EXIT = { done: 0, refused: 1, usage: 2, unreached: 3 } as const

/** Ends a command with a sentence and an exit code; nothing else is printed. */
export class Failure extends Error {
  constructor(
    message: string,
    readonly exitCode: number = EXIT.refused,
    readonly hint?: string,
  ) {
    super(message)
  }
}

/** A check that failed: its output is already printed, so only the exit code is left to be told. */
export class CheckFailed extends Error {}
