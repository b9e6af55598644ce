import { GROUP_OF, WORK_GROUPS, type Standing } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job, more, paged } from '../terminal/command.js'
import { moment, named, paint, shortName, state, table, visible } from '../terminal/output.js'

/** Groups of learners as they are named on the command line. */
export const GROUPS = WORK_GROUPS.map((one) => one.replaceAll('_', '-'))

/** @param group one of `GROUPS` */
export function learnersIn(group: string, { items }: Pick<Standing, 'items'>): Standing['items'] {
  return items.filter((one) => GROUP_OF[one.state] === group.replaceAll('-', '_'))
}

/** `score standing` and `score waiting`: work in view, of one assignment and over all courses. */
export function addStandingCommands(score: Command): void {
  score
    .command('standing <assignment>')
    .description('where each learner stands: never opened, opened, at work, handed in, waiting, graded, and since when')
    .addOption(new Option('--group <group>', 'only these').choices(GROUPS))
    .addHelpText(
      'after',
      examples('score standing HYD-210/bends', 'score standing WKR-115/first-watch --group waiting'),
    )
    .action(
      job<{ group?: string }>(async ({ client, options, show }, assignment) =>
        show(await client.call('showStanding', { params: { assignment } }), (all) => showStanding(all, options.group)),
      ),
    )
  paged(
    score.command('waiting').description('work of your courses that waits for a person to grade it, the longest first'),
  )
    .option('--course <course>')
    .option('--tool <tool>')
    .addHelpText('after', examples('score waiting', 'score waiting --course WKR-115 --tool watchlog-essays'))
    .action(
      job<{ limit?: number; cursor?: string; course?: string; tool?: string }>(
        async ({ client, options: { limit, cursor, course, tool }, show }) =>
          show(await client.call('listWaitingWork', { query: { limit, cursor, course, tool } }), ({ items, next }) =>
            items.length === 0
              ? 'Nothing waits to be graded.'
              : table(
                  ['since', 'learner', 'assignment', 'grade it in'],
                  items.map((one) => [
                    moment(one.since),
                    named(one.person),
                    shortName(one.course, one.assignment),
                    visible(one.tool.name),
                  ]),
                ) + more(next),
          ),
      ),
    )
}

function showStanding(all: Standing, wanted: string | undefined): string {
  const { items, outOf, more: isMore } = all
  const counts = GROUPS.map((group) => [group, learnersIn(group, all).length] as const)
    .filter(([, size]) => size > 0)
    .map(([group, size]) => `${group.replaceAll('-', ' ')} ${size}`)
  const rows = (wanted === undefined ? items : learnersIn(wanted, all)).map((one) => [
    named(one.person),
    state(one.state),
    moment(one.since),
    one.points === null ? paint('quiet', visible(one.activity ?? '')) : `${one.points} of ${outOf}`,
    one.late ? paint('look', 'late') : '',
  ])
  if (items.length === 0) return 'The course has no learners whom it is for.'
  return [
    counts.join(', '),
    rows.length === 0 ? 'None of them.' : table(['learner', 'stands at', 'since', 'points, or how far', ''], rows),
    ...(isMore ? ['… and more learners than are listed'] : []),
  ].join('\n')
}
