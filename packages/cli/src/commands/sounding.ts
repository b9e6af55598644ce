import type { SoundingDetail } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { addSweepCommands } from './sounding-sweep.js'
import { examples, job, more, paged } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { milliseconds, moment, paint, state, table, visible } from '../terminal/output.js'

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

export function addSoundingCommands(program: Command): void {
  const sounding = program
    .command('sounding')
    .description('takes an assignment down its whole way and says what was found')

  sounding
    .command('run <assignment>')
    .description('runs a sounding and waits for it; exits 1 when it fails')
    .option('--detach', 'does not wait')
    .addHelpText(
      'after',
      examples('sounding run HYD-210/soundings-and-datum', 'sounding run WKR-115/log-keeping --json'),
    )
    .action(
      job<{ detach?: boolean }>(async ({ client, options, show }, ref) => {
        let one = await client.call('runSounding', { params: { assignment: ref } })
        const progress = process.stderr.isTTY && !options.json && !options.quiet
        while (one.state === 'running' && !options.detach) {
          if (progress)
            process.stderr.write(`\r\u001b[K${(one.findings.at(-1)?.stage ?? 'starting').replaceAll('_', ' ')} …`)
          await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS))
          one = await client.call('showSounding', { params: { id: one.id } })
        }
        if (progress) process.stderr.write('\r\u001b[K')
        show(one, showSounding)
        if (!options.detach && (one.verdict === 'fail' || one.state === 'interrupted')) throw new CheckFailed()
      }),
    )

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

  sounding
    .command('show <sounding>')
    .description('shows a sounding with its findings')
    .addHelpText('after', examples('sounding show 4k2m9x7p1qzd', 'sounding show 4k2m9x7p1qzd --json'))
    .action(
      job(async ({ client, show }, id) =>
        show(await client.call('showSounding', { params: { id: id } }), showSounding),
      ),
    )

  addSweepCommands(sounding)

  program
    .command('launch')
    .description('launches')
    .command('try <assignment>')
    .description('launches by the service itself and says what the tool answered; exits 1 when it was refused')
    .addOption(new Option('--as <role>').choices(['instructor', 'learner', 'test_learner']).default('test_learner'))
    .option('--person <person>', 'the learner, with --as learner')
    .addHelpText(
      'after',
      examples(
        'launch try HYD-210/soundings-and-datum --as instructor',
        'launch try HYD-210/soundings-and-datum --as learner --person aino',
      ),
    )
    .action(
      job<{ as: 'instructor' | 'learner' | 'test_learner'; person?: string }>(
        async ({ client, options, show }, ref) => {
          const tried = await client.call('tryLaunch', {
            params: { assignment: ref },
            body: { as: options.as, ...(options.person && { person: options.person }) },
          })
          show(tried, (one) =>
            [
              table(
                ['', 'address', 'answer', ''],
                one.steps.map((step) => [
                  step.method,
                  visible(step.url),
                  String(step.status),
                  milliseconds(step.durationMs),
                ]),
              ),
              `${state(one.accepted ? 'accepted' : 'refused')}: ${visible(one.statement)}`,
              ...(one.excerpt ? [paint('quiet', `“${visible(one.excerpt.slice(0, 200))}”`)] : []),
              paint('quiet', `wire entry ${one.wireEntryId}`),
            ].join('\n'),
          )
          if (!tried.accepted) throw new CheckFailed()
        },
      ),
    )
}
