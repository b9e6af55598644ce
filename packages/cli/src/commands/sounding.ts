import type { Client, SoundingComparison, SoundingDetail } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { join } from 'node:path'
import { addSweepCommands } from './sounding-sweep.js'
import { examples, job, more, paged, wholeNumber } from '../terminal/command.js'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import { makeFolder, writeOut } from '../terminal/out-file.js'
import { milliseconds, moment, paint, state, table, visible } from '../terminal/output.js'
import { terminal } from '../terminal/terminal.js'

const LOOK_EVERY_MS = 250

/** One sounding as a report: its stages in order, then what is wrong and what mends it. */
export function showSounding(one: SoundingDetail): string {
  const rows = one.findings.map((finding, i) => [
    finding.stage === one.findings[i - 1]?.stage ? '' : finding.stage.replaceAll('_', ' '),
    state(finding.verdict),
    finding.check.replaceAll('_', ' '),
    paint('quiet', milliseconds(finding.durationMs)),
    paint('quiet', finding.wireEntryId ?? ''),
    visible(finding.statement),
  ])
  const troubles = one.findings
    .filter((finding) => finding.cause ?? finding.remedy)
    .map(
      (finding) =>
        `\n${paint('strong', finding.cause ?? finding.statement)}${finding.remedy ? `\n→ ${finding.remedy}` : ''}`,
    )
  const head = `Sounding ${one.id} of ${visible(one.assignment.title)} (${one.course.code}, ${visible(one.tool.name)}), ${moment(one.startedAt)}`
  const end =
    one.state === 'done'
      ? `${state(one.verdict ?? 'skipped')}${one.cause ? `: ${visible(one.cause)}` : ''}`
      : state(one.state)
  return [head, table(['stage', '', 'check', 'time', 'wire', 'found'], rows), ...troubles, `\n${end}`].join('\n')
}

/** Whether a sounding ended without a failure, and with the score where one counts. */
export function isProven({ state: now, verdict, findings }: SoundingDetail): boolean {
  const unproven = findings.some((one) => one.check === 'score back' && one.verdict !== 'pass')
  return now === 'done' && verdict !== 'fail' && !unproven
}

interface RunOptions {
  plain?: boolean
  browser?: boolean
  pilot?: string
  agreed?: boolean
  wait?: number
  detach?: boolean
  exitZero?: boolean
}

function bodyOf({ plain, browser, pilot, agreed, wait }: RunOptions) {
  return {
    depth: plain ? ('plain' as const) : ('deep' as const),
    follower: browser ? ('browser' as const) : ('http' as const),
    ...(pilot !== undefined && { pilot }),
    consented: agreed ?? false,
    waitMinutes: wait ?? 0,
  }
}

/** Looks again until a sounding has ended. Where it waits for a person, that is said once, wherever the output goes. */
export async function follow(client: Client, started: SoundingDetail, progress: boolean): Promise<SoundingDetail> {
  let one = started
  let told = false
  while (one.state === 'running') {
    if (one.waiting && !told) {
      told = true
      const { platform } = await client.call('whoAmI', {})
      const page = `${platform.publicUrl}/courses/${one.course.id}/assignments/${one.assignment.id}`
      terminal().say(
        `\r\u001b[K${visible(one.waiting.for)}\n  ${one.pilot ? page : `${page}/work?as=test_learner`}\nIt waits until ${moment(one.waiting.until)}; \`bathyscribe sounding end-wait ${one.id}\` lets it go on without.\n`,
      )
    }
    if (progress)
      terminal().say(
        `\r\u001b[K${one.waiting ? 'waiting' : (one.findings.at(-1)?.stage ?? 'starting').replaceAll('_', ' ')} …`,
      )
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
    one = await client.call('showSounding', { params: { id: one.id } })
  }
  if (progress) terminal().say('\r\u001b[K')
  return one
}

const CHANGE_TONES = {
  better: 'good',
  worse: 'bad',
  'other words': 'look',
  new: 'look',
  gone: 'look',
  same: 'quiet',
} as const

function showComparison({ earlier, later, checks }: SoundingComparison, all: boolean): string {
  const rows = checks
    .filter((one) => all || one.change !== 'same')
    .map((one) => [
      one.stage.replaceAll('_', ' '),
      one.check.replaceAll('_', ' '),
      paint(CHANGE_TONES[one.change], one.change),
      one.earlier ? `${state(one.earlier.verdict)} ${visible(one.earlier.statement)}` : '–',
      one.later ? `${state(one.later.verdict)} ${visible(one.later.statement)}` : '–',
    ])
  const same = checks.length - checks.filter((one) => one.change !== 'same').length
  return [
    `${visible(later.assignment.title)} (${later.course.code}): ${moment(earlier.startedAt)} ${state(earlier.verdict ?? earlier.state)} against ${moment(later.startedAt)} ${state(later.verdict ?? later.state)}`,
    rows.length === 0 ? '' : table(['stage', 'check', '', 'then', 'now'], rows),
    `${same} ${same === 1 ? 'check' : 'checks'} found the same both times.`,
  ]
    .filter(Boolean)
    .join('\n')
}

export function addSoundingCommands(program: Command): void {
  const sounding = program
    .command('sounding')
    .description('takes an assignment down its whole way and says what was found')

  addRun(sounding)
  addList(sounding)
  addShow(sounding)
  addEndWait(sounding)
  addCompare(sounding)
  addPictures(sounding)
  addSweepCommands(sounding)
}

function addRun(sounding: Command): void {
  sounding
    .command('run <assignment>')
    .description(
      'runs a sounding and waits for it; exits 1 when it fails, or when a score that is part of the total did not come back',
    )
    .option('--plain', 'leaves out the second visit, roster, picker and review')
    .option('--browser', 'follows the launches with a real browser, and keeps pictures')
    .option(
      '--pilot <person>',
      'goes as this learner, for tools that refuse test learners; what it leaves is set aside',
    )
    .option('--agreed', 'the pilot knows of it and agreed')
    .option('--wait <minutes>', 'waits so long for a person to do the work, 0 to 60', wholeNumber)
    .option('--detach', 'does not wait')
    .option('--exit-zero', 'exits 0 whatever was found')
    .addHelpText(
      'after',
      examples(
        'sounding run HYD-210/soundings-and-datum --browser',
        'sounding run WKR-115/log-keeping --wait 10 --json',
      ),
    )
    .action(
      job<RunOptions>(async ({ client, options, show }, ref) => {
        const started = await client.call('runSounding', { params: { assignment: ref }, body: bodyOf(options) })
        if (options.detach) return show(started, showSounding)
        const one = await follow(client, started, terminal().isTTY.messages && !options.json && !options.quiet)
        show(one, showSounding)
        if (!options.exitZero && !isProven(one)) throw new CheckFailed()
      }),
    )
}

function addList(sounding: Command): void {
  paged(sounding.command('list').description('lists soundings, newest first'))
    .option('--course <course>')
    .option('--assignment <assignment>')
    .addOption(new Option('--verdict <verdict>').choices(['pass', 'warn', 'fail', 'skipped']))
    .addHelpText('after', examples('sounding list --course HYD-210', 'sounding list --verdict fail --json'))
    .action(
      job<{
        limit?: number
        cursor?: string
        course?: string
        assignment?: string
        verdict?: 'pass' | 'warn' | 'fail' | 'skipped'
      }>(async ({ client, options, show }) => {
        const { limit, cursor, course, assignment, verdict } = options
        show(
          await client.call('listSoundings', { query: { limit, cursor, course, assignment, verdict } }),
          ({ items, next }) =>
            table(
              ['sounding', 'when', 'course', 'assignment', 'verdict', 'cause'],
              items.map((one) => [
                one.id,
                moment(one.startedAt),
                one.course.code,
                visible(one.assignment.title),
                state(one.verdict ?? one.state),
                visible(one.cause ?? ''),
              ]),
            ) + more(next),
        )
      }),
    )
}

function addShow(sounding: Command): void {
  sounding
    .command('show <sounding>')
    .description('shows a sounding with its findings')
    .addHelpText('after', examples('sounding show 4k2m9x7p1qzd', 'sounding show 4k2m9x7p1qzd --json'))
    .action(
      job(async ({ client, show }, id) =>
        show(await client.call('showSounding', { params: { id: id } }), showSounding),
      ),
    )
}

function addEndWait(sounding: Command): void {
  sounding
    .command('end-wait <sounding>')
    .description('lets a sounding that waits for a person go on without the work')
    .addHelpText('after', examples('sounding end-wait 4k2m9x7p1qzd', 'sounding end-wait 4k2m9x7p1qzd --json'))
    .action(job(async ({ client, show }, id) => show(await client.call('endWait', { params: { id } }), showSounding)))
}

function addCompare(sounding: Command): void {
  sounding
    .command('compare <sounding> [earlier]')
    .description('holds a sounding against an earlier one of the same assignment: the last that passed, unless named')
    .option('--all', 'also what was found the same both times')
    .addHelpText('after', examples('sounding compare 4k2m9x7p1qzd', 'sounding compare 4k2m9x7p1qzd 3j1n8w6q0pyc --all'))
    .action(
      job<{ all?: boolean }>(async ({ client, options, show }, id, earlier: string | undefined) =>
        show(
          await client.call('compareSoundings', {
            params: { id },
            query: earlier === undefined ? {} : { with: earlier },
          }),
          (one) => showComparison(one, options.all ?? false),
        ),
      ),
    )
}

function addPictures(sounding: Command): void {
  sounding
    .command('pictures <sounding> <folder>')
    .description('writes what a browser saw of its launches into a folder')
    .addHelpText(
      'after',
      examples('sounding pictures 4k2m9x7p1qzd /tmp/seen', 'sounding pictures 4k2m9x7p1qzd . --json'),
    )
    .action(
      job(async ({ client, show }, id, folder) => {
        const one = await client.call('showSounding', { params: { id } })
        const pictures = new Map(
          one.findings.flatMap(({ pictureId, stage }) => (pictureId === null ? [] : [[pictureId, stage] as const])),
        )
        if (pictures.size === 0)
          throw new Failure('This sounding has no pictures.', EXIT.refused, 'Run it with --browser.')
        makeFolder(folder)
        const files: string[] = []
        for (const [picture, stage] of pictures) {
          const file = join(folder, `${id}-${stage.replaceAll('_', '-')}.jpg`)
          writeOut(file, await client.picture(id, picture))
          files.push(file)
        }
        show({ files }, () => files.join('\n'))
      }),
    )
}
