import type { Tool, ToolCheck } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collectPairs, examples, job, more, paged, type Job } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { milliseconds, moment, pairs, paint, state, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

interface ToolOptions {
  name?: string
  key?: string
  secretFile?: string
  launchUrl?: string
  course?: string
  sees?: 'opaque' | 'name' | 'email' | 'name_and_email'
  open?: 'frame' | 'window'
  signature?: 'HMAC-SHA1' | 'HMAC-SHA256'
  custom?: Record<string, string>
  sounding?: Record<string, string>
  draft?: boolean
  second?: string
}

function toolFields(options: ToolOptions) {
  return {
    ...(options.launchUrl !== undefined && { launchUrl: options.launchUrl }),
    ...(options.sees && { disclosure: options.sees }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.signature && { signatureMethod: options.signature }),
    ...(options.custom && { customParameters: options.custom }),
    ...(options.sounding && { soundingParameters: options.sounding }),
  }
}

function withToolOptions(command: Command): Command {
  return command
    .option('--launch-url <address>', 'where launches are sent')
    .option('--secret-file <file>', 'reads the shared secret from a file, or - for standard input')
    .addOption(
      new Option('--sees <what>', 'what of a person’s identity the tool may see').choices([
        'opaque',
        'name',
        'email',
        'name_and_email',
      ]),
    )
    .addOption(new Option('--open <where>', 'offered first when an assignment is made').choices(['frame', 'window']))
    .addOption(new Option('--signature <method>').choices(['HMAC-SHA1', 'HMAC-SHA256']))
    .option('--custom <name=value>', 'a custom parameter; may be given again', collectPairs)
    .option('--sounding <name=value>', 'a parameter that only soundings send; may be given again', collectPairs)
}

function showTool(tool: Tool): string {
  return pairs([
    ['name', visible(tool.name)],
    ['short name', tool.slug],
    ['state', state(tool.state)],
    ['version', `LTI ${tool.version}`],
    ['for', tool.course ? `${tool.course.code} ${visible(tool.course.title)}` : 'the whole institution'],
    ['consumer key', visible(tool.consumerKey)],
    ['shared secret', tool.hasSecret ? `set ${moment(tool.secretSetAt)}` : paint('bad', 'missing')],
    ['launch address', tool.launchUrl ?? '–'],
    ['sees of people', tool.disclosure.replaceAll('_', ' ')],
    [
      'custom',
      Object.entries(tool.customParameters)
        .map(([name, value]) => visible(`${name}=${value}`))
        .join(', ') || '–',
    ],
    [
      'soundings send',
      Object.entries(tool.soundingParameters)
        .map(([name, value]) => visible(`${name}=${value}`))
        .join(', ') || '–',
    ],
    ['used by', `${tool.assignments} assignments in ${tool.courses} courses`],
    ['last launch', moment(tool.lastLaunchAt)],
    ['last score', moment(tool.lastScoreAt)],
    ['refused, 7 days', tool.refusals ? paint('bad', String(tool.refusals)) : '0'],
    ['revision', String(tool.revision)],
  ])
}

function showCheck(check: ToolCheck): string {
  const rows = check.findings.map((one) => [state(one.verdict), one.check, visible(one.statement)])
  const remedies = check.findings.filter((one) => one.remedy).map((one) => `\n→ ${one.check}: ${one.remedy}`)
  return (
    table(['', 'check', 'found'], rows) +
    remedies.join('') +
    `\n${state(check.verdict)} in ${milliseconds(check.durationMs)}`
  )
}

export function addToolCommands(program: Command): void {
  const tool = program.command('tool').description('external tools and their registrations')

  paged(tool.command('list').description('lists the tools you may use'))
    .option('--search <text>', 'part of name, key or address')
    .option('--course <course>', 'only those that this course may use')
    .addHelpText('after', examples('tool list', 'tool list --course HYD-210 --search knot'))
    .action(
      job<{ limit?: number; cursor?: string; search?: string; course?: string }>(async ({ client, options, show }) => {
        const { limit, cursor, search, course } = options
        show(
          await client.call('listTools', { query: { limit, cursor, search, course } }),
          ({ items, next }) =>
            table(
              ['short name', 'name', 'for', 'state', 'used by', 'last launch', 'last score', 'refused'],
              items.map((one) => [
                one.slug,
                visible(one.name),
                one.course?.code ?? 'institution',
                state(one.state),
                String(one.assignments),
                moment(one.lastLaunchAt),
                moment(one.lastScoreAt),
                one.refusals ? paint('bad', String(one.refusals)) : '0',
              ]),
            ) + more(next),
        )
      }),
    )

  withToolOptions(tool.command('register').description('registers a tool by key and secret'))
    .requiredOption('--name <name>')
    .requiredOption('--key <key>', 'the consumer key, exactly as the tool shows it')
    .option('--course <course>', 'for this course only; for the whole institution unless given')
    .option('--draft', 'do not enable it yet')
    .option('--second <reason>', 'registers the same tool a second time, and says why')
    .addHelpText(
      'after',
      examples(
        'tool register --name "Knotwork Drills" --key skerrow-knots --secret-file - --launch-url http://127.0.0.1:9101/launch --sees name',
        'tool register --name "Plotting Table" --key skerrow-plots --secret-file plots.txt --course NAV-120',
      ),
    )
    .action(
      job<ToolOptions & { name: string; key: string }>(async ({ client, options, show }) => {
        const sharedSecret =
          options.draft && options.secretFile === undefined
            ? undefined
            : await readSecret(options.secretFile, 'Shared secret')
        const made = await client.call('registerTool', {
          body: {
            name: options.name,
            consumerKey: options.key,
            ...(sharedSecret !== undefined && { sharedSecret }),
            ...(options.course && { course: options.course }),
            ...(options.second && { secondReason: options.second }),
            enable: !options.draft,
            ...toolFields(options),
          },
        })
        show(made, showTool)
      }),
    )

  tool
    .command('show <tool>')
    .description('shows a tool, with what each end needs from the other')
    .addHelpText('after', examples('tool show knotwork-drills', 'tool show knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) => {
        const one = await client.call('showTool', { params: { tool: ref } })
        const sheet = await client.call('showExchangeSheet', { params: { tool: one.id } }).catch(() => undefined)
        show({ ...one, ...(sheet && { exchangeSheet: sheet }) }, () => {
          const needs = sheet
            ? `\n\nThe tool’s end needs from us\n${pairs(sheet.toolNeeds.map((line) => [line.label, visible(line.value)]))}`
            : ''
          return showTool(one) + needs
        })
      }),
    )

  withToolOptions(tool.command('change <tool>').description('changes a registration'))
    .option('--name <name>')
    .option('--key <key>')
    .addHelpText(
      'after',
      examples('tool change knotwork-drills --sees name', 'tool change knotwork-drills --secret-file -'),
    )
    .action(
      job<ToolOptions>(async ({ client, options, show }, ref) => {
        const { revision } = await client.call('showTool', { params: { tool: ref } })
        const sharedSecret =
          options.secretFile === undefined ? undefined : await readSecret(options.secretFile, 'Shared secret')
        const body = {
          revision,
          ...(options.name && { name: options.name }),
          ...(options.key && { consumerKey: options.key }),
          ...(sharedSecret !== undefined && { sharedSecret }),
          ...toolFields(options),
        }
        show(await client.call('changeTool', { params: { tool: ref }, body }), showTool)
      }),
    )

  tool
    .command('check <tool>')
    .description('checks that the tool’s end answers and may be framed; exits 1 when it does not')
    .addHelpText('after', examples('tool check knotwork-drills', 'tool check knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) => {
        const check = await client.call('checkTool', { params: { tool: ref } })
        show(check, showCheck)
        if (check.verdict === 'fail') throw new CheckFailed()
      }),
    )

  for (const [verb, wanted, text] of STATES)
    tool
      .command(`${verb} <tool>`)
      .description(text)
      .addHelpText('after', examples(`tool ${verb} knotwork-drills`, `tool ${verb} knotwork-drills --json`))
      .action(job(async (work: Job<object>, ref) => setState(work, ref, wanted)))

  tool
    .command('secret <tool>')
    .description('prints the shared secret; that it was shown is audited')
    .addHelpText('after', examples('tool secret knotwork-drills', 'tool secret knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('revealSecret', { params: { tool: ref } }), (one) => one.sharedSecret),
      ),
    )
}

const STATES = [
  ['enable', 'enabled', 'enables a draft, or a suspended tool again'],
  ['suspend', 'suspended', 'refuses launches for now; scores of work already done are still taken'],
  ['retire', 'retired', 'ends its use for good; scores and wire entries are kept'],
] as const

async function setState({ client, show }: Job<object>, ref: string, wanted: (typeof STATES)[number][1]): Promise<void> {
  const one = await client.call('setToolState', { params: { tool: ref }, body: { state: wanted } })
  show(
    one,
    (t) => `${visible(t.name)} is ${state(t.state)}; ${t.assignments} assignments in ${t.courses} courses use it.`,
  )
}
