import {
  columnChangeInWords,
  gradebookCsv,
  historyLines,
  type Cell,
  type Client,
  type ColumnChange,
  type Gradebook,
} from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collectPairs, examples, job, more, paged, wholeNumber } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { writeOut } from '../terminal/out-file.js'
import { moment, paint, state, table, visible } from '../terminal/output.js'

import { addHandOnCommands } from './gradebook-office.js'

const WORDS: Partial<Record<Cell['state'], string>> = {
  opened: 'opened',
  started: 'started',
  submitted: 'handed in',
  waiting: 'waiting',
  failed: 'failed',
  cleared: '–',
  exempt: 'exempt',
}

function cellText(cell: Cell | undefined, exact: boolean): string {
  if (!cell || cell.state === 'never_opened') return paint('quiet', '·')
  const points = cell.points === null ? '' : exact ? cell.points : (cell.shown ?? '')
  const marks = `${cell.overridden ? '*' : ''}${cell.late ? ' late' : ''}`
  if (cell.state === 'refused') return paint('bad', `${points}✕`)
  const word = WORDS[cell.state]
  if (word) return paint(cell.state === 'waiting' ? 'look' : 'quiet', points ? `${points} ${word}` : word)
  return points + (marks && paint('quiet', marks))
}

function showGradebook(book: Gradebook, exact: boolean): string {
  if (book.columns.length === 0) return `${book.course.code} has no columns yet.`
  const heads = [
    'learner',
    ...book.columns.map(
      (column) => `${visible(column.title)} (${column.points}${column.state === 'column' ? ', tool’s own' : ''})`,
    ),
    'total',
  ]
  const rows = book.rows.map((row) => [
    visible(row.person.fullName) +
      (row.state === 'dropped' ? paint('quiet', ' (dropped)') : row.isTestLearner ? paint('quiet', ' (test)') : ''),
    ...book.columns.map((column) => cellText(row.cells[column.id], exact)),
    row.total === null
      ? paint('quiet', '–')
      : `${paint('strong', exact ? row.total : (row.shownTotal ?? row.total))} of ${row.outOf}`,
  ])
  return table(heads, rows)
}

const read = (client: Client, course: string, testLearner?: boolean) =>
  client.call('showGradebook', { params: { course }, query: { testLearner: testLearner ? 'true' : 'false' } })

export function addGradebookCommands(program: Command): void {
  const gradebook = program.command('gradebook').description('the gradebook of a course')
  addHandOnCommands(gradebook)
  addShow(gradebook)
  addExport(gradebook)
  addSet(gradebook)
  addChanges(gradebook)
  addTwins(gradebook)
  addMerge(gradebook)
  addUnmerge(gradebook)
}

function addShow(gradebook: Command): void {
  gradebook
    .command('show <course>')
    .description('shows people by columns; · never opened, ✕ the last score was refused, * the instructor’s own points')
    .option('--exact', 'exact points instead of rounded ones')
    .option('--test-learner', 'with the test learner’s row')
    .addHelpText('after', examples('gradebook show HYD-210', 'gradebook show HYD-210 --exact --json'))
    .action(
      job<{ exact?: boolean; testLearner?: boolean }>(async ({ client, options, show }, course) =>
        show(await read(client, course, options.testLearner), (one) => showGradebook(one, options.exact ?? false)),
      ),
    )
}

function addExport(gradebook: Command): void {
  gradebook
    .command('export <course>')
    .description('writes the gradebook as CSV with exact points, or results as OneRoster 1.2 CSV')
    .option('--oneroster <file>', 'writes line items, categories, score scales and results into this zip archive')
    .addHelpText(
      'after',
      examples('gradebook export HYD-210 > hyd-210.csv', 'gradebook export WKR-115 --oneroster results.zip'),
    )
    .action(
      job<{ oneroster?: string }>(async ({ client, options, show }, course) => {
        if (options.oneroster === undefined)
          return show(await read(client, course), (book) => gradebookCsv(book).trimEnd())
        const { fileName, zip } = await client.call('exportResults', { params: { course } })
        if (!writeOut(options.oneroster, Buffer.from(zip, 'base64'))) return
        show({ file: options.oneroster }, () => `${fileName} is written to ${options.oneroster!}.`)
      }),
    )
}

function addSet(gradebook: Command): void {
  gradebook
    .command('set <course>')
    .description('says how points are shown and totalled; no score changes by it')
    .option('--decimals <n>', 'decimals shown, 0 to 4; only ever of display', wholeNumber)
    .addOption(new Option('--missing <how>', 'what has no score').choices(['zero', 'left-out']))
    .option(
      '--weight <category=percent>',
      'what a category weighs; repeat; without any, points are added up',
      collectPairs,
    )
    .addHelpText(
      'after',
      examples(
        'gradebook set HYD-210 --weight Drills=40 --weight Reports=60',
        'gradebook set HYD-210 --decimals 1 --missing zero',
      ),
    )
    .action(
      job<{ decimals?: number; missing?: string; weight?: Record<string, string> }>(
        async ({ client, options, show }, course) => {
          const { decimals, missing, weight } = options
          const answer = await client.call('changeGradebook', {
            params: { course: course },
            body: {
              ...(decimals !== undefined && { shownDecimals: decimals }),
              ...(missing !== undefined && { missingCounts: missing === 'zero' }),
              ...(weight && {
                weights: Object.fromEntries(
                  Object.entries(weight).map(([name, text]) => [name, text === '' ? null : text]),
                ),
              }),
            },
          })
          show(
            answer,
            ({ shownDecimals, missingCounts, weights }) =>
              `Shown with ${shownDecimals} decimals; what has no score ${missingCounts ? 'is zero' : 'is left out'}.\n` +
              table(
                ['category', 'weighs'],
                weights.map((one) => [visible(one.name), one.weight === null ? '–' : `${one.weight} %`]),
              ),
          )
        },
      ),
    )
}

function addChanges(gradebook: Command): void {
  paged(gradebook.command('changes <course>').description('everything that happened in a gradebook, newest first'))
    .option('--search <text>', 'part of a person’s name or a column’s title')
    .option('--person <person>')
    .option('--assignment <assignment>')
    .addOption(new Option('--outcome <outcome>').choices(['accepted', 'refused']))
    .addOption(new Option('--by <whom>', 'a tool, or a person by hand').choices(['tool', 'person']))
    .option('--bursts', 'many scores of one tool in a row, each row as one event')
    .addHelpText('after', examples('gradebook changes HYD-210 --outcome refused', 'gradebook changes HYD-210 --bursts'))
    .action(
      job<{
        limit?: number
        cursor?: string
        search?: string
        person?: string
        assignment?: string
        outcome?: 'accepted' | 'refused'
        by?: 'tool' | 'person'
        bursts?: boolean
      }>(async ({ client, options, show }, course) => {
        const { limit, cursor, search, person, assignment, outcome, by } = options
        if (options.bursts)
          return show(await client.call('listScoreBursts', { params: { course: course } }), ({ items }) =>
            items.length === 0
              ? 'No tool has sent many scores in a row.'
              : items.map((one) => `${moment(one.from)}  ${burstLine(one)}`).join('\n'),
          )
        show(
          await client.call('listScores', {
            params: { course: course },
            query: { limit, cursor, search, person, assignment, outcome, by },
          }),
          (page) =>
            table(
              ['when', 'learner', 'column', 'what', '', 'from → to', 'by'],
              historyLines(page).map((one) =>
                'results' in one
                  ? columnLine(one)
                  : [
                      moment(one.at),
                      visible(one.person.fullName),
                      visible(one.column.title),
                      one.operation,
                      state(one.outcome),
                      one.outcome === 'refused'
                        ? paint('quiet', one.code ?? '')
                        : `${one.pointsBefore ?? '–'} → ${one.points ?? '–'}`,
                      visible(one.by?.fullName ?? one.tool.name),
                    ],
              ),
            ) + more(page.next),
        )
      }),
    )
}

function addTwins(gradebook: Command): void {
  gradebook
    .command('twins <course>')
    .description('columns that tools made beside yours for the same work')
    .addHelpText('after', examples('gradebook twins MET-130', 'gradebook twins MET-130 --json'))
    .action(
      job(async ({ client, show }, course) =>
        show(await client.call('listTwins', { params: { course: course } }), ({ items }) =>
          items.length === 0
            ? 'No two columns are for the same work.'
            : table(
                ['tool’s own', 'yours', 'tool', 'why'],
                items.map((one) => [
                  `${visible(one.made.title)} (${one.made.slug}, ${one.made.scored} scored)`,
                  `${visible(one.ours.title)} (${one.ours.slug}, ${one.ours.scored} scored)`,
                  visible(one.tool.name),
                  one.reasons.map((reason) => reason.replaceAll('_', ' ')).join(', '),
                ]),
              ),
        ),
      ),
    )
}

function addMerge(gradebook: Command): void {
  gradebook
    .command('merge <column> <assignment>')
    .description('merges a column that a tool made into one of yours; every score is kept, and it can be taken back')
    .option('--check', 'only says what would change')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples(
        'gradebook merge MET-130/fog-log MET-130/fog-and-visibility --check',
        'gradebook merge MET-130/fog-log MET-130/fog-and-visibility --yes',
      ),
    )
    .action(
      job<{ check?: boolean; yes?: boolean }>(async ({ client, options, show }, column, into) => {
        if (!options.check && !options.yes) {
          const { made, ours, changes } = await client.call('previewMerge', {
            params: { assignment: column },
            body: { into },
          })
          const question = `Merge “${visible(made.title)}” into “${visible(ours.title)}”? ${changes.length} results change.`
          await requireConsent(
            question,
            'Nothing was merged.',
            'Add --yes to merge without being asked, or --check to look.',
          )
        }
        const call = options.check ? 'previewMerge' : 'mergeColumn'
        show(await client.call(call, { params: { assignment: column }, body: { into: into } }), (one) =>
          [
            `${options.check ? 'Would merge' : 'Merged'} “${visible(one.made.title)}” into “${visible(one.ours.title)}”: ${one.kept} entries of the trail kept, ${one.changes.length} results change, ${one.stays} stay.`,
            ...(one.changes.length > 0
              ? [
                  table(
                    ['learner', 'now', 'then'],
                    one.changes.map((each) => [visible(each.person.fullName), each.now ?? '–', each.then ?? '–']),
                  ),
                ]
              : []),
            ...(options.check ? [] : [`Take it back with: gradebook unmerge ${column}`]),
          ].join('\n'),
        )
      }),
    )
}

function addUnmerge(gradebook: Command): void {
  gradebook
    .command('unmerge <column>')
    .description('takes a merge back; each score is used again where it was sent to')
    .addHelpText('after', examples('gradebook unmerge MET-130/fog-log', 'gradebook unmerge MET-130/fog-log --quiet'))
    .action(
      job(async ({ client, show }, column) => {
        await client.call('unmergeColumn', { params: { assignment: column } })
        show({ unmerged: column }, () => 'The two columns are separate again.')
      }),
    )
}

/** A whole column that counts otherwise from then on. */
function columnLine(one: ColumnChange): string[] {
  return [
    moment(one.at),
    paint('quiet', `all ${one.results}`),
    visible(one.column.title),
    'column changed',
    '',
    columnChangeInWords(one),
    visible(one.by ?? '–'),
  ]
}

function burstLine(one: {
  scores: number
  changed: number
  from: string
  to: string
  tool: { name: string }
  columns: { title: string }[]
}): string {
  const seconds = Math.round((Date.parse(one.to) - Date.parse(one.from)) / 1000)
  const time = seconds < 90 ? `${seconds} seconds` : `${Math.round(seconds / 60)} minutes`
  return `${one.scores} scores from ${visible(one.tool.name)} in ${time}, ${one.changed} changed ${paint('quiet', `(${one.columns.map((column) => visible(column.title)).join(', ')})`)}`
}
