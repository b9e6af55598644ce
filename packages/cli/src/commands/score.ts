import { columnChangeInWords } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { addStandingCommands } from './score-standing.js'
import { addReconcileCommand } from './score-reconcile.js'
import { examples, job, more, paged } from '../terminal/command.js'
import { moment, paint, state, table, visible } from '../terminal/output.js'

const LOOK_EVERY_MS = 1000

/** Each as it is called here and in the API. */
const ACTS = [
  ['lift', 'lift', 'lifts your own points: the tool’s apply again'],
  ['exempt', 'exempt', 'leaves a learner out of one column, on both sides of the total'],
  ['include', 'count', 'includes an exempt learner again'],
] as const

export function addScoreCommands(program: Command): void {
  const score = program.command('score').description('scores')

  addTrail(score)
  addSet(score)

  addActs(score)
  addMissing(score)
  addStandingCommands(score)
  addReconcileCommand(score)
  addWatch(score)
}

function addTrail(score: Command): void {
  paged(
    score.command('trail <assignment> <person>').description('all scores ever received for one person, newest first'),
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
              entry.operation === 'progress' ? `${entry.activity ?? ''} ${entry.grading ?? ''}` : entry.operation,
              state(entry.outcome),
              entry.sent === null ? '–' : `${visible(entry.sent)} of ${entry.sentOutOf ?? '1'}`,
              entry.points === null ? '–' : `${entry.points} of ${entry.outOf}`,
              entry.counts ? paint('good', 'counts') : paint('quiet', entry.code ?? ''),
              entry.setAsideBy
                ? paint(
                    'quiet',
                    entry.setAsideBy === 'reset' ? 'set aside: rehearsal cleared' : 'set aside by a sounding',
                  )
                : visible(entry.by?.fullName ?? entry.mergedFrom ?? ''),
              paint('quiet', entry.wireEntryId ?? ''),
            ])
            const head = `${visible(trail.person.fullName)}, ${visible(trail.assignment.title)}: ${trail.explained}`
            const changes = trail.changes.map(
              (one) =>
                `${moment(one.at)}  the column: ${columnChangeInWords(one)}${one.by ? `, by ${visible(one.by)}` : ''}`,
            )
            const comment = trail.cell.comment ? `\nComment: ${visible(trail.cell.comment)}` : ''
            return `${head}${comment}\n${rows.length > 0 ? table(['when', 'what', '', 'sent', 'points', '', 'by or from', 'wire'], rows) : ''}${changes.length > 0 ? `\n${changes.join('\n')}` : ''}${more(trail.next)}`
          },
        )
      }),
    )
}

function addSet(score: Command): void {
  score
    .command('set <assignment> <person> <points>')
    .description('sets your own points; they stay until lifted, whatever the tool sends')
    .option('--comment <text>', 'what the learner reads with them')
    .addHelpText(
      'after',
      examples(
        'score set HYD-210/soundings-and-datum aino 70',
        'score set HYD-210/soundings-and-datum aino 70 --comment "Chart redrawn"',
      ),
    )
    .action(
      job<{ comment?: string }>(async ({ client, options, show }, assignment, person, points) =>
        show(
          await client.call('gradeByHand', {
            params: { assignment: assignment, person: person },
            body: { act: 'override', points: points, comment: options.comment ?? '' },
          }),
          (trail) => `${visible(trail.person.fullName)}: ${trail.explained}`,
        ),
      ),
    )
}

function addActs(score: Command): void {
  for (const [name, act, description] of ACTS)
    score
      .command(`${name} <assignment> <person>`)
      .description(description)
      .addHelpText(
        'after',
        examples(`score ${name} HYD-210/soundings-and-datum aino`, `score ${name} WKR-115/first-watch paora --json`),
      )
      .action(
        job(async ({ client, show }, assignment, person) =>
          show(
            await client.call('gradeByHand', {
              params: { assignment: assignment, person: person },
              body: { act },
            }),
            (trail) => `${visible(trail.person.fullName)}: ${trail.explained}`,
          ),
        ),
      )
}

function addMissing(score: Command): void {
  score
    .command('missing <assignment>')
    .description('who has no score yet, and why')
    .addHelpText(
      'after',
      examples('score missing HYD-210/soundings-and-datum', 'score missing WKR-115/first-watch --json'),
    )
    .action(
      job(async ({ client, show }, assignment) =>
        show(await client.call('listUnscored', { params: { assignment: assignment } }), ({ items }) =>
          items.length === 0
            ? 'Everybody has a score.'
            : table(
                ['learner', 'why', 'since', ''],
                items.map((one) => [
                  visible(one.person.fullName),
                  state(one.why),
                  moment(one.at),
                  paint('quiet', one.statement),
                ]),
              ),
        ),
      ),
    )
}

function addWatch(score: Command): void {
  score
    .command('watch <course>')
    .description('follows scores as they come in; ends with Ctrl-C')
    .option('--for <seconds>', 'ends by itself')
    .addHelpText('after', examples('score watch HYD-210', 'score watch HYD-210 --for 60'))
    .action(
      job<{ for?: string }>(async ({ client, options, show }, course) => {
        const until = options.for === undefined ? Infinity : performance.now() + Number(options.for) * 1000
        let last: bigint | undefined
        while (performance.now() < until) {
          const { items } = await client.call('listScores', { params: { course: course }, query: { limit: 100 } })
          const fresh = items.filter((one) => last !== undefined && BigInt(one.id) > last).reverse()
          for (const one of fresh)
            show(one, () =>
              [
                moment(one.at),
                state(one.outcome),
                visible(one.person.fullName),
                visible(one.column.title),
                one.outcome === 'refused'
                  ? (one.code ?? '')
                  : `${one.pointsBefore ?? '–'} → ${one.points ?? '–'} of ${one.outOf}`,
                visible(one.by?.fullName ?? one.tool.name),
              ].join('  '),
            )
          last = items[0] ? BigInt(items[0].id) : (last ?? 0n)
          await new Promise((resolve) =>
            setTimeout(resolve, Math.min(LOOK_EVERY_MS, Math.max(0, until - performance.now()))),
          )
        }
      }),
    )
}
