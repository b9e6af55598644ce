import type { CauseRecords, Client, Verdict } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, type Job } from '../terminal/command.js'
import { moment, paint, table, visible } from '../terminal/output.js'

/** What is said of a wire entry; each of the first three names one. */
export interface Judged {
  right?: string
  wrong?: string
  takeBack?: string
  cause?: string
  was?: string
}

/** Says of a wire entry whether what explains it was right, or takes back what was said. */
export async function judge(
  client: Client,
  { right, wrong, takeBack, cause, was }: Judged,
  show: Job<Judged>['show'],
): Promise<void> {
  if (takeBack !== undefined) {
    await client.call('takeVerdictBack', { params: { entry: takeBack } })
    return show({ takenBack: takeBack }, () => `What was said of wire entry ${visible(takeBack)} is taken back.`)
  }
  const entry = (right ?? wrong)!
  const verdict = right === undefined ? ('wrong' as const) : ('right' as const)
  const body = { verdict, ...(cause !== undefined && { cause }), ...(was !== undefined && { was }) }
  show(await client.call('judgeDiagnosis', { params: { entry }, body }), ({ items, doubted }) =>
    [
      showVerdicts(items),
      ...doubted.map((code) => `▲ ${code} is told as likely until somebody has looked at it: see \`wire causes\`.`),
    ].join('\n'),
  )
}

/** What was said of an entry, a line each. */
export function showVerdicts(verdicts: readonly Verdict[]): string {
  return verdicts
    .map(({ code, verdict, was, byItself, by, at }) => {
      if (byItself) return `● ${code} was right: the next message of the link passed, ${moment(at)}`
      const what = code === 'none' ? 'nothing was told' : `${code} was ${verdict}`
      const instead = was === null ? '' : `; it was ${was}`
      return `${verdict === 'right' ? '●' : '✕'} ${what}${instead}: said by ${visible(by?.fullName ?? 'somebody who is gone')}, ${moment(at)}`
    })
    .join('\n')
}

const percent = (part: number | null) => (part === null ? '–' : `${Math.floor(part * 100)} %`)

function showCauses({ items, months }: CauseRecords): string {
  if (items.length === 0)
    return 'Nothing was judged yet: say it with `wire explain --right ENTRY`, or `--wrong ENTRY`. Where the next message of the same link passes within a day, that shows by itself.'
  const numbers = ['right', 'by itself', 'wrong', 'missed', 'precision', 'recall']
  const cells = (one: Omit<CauseRecords['months'][number], 'month'>) => [
    ...[one.right, one.rightByItself, one.wrong, one.missed].map(String),
    percent(one.precision),
    percent(one.recall),
  ]
  return [
    table(
      ['', 'cause', ...numbers, 'judged last'],
      items.map((one) => [
        one.inDoubt ? paint('look', '▲') : '',
        one.code,
        ...cells(one),
        one.last.entry === null ? moment(one.last.at) : `wire entry ${one.last.entry}`,
      ]),
    ),
    '',
    table(
      ['month', ...numbers],
      months.map((one) => [one.month, ...cells(one)]),
    ),
    ...items
      .filter((one) => one.inDoubt)
      .map(({ code, wrongSince }) => `\n▲ ${code} was said to be wrong ${wrongSince} times: it is told as likely until \`wire causes --looked-at ${code}\`.`), // oxfmt-ignore
  ].join('\n')
}

/** How often causes were right, and that somebody has looked at one. */
export function addCausesCommand(wire: Command): void {
  wire
    .command('causes')
    .description('how often what was told of refused messages was right, by cause and month')
    .option('--looked-at <code>', 'says that you have looked at a cause: it is told as proven again')
    .option('--codes', 'lists the codes of all causes that are known')
    .addHelpText('after', examples('wire causes', 'wire causes --looked-at other_scheme'))
    .action(
      job<{ lookedAt?: string; codes?: boolean }>(async ({ client, options, show }) => {
        if (options.codes) return show(await client.call('listCauseCodes', {}), ({ items }) => items.join('\n'))
        if (options.lookedAt !== undefined) await client.call('lookAtCause', { params: { code: options.lookedAt } })
        show(await client.call('listCauses', {}), showCauses)
      }),
    )
}
