import { RECONCILED_CLASSES, type Reconciliation, type ReconciledRow } from '@bathyscribe/contract'
import { basename } from 'node:path'
import { Option, type Command } from 'commander'
import { Failure, EXIT } from '../terminal/failure.js'
import { collect, collectPairs, examples, job, wholeNumber } from '../terminal/command.js'
import { paint, table, visible } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'

const AGREES: readonly ReconciledRow['class'][] = ['same', 'rounding', 'scale']

function showReconciliation(one: Reconciliation, all: boolean): string {
  const counts = RECONCILED_CLASSES.filter((name) => one.counts[name] > 0).map(
    (name) => `${one.counts[name]} ${name.replaceAll('_', ' ')}`,
  )
  const read = Object.entries(one.reading).map(([field, head]) => `${field} from “${visible(head)}”`)
  const rows = one.rows.filter((row) => all || !AGREES.includes(row.class))
  return [
    `${visible(one.fileName)} against “${visible(one.column.title)}” (${one.column.points} points): ${counts.join(', ')}.`,
    paint('quiet', `Read ${read.join(', ')}${one.confirmed ? '' : '; --confirm remembers it'}.`),
    ...(rows.length > 0
      ? [
          table(
            ['line', 'learner', 'here', 'there', 'class', 'why'],
            rows.map((row) => [
              row.line === null ? '–' : String(row.line),
              visible(row.person?.fullName ?? row.called) + (row.doubtful ? paint('look', ' ?') : ''),
              row.ours ?? '–',
              row.theirs === null ? '–' : visible(row.theirs),
              paint(AGREES.includes(row.class) ? 'good' : 'look', row.class.replaceAll('_', ' ')),
              visible(row.statement),
            ]),
          ),
        ]
      : [paint('good', 'Every line agrees.')]),
    ...(one.taken > 0 ? [`${one.taken} values taken over as the instructor’s own points.`] : []),
  ].join('\n')
}

export function addReconcileCommand(score: Command): void {
  score
    .command('reconcile <assignment> <file>')
    .description(
      'compares a tool’s own export (CSV) with a column and says why where they differ; - reads standard input',
    )
    .option(
      '--read <field=head>',
      'which head holds identifier, email, name, given, family, score or maximum; repeat',
      collectPairs,
    )
    .option('--maximum <points>', 'what scores in the file are out of')
    .option('--confirm', 'remembers how this tool’s exports are read')
    .option('--all', 'also lines that agree')
    .option('--take <line>', 'takes this line’s value over as your own points; repeat', collect)
    .addOption(
      new Option('--take-class <class>', 'takes over every line of a class').choices([
        'rounding',
        'scale',
        'different',
        'missing_here',
      ]),
    )
    .option('--differences <n>', 'exits 1 when more lines than this differ', wholeNumber)
    .addHelpText(
      'after',
      examples(
        'score reconcile HYD-210/soundings-and-datum export.csv',
        'score reconcile HYD-210/soundings-and-datum export.csv --take-class missing_here',
      ),
    )
    .action(
      job<{
        read?: Record<string, string>
        maximum?: string
        confirm?: boolean
        all?: boolean
        take?: string[]
        takeClass?: ReconciledRow['class']
        differences?: number
      }>(async ({ client, options, show }, assignment, file) => {
        const text = readText(file)
        const body = {
          fileName: file === '-' ? 'standard input' : basename(file),
          table: text,
          ...(options.read && { reading: options.read }),
          ...(options.maximum !== undefined && { maximum: options.maximum }),
          confirm: options.confirm ?? false,
        }
        const params = { assignment }
        let one = await client.call('reconcileScores', { params, body })
        const chosen = one.rows.filter((row) => row.class === options.takeClass && !row.doubtful).map((row) => row.line)
        const lines = [...(options.take ?? []).map(Number), ...chosen].filter((line): line is number => line !== null)
        if (lines.length > 0) one = await client.call('takeReconciled', { params, body: { ...body, lines } })
        show(one, (answer) => showReconciliation(answer, options.all ?? false))
        const differing = one.rows.filter((row) => !AGREES.includes(row.class)).length
        if (options.differences !== undefined && differing > options.differences)
          throw new Failure(`${differing} lines differ.`, EXIT.refused, 'Read the reasons above.')
      }),
    )
}
