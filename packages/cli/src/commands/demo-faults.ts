import type { Client } from '@bathyscribe/contract'
import type { Command } from 'commander'
import type { Fault } from '../faults/fault.js'
import { FAULTS } from '../faults/faults.js'
import { look, lookAgain, type Looked } from '../faults/look.js'
import { assignmentsByTitle, beginFaults, COURSE, endFaults } from '../faults/set-up.js'
import { examples, job } from '../terminal/command.js'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import { paint, table, visible } from '../terminal/output.js'
import { terminal } from '../terminal/terminal.js'

interface FaultOptions {
  begin?: boolean
  check?: boolean
  hint?: boolean
  end?: boolean
}

interface FaultView extends Looked {
  number: number
  name: string
  title: string
  assignment: string
  tool: string
  reportedBy: string
  symptom: string
  hints: readonly string[]
}

const signOf = ({ fixed }: Looked) => (fixed ? paint('good', '● fixed') : paint('bad', '✕ broken'))

function showFault(one: FaultView, hints: boolean): string {
  return [
    `${paint('strong', `${one.number}. ${one.title}`)}  ${signOf(one)}  ${paint('quiet', `${one.assignment}, tool ${one.tool}`)}`,
    `“${one.symptom}” (${one.reportedBy})`,
    visible(one.statement),
    ...(hints ? one.hints.map((hint) => `→ ${hint}`) : []),
  ].join('\n')
}

function showAll(all: readonly FaultView[]): string {
  const fixed = all.filter((one) => one.fixed).length
  const rows = all.map((one) => [String(one.number), signOf(one), one.title, `“${one.symptom}”`])
  return `${table(['', '', 'assignment', 'what is reported'], rows)}\n${fixed} of ${all.length} fixed.${
    fixed < all.length ? ' Look at one with `bathyscribe demo faults NUMBER`, and check it with --check.' : ''
  }`
}

async function view(client: Client, n: number, check: boolean): Promise<FaultView> {
  const fault = FAULTS[n - 1] as Fault
  const assignment = (await assignmentsByTitle(client)).get(fault.title)
  if (!assignment)
    throw new Failure(
      'The faults are not set up yet.',
      EXIT.refused,
      'Set them up with `bathyscribe demo faults --begin`.',
    )
  const looked = await (check ? lookAgain : look)(client, fault, assignment)
  return {
    ...looked,
    number: n,
    name: fault.name,
    title: fault.title,
    assignment: `${COURSE}/${assignment.slug}`,
    tool: assignment.tool.slug,
    reportedBy: fault.reportedBy,
    symptom: fault.symptom,
    hints: fault.hints,
  }
}

/** Practice for people: a dozen broken set-ups of the demo academy, to be found and fixed with the product itself. */
export function addDemoCommands(program: Command): void {
  const demo = program.command('demo').description('practice in the demo academy')
  demo
    .command('faults [number]')
    .description('broken set-ups to find and fix; says what is reported for each, and knows when it is fixed')
    .option('--begin', 'sets them up, or breaks them again')
    .option('--check', 'sounds them and says what is fixed; exits 1 while one is broken')
    .option('--hint', 'says where to look')
    .option('--end', 'takes them out of sight')
    .addHelpText('after', examples('demo faults --begin', 'demo faults 5 --check'))
    .action(
      job<FaultOptions>(async ({ client, options, show }, number: string | undefined) => {
        if (number !== undefined && !(Number(number) >= 1 && Number(number) <= FAULTS.length))
          throw new Failure(
            `There is no fault ${visible(number)}.`,
            EXIT.usage,
            `They are numbered 1 to ${FAULTS.length}.`,
          )
        if (options.end) {
          const ended = await endFaults(client)
          return show({ ended }, (one) => `${one.ended} set-ups taken out of sight. --begin brings them back.`)
        }
        if (options.begin) await beginFaults(client, (line) => !options.quiet && terminal().say(`${line}\n`))
        if (number !== undefined) {
          const one = await view(client, Number(number), options.check ?? false)
          show(one, (shown) => showFault(shown, options.hint ?? false))
          if (options.check && !one.fixed) throw new CheckFailed()
          return
        }
        const all: FaultView[] = []
        for (const i of FAULTS.keys()) all.push(await view(client, i + 1, options.check ?? false))
        show({ items: all }, () => showAll(all))
        if (options.check && all.some((one) => !one.fixed)) throw new CheckFailed()
      }),
    )
}
