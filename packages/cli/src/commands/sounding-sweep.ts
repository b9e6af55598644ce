import { changeInWords, type Client, type SweepDetail, type SweepLink, type SweepScope } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job, more, paged, wholeNumber } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { writeOut } from '../terminal/out-file.js'
import { milliseconds, moment, paint, state, table, visible } from '../terminal/output.js'
import { terminal } from '../terminal/terminal.js'

const LOOK_EVERY_MS = 500

interface ScopeOptions {
  course?: string
  tool?: string
  term?: string
}
const scoped = (command: Command) =>
  command
    .option('--course <course>', 'links of this course')
    .option('--tool <tool>', 'links on this tool')
    .option('--term <term>', 'links of the courses of this term')
const scopeOf = ({ course, tool, term }: ScopeOptions): SweepScope => ({
  ...(course && { course }),
  ...(tool && { tool }),
  ...(term && { term }),
})

interface MannerOptions {
  deep?: boolean
  browser?: boolean
}
const inManner = (command: Command) =>
  command
    .option('--deep', 'second visit, roster, picker and review as well')
    .option('--browser', 'follows the launches with a real browser, and keeps pictures')
const mannerOf = ({ deep, browser }: MannerOptions) => ({
  depth: deep ? ('deep' as const) : ('plain' as const),
  follower: browser ? ('browser' as const) : ('http' as const),
})

function showSweep(one: SweepDetail): string {
  const { verdicts, changes } = one
  const head = `Sweep ${one.id}: ${visible(one.title)}, ${moment(one.startedAt)}, ${state(one.state)} (${one.done} of ${one.links})`
  const counts = table(
    ['pass', 'warn', 'fail', 'skipped', 'newly broken', 'still broken', 'fixed', 'slower'],
    [
      [
        verdicts.pass,
        verdicts.warn,
        verdicts.fail,
        verdicts.skipped,
        changes.newly_broken,
        changes.still_broken,
        changes.fixed,
        changes.slower,
      ].map(String),
    ],
  )
  if (one.causes.length === 0) return `${head}\n${counts}`
  const causes = table(
    ['links', 'newly', 'tool', 'cause', 'example'],
    one.causes.map((cause) => [
      String(cause.links),
      cause.newly > 0 ? String(cause.newly) : '',
      visible(cause.tool.name),
      visible(cause.cause) + changed(cause),
      `${cause.course.code} ${visible(cause.assignment.title)} ${paint('quiet', cause.soundingId)}`,
    ]),
  )
  return `${head}\n${counts}\n${causes}`
}

/** What may be behind a difference, on a line of its own. */
function changed({ changed: one }: Pick<SweepLink, 'changed'>): string {
  return one === null ? '' : `\n${paint('quiet', `${changeInWords(one, 'the sweep before')} ${moment(one.at)}`)}`
}

async function follow(client: Client, started: SweepDetail, progress: boolean): Promise<SweepDetail> {
  let one = started
  while (one.state === 'running') {
    if (progress) terminal().say(`\r\u001b[K${one.done} of ${one.links}, ${one.verdicts.fail} failed …`)
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
    one = await client.call('showSweep', { params: { id: one.id } })
  }
  if (progress) terminal().say('\r\u001b[K')
  return one
}

export function addSweepCommands(sounding: Command): void {
  addSweep(sounding)
  addSweeps(sounding)
  addSweepShow(sounding)
  addStates(sounding)
  addSchedule(sounding)
}

function addSweep(sounding: Command): void {
  inManner(scoped(sounding.command('sweep [assignments...]')))
    .description('sounds many links side by side and waits; without a scope, all that you may; exits 1 when one fails')
    .option('--drafts', 'drafts as well')
    .option('--detach', 'does not wait')
    .option('--csv <file>', 'writes every link to a CSV file')
    .option('--junit <file>', 'writes every link to a file as JUnit XML, one test case per link')
    .addOption(
      new Option('--fail-on <what>', 'what ends with exit code 1').choices(['fail', 'warn', 'newly']).default('fail'),
    )
    .option('--exit-zero', 'exits 0 whatever was found')
    .addHelpText(
      'after',
      examples('sounding sweep --course HYD-210', 'sounding sweep --fail-on newly --junit sweep.xml'),
    )
    .action(
      job<
        ScopeOptions &
          MannerOptions & {
            drafts?: boolean
            detach?: boolean
            csv?: string
            junit?: string
            failOn: 'fail' | 'warn' | 'newly'
            exitZero?: boolean
          }
      >(async ({ client, options, show }, ...args) => {
        const assignments = (args[0] as unknown as string[] | undefined) ?? []
        let one = await client.call('startSweep', {
          body: {
            ...scopeOf(options),
            ...mannerOf(options),
            drafts: options.drafts ?? false,
            ...(assignments.length > 0 && { assignments }),
          },
        })
        if (!options.detach)
          one = await follow(client, one, terminal().isTTY.messages && !options.json && !options.quiet)
        for (const form of ['csv', 'junit'] as const) {
          const file = options[form]
          if (!file) continue
          const { text } = await client.call('showSweepReport', { params: { id: one.id }, query: { form } })
          writeOut(file, text)
        }
        if (![options.csv, options.junit].includes('-')) show(one, showSweep)
        const { newly_broken: newly } = one.changes
        const broken = one.verdicts.fail + (options.failOn === 'warn' ? one.verdicts.warn : 0)
        const bad = options.failOn === 'newly' && one.before !== null ? newly : broken
        if (!options.detach && !options.exitZero && (bad > 0 || one.state === 'stopped')) throw new CheckFailed()
      }),
    )
}

function addSweeps(sounding: Command): void {
  paged(sounding.command('sweeps').description('lists sweeps, newest first'))
    .addHelpText('after', examples('sounding sweeps', 'sounding sweeps --json'))
    .action(
      job<{ limit?: number; cursor?: string }>(async ({ client, options, show }) => {
        const { limit, cursor } = options
        show(
          await client.call('listSweeps', { query: { limit, cursor } }),
          ({ items, next }) =>
            table(
              ['sweep', 'when', 'scope', '', 'links', 'failed', 'newly broken', 'fixed'],
              items.map((one) => [
                one.id,
                moment(one.startedAt),
                visible(one.title),
                state(one.state),
                `${one.done} of ${one.links}`,
                String(one.verdicts.fail),
                String(one.changes.newly_broken),
                String(one.changes.fixed),
              ]),
            ) + more(next),
        )
      }),
    )
}

function addSweepShow(sounding: Command): void {
  sounding
    .command('sweep-show <sweep>')
    .description('shows a sweep: what is wrong by cause, and its links')
    .addOption(
      new Option('--only <what>', 'these links only').choices([
        'fail',
        'warn',
        'pass',
        'newly_broken',
        'still_broken',
        'fixed',
        'slower',
      ]),
    )
    .addHelpText(
      'after',
      examples('sounding sweep-show 4k2m9x7p1qzd', 'sounding sweep-show 4k2m9x7p1qzd --only newly_broken'),
    )
    .action(
      job<{ only?: 'fail' | 'warn' | 'pass' | 'newly_broken' | 'still_broken' | 'fixed' | 'slower' }>(
        async ({ client, options, show }, id) => {
          const { only } = options
          const query =
            only === undefined
              ? {}
              : only === 'fail' || only === 'warn' || only === 'pass'
                ? { verdict: only }
                : { change: only }
          const [sweep, links] = await Promise.all([
            client.call('showSweep', { params: { id: id } }),
            client.call('listSweepLinks', { params: { id: id }, query: { ...query, limit: 200 } }),
          ])
          show({ ...sweep, items: links.items, next: links.next }, (one) =>
            [
              showSweep(one),
              '',
              table(
                ['course', 'assignment', 'tool', '', 'change', 'time', 'cause'],
                one.items.map((link) => [
                  link.course.code,
                  visible(link.assignment.title),
                  visible(link.tool.name),
                  state(link.verdict ?? link.state),
                  link.change === null || link.change === 'same' ? '' : link.change.replaceAll('_', ' '),
                  link.tookMs === null ? '' : milliseconds(link.tookMs),
                  visible(link.cause ?? '') + changed(link),
                ]),
              ),
            ].join('\n'),
          )
        },
      ),
    )
}

function addStates(sounding: Command): void {
  for (const [name, to, said] of [
    ['pause', 'paused', 'pauses a sweep; what is being sounded is finished'],
    ['resume', 'running', 'lets a paused sweep go on'],
    ['stop', 'stopped', 'ends a sweep'],
  ] as const)
    sounding
      .command(`${name} <sweep>`)
      .description(said)
      .addHelpText('after', examples(`sounding ${name} 4k2m9x7p1qzd`, `sounding ${name} 4k2m9x7p1qzd --json`))
      .action(
        job(async ({ client, show }, id) =>
          show(await client.call('changeSweep', { params: { id: id }, body: { state: to } }), showSweep),
        ),
      )
}

function addSchedule(sounding: Command): void {
  inManner(scoped(sounding.command('schedule')))
    .description('lists schedules of sweeps, or makes one with --every')
    .addOption(new Option('--every <time>', 'how often').choices(['day', 'week']))
    .option('--hour <n>', 'hour of the day, UTC, 0 to 23', wholeNumber, 2)
    .option('--mail', 'mails you when something is newly broken')
    .option('--remove <schedule>', 'ends a schedule')
    .addHelpText(
      'after',
      examples('sounding schedule --every day --term 2026-2', 'sounding schedule --remove 4k2m9x7p1qzd'),
    )
    .action(
      job<ScopeOptions & MannerOptions & { every?: 'day' | 'week'; hour: number; mail?: boolean; remove?: string }>(
        async ({ client, options, show }) => {
          if (options.remove) await client.call('removeSweepSchedule', { params: { id: options.remove } })
          if (options.every)
            await client.call('createSweepSchedule', {
              body: {
                ...scopeOf(options),
                ...mannerOf(options),
                every: options.every,
                hour: options.hour,
                mail: options.mail ?? false,
              },
            })
          show(await client.call('listSweepSchedules', {}), ({ items }) =>
            items.length === 0
              ? 'No sweep is scheduled.'
              : table(
                  ['schedule', 'scope', 'next', 'mail', 'by', 'last sweep'],
                  items.map((one) => [
                    one.id,
                    visible(one.title),
                    moment(one.nextAt),
                    one.mail ? 'yes' : '',
                    visible(one.by.fullName),
                    one.lastSweep ?? '–',
                  ]),
                ),
          )
        },
      ),
    )
}
