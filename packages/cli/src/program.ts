import { ServiceRefusal, ServiceUnreached } from '@bathyscribe/contract'
import { Command, CommanderError } from 'commander'
import { readFileSync } from 'node:fs'
import { addAssignmentCommands } from './commands/assignment.js'
import { addCompletionCommand } from './commands/completion.js'
import { addCourseCommands } from './commands/course.js'
import { addGradebookCommands } from './commands/gradebook.js'
import { addCaseCommands } from './commands/case.js'
import { addScoreCommands } from './commands/score.js'
import { addDemoCommands } from './commands/demo-faults.js'
import { addLaunchCommands } from './commands/launch.js'
import { addPersonCommands } from './commands/person.js'
import { addRehearseCommands } from './commands/rehearse.js'
import { addServiceCommands } from './commands/service.js'
import { addSignOnCommands } from './commands/sign-on.js'
import { addSoundingCommands } from './commands/sounding.js'
import { addToolCommands } from './commands/tool.js'
import { addWireCommands } from './commands/wire.js'
import { CheckFailed, EXIT, Failure } from './terminal/failure.js'
import { paint, visible } from './terminal/output.js'
import { atTerminal, terminal, type Terminal } from './terminal/terminal.js'

export { atTerminal, type Terminal }

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as { version: string }

export function createProgram(): Command {
  const program = new Command('bathyscribe')
    .description(
      'Registers external tools, proves every launch, and proves that every score comes back to the gradebook.',
    )
    .version(version)
    .option('--url <address>', 'address of the service (or BATHYSCRIBE_URL)')
    .option('--json', 'answers as JSON, in the API’s own shapes')
    .option('--quiet', 'prints nothing but errors')
    .showHelpAfterError('(add --help for help)')
    .configureOutput({ writeOut: (text) => terminal().print(text), writeErr: (text) => terminal().say(text) })
    .exitOverride()
  addToolCommands(program)
  addCourseCommands(program)
  addAssignmentCommands(program)
  addSoundingCommands(program)
  addLaunchCommands(program)
  addRehearseCommands(program)
  addGradebookCommands(program)
  addScoreCommands(program)
  addCaseCommands(program)
  addWireCommands(program)
  addPersonCommands(program)
  addSignOnCommands(program)
  addServiceCommands(program)
  addDemoCommands(program)
  addCompletionCommand(program)
  return program
}

/** Runs one command as this process. @returns what `runCommand` returns */
export function main(argv: readonly string[]): Promise<number> {
  // Whoever reads may stop reading, as `head` does; that is no fault.
  process.stdout.on('error', (error: NodeJS.ErrnoException) =>
    process.exit(error.code === 'EPIPE' ? EXIT.done : EXIT.refused),
  )
  return runCommand(argv)
}

/** Runs one command. @returns its exit code: 0 done, 1 refused or a check failed, 2 wrong usage, 3 service not reached */
export async function runCommand(argv: readonly string[]): Promise<number> {
  try {
    await createProgram().parseAsync(argv)
    return EXIT.done
  } catch (error) {
    return explain(error)
  }
}

function explain(error: unknown): number {
  const say = (sentence: string, hint?: string) =>
    terminal().say(`${paint('bad', '✕')} ${sentence}\n${hint ? `→ ${hint}\n` : ''}`)
  if (error instanceof CheckFailed) return EXIT.refused
  // commander has printed its own message; help and version end here, too.
  if (error instanceof CommanderError) return error.exitCode === 0 ? EXIT.done : EXIT.usage
  if (error instanceof Failure) {
    say(error.message, error.hint)
    return error.exitCode
  }
  if (error instanceof ServiceRefusal) {
    const { title, detail, hint, code, faults } = error.problem
    const places = faults
      ? faults.map((fault) => `\n  ${fault.path}: ${visible(fault.message)}`).join('')
      : detail
        ? ` ${visible(detail)}`
        : ''
    say(`${title}${places} ${paint('quiet', `[${code}]`)}`, hint)
    return EXIT.refused
  }
  if (error instanceof ServiceUnreached) {
    say(error.message, 'Is the service running? Give its address with --url.')
    return EXIT.unreached
  }
  throw error
}
