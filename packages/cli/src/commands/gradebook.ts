import type { Cell, Gradebook } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, more, paged } from '../terminal/command.js'
import { moment, paint, state, table, visible } from '../terminal/output.js'

function cellText(cell: Cell | undefined, exact: boolean): string {
  if (!cell || cell.state === 'never_opened') return paint('quiet', '·')
  if (cell.state === 'refused') return paint('bad', `${cell.shown ?? ''}✕`)
  if (cell.state === 'opened') return paint('quiet', 'opened')
  return cell.points === null ? paint('quiet', '–') : exact ? cell.points : (cell.shown ?? '')
}

function showGradebook(book: Gradebook, exact: boolean): string {
  if (book.columns.length === 0) return `${book.course.code} has no assignments yet.`
  const heads = [
    'learner',
    ...book.columns.map((column) => `${visible(column.title)} (${column.points})`),
    `total (${book.outOf})`,
  ]
  const rows = book.rows.map((row) => [
    visible(row.person.fullName) +
      (row.state === 'dropped' ? paint('quiet', ' (dropped)') : row.isTestLearner ? paint('quiet', ' (test)') : ''),
    ...book.columns.map((column) => cellText(row.cells[column.id], exact)),
    paint('strong', exact ? row.total : row.shownTotal),
  ])
  return table(heads, rows)
}

export function addGradebookCommands(program: Command): void {
  program
    .command('gradebook')
    .description('the gradebook of a course')
    .command('show <course>')
    .description('shows people by assignments; · never opened, ✕ the last score was refused')
    .option('--exact', 'exact points instead of rounded ones')
    .option('--test-learner', 'with the test learner’s row')
    .addHelpText('after', examples('gradebook show HYD-210', 'gradebook show HYD-210 --exact --json'))
    .action(
      job<{ exact?: boolean; testLearner?: boolean }>(async ({ client, options, show }, course) => {
        const book = await client.call('showGradebook', {
          params: { course: course },
          query: { testLearner: options.testLearner ? 'true' : 'false' },
        })
        show(book, (one) => showGradebook(one, options.exact ?? false))
      }),
    )

  paged(
    program
      .command('score')
      .description('scores')
      .command('trail <assignment> <person>')
      .description('all scores ever received for one person, newest first'),
  )
    .addHelpText(
      'after',
      examples('score trail HYD-210/soundings-and-datum aino', 'score trail HYD-210/soundings-and-datum aino --json'),
    )
    .action(
      job<{ limit?: number; cursor?: string }>(async ({ client, options, show }, assignment, person) => {
        const { limit, cursor } = options
        show(
          await client.call('showTrail', {
            params: { assignment: assignment, person: person },
            query: { limit, cursor },
          }),
          (trail) => {
            const rows = trail.items.map((entry) => [
              moment(entry.at),
              entry.operation,
              state(entry.outcome),
              visible(entry.sent ?? '–'),
              entry.points === null ? '–' : `${entry.points} of ${entry.outOf}`,
              entry.counts ? paint('good', 'counts') : paint('quiet', entry.code ?? ''),
              paint('quiet', entry.wireEntryId ?? ''),
            ])
            return `${visible(trail.person.fullName)}, ${visible(trail.assignment.title)}: ${trail.explained}\n${rows.length > 0 ? table(['when', 'what', '', 'sent', 'points', '', 'wire'], rows) : ''}${more(trail.next)}`
          },
        )
      }),
    )
}
