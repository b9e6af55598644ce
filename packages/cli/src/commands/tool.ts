import { FRAME_PERMISSIONS, type FramePermission, type Tool } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collect, collectPairs, examples, job, more, paged } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { moment, pairs, paint, state, table, visible } from '../terminal/output.js'
import { readSecret, readText } from '../terminal/secrets.js'
import { addConnectionCommands } from './tool-connections.js'
import { addToolDecisionCommands } from './tool-decide.js'
import { addIntakeCommand } from './tool-intake.js'
import { addToolKeyCommands } from './tool-keys.js'
import { collectFramePermissions, collectPlaces, seesOption, type Placement, type Sees } from './tool-options.js'
import { showCheck, showTool } from './tool-show.js'

interface ToolOptions {
  lti?: '1.1' | '1.3'
  initiationUrl?: string
  redirectUri?: string[]
  keysetUrl?: string
  publicKeyFile?: string
  scope?: string[]
  firstEntry?: 'none' | 'course' | 'link'
  scores?: boolean
  picker?: string
  learnerText?: string
  exactTitle?: string[]
  keysPerCourse?: boolean
  place?: Placement[]
  description?: string
  name?: string
  key?: string
  secretFile?: string
  launchUrl?: string
  course?: string
  sees?: Sees
  open?: 'frame' | 'window'
  signature?: 'HMAC-SHA1' | 'HMAC-SHA256'
  custom?: Record<string, string>
  sounding?: Record<string, string>
  framePermission?: FramePermission[]
  draft?: boolean
  second?: string
}

function toolFields(options: ToolOptions) {
  return {
    ...(options.launchUrl !== undefined && { launchUrl: options.launchUrl }),
    ...(options.sees && { disclosure: options.sees }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.signature && { signatureMethod: options.signature }),
    ...(options.description !== undefined && { description: options.description }),
    ...(options.initiationUrl !== undefined && { initiationUrl: options.initiationUrl }),
    ...(options.redirectUri && { redirectUris: options.redirectUri }),
    ...(options.keysetUrl !== undefined && { keysetUrl: options.keysetUrl }),
    ...(options.publicKeyFile !== undefined && { publicKeys: readText(options.publicKeyFile) }),
    ...(options.scope && { scopes: options.scope }),
    ...(options.place && { placements: options.place }),
    ...(options.firstEntry && { firstEntry: options.firstEntry }),
    ...(options.scores === false && { features: [] }),
    ...(options.picker !== undefined && { pickerUrl: options.picker || null }),
    ...(options.learnerText !== undefined && { learnerText: options.learnerText }),
    ...(options.exactTitle && { exactTitles: options.exactTitle }),
    ...(options.keysPerCourse !== undefined && { keysPerCourse: options.keysPerCourse }),
    ...(options.custom && { customParameters: options.custom }),
    ...(options.sounding && { soundingParameters: options.sounding }),
    ...(options.framePermission && { framePermissions: options.framePermission }),
  }
}

function withToolOptions(command: Command): Command {
  return command
    .option('--description <text>', 'what it is for, shown in catalogues')
    .option('--launch-url <address>', 'where launches are sent; of LTI 1.3 the target link URI')
    .option('--initiation-url <address>', 'LTI 1.3: where logins begin')
    .option('--redirect-uri <address>', 'LTI 1.3: where id_tokens are sent; may be given again', collect)
    .option('--keyset-url <address>', 'LTI 1.3: the tool’s keyset')
    .option('--public-key-file <file>', 'LTI 1.3: the tool’s keys as PEM or JSON instead of an address')
    .option('--scope <scope>', 'LTI 1.3: grants a scope, such as score or roster; may be given again', collect)
    .addOption(
      new Option('--first-entry <what>', 'what an instructor must open before learners may').choices([
        'none',
        'course',
        'link',
      ]),
    )
    .option(
      '--place <place[=label]>',
      'where it may show: course_menu, unit_item, running_text, assignment; may be given again',
      collectPlaces,
    )
    .option('--no-scores', 'its key is for content that returns no scores')
    .option('--picker <address>', 'where its picker is opened; empty when it has none')
    .option('--learner-text <text>', 'offered as instructions when an assignment on it is made')
    .option('--exact-title <title>', 'an exact title that it opens under; may be given again', collect)
    .option('--keys-per-course', 'the tool issues key and secret for each course')
    .option('--secret-file <file>', 'reads the shared secret from a file, or - for standard input')
    .addOption(seesOption('what of a person’s identity the tool may see'))
    .addOption(new Option('--open <where>', 'offered first when an assignment is made').choices(['frame', 'window']))
    .addOption(new Option('--signature <method>').choices(['HMAC-SHA1', 'HMAC-SHA256']))
    .option('--custom <name=value>', 'a custom parameter; may be given again', collectPairs)
    .option('--sounding <name=value>', 'a parameter that only soundings send; may be given again', collectPairs)
    .option(
      '--frame-permission <what>',
      `what its pages may use in a frame: ${FRAME_PERMISSIONS.join(', ')}; may be given again, all that are meant at once, or none`,
      collectFramePermissions,
    )
}

/** How many links of every kind lead into a tool. */
function usedBy({ assignments, menuEntries, unitItems, courses }: Tool): string {
  const links = assignments + menuEntries + unitItems
  return `${links} link${links === 1 ? '' : 's'} in ${courses} course${courses === 1 ? '' : 's'}`
}

export function addToolCommands(program: Command): void {
  const tool = program.command('tool').description('external tools and their registrations')
  addConnectionCommands(tool)
  addList(tool)
  addRegister(tool)
  addShow(tool)
  addChange(tool)
  addCheck(tool)
  addIntakeCommand(tool)
  addToolDecisionCommands(tool)
  addToolKeyCommands(tool)
}

function addList(tool: Command): void {
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
                usedBy(one),
                moment(one.lastLaunchAt),
                moment(one.lastScoreAt),
                one.refusals ? paint('bad', String(one.refusals)) : '0',
              ]),
            ) + more(next),
        )
      }),
    )
}

function addRegister(tool: Command): void {
  withToolOptions(
    tool.command('register').description('registers a tool by hand: by key and secret, or by the addresses of LTI 1.3'),
  )
    .requiredOption('--name <name>')
    .addOption(new Option('--lti <version>', 'which version').choices(['1.1', '1.3']).default('1.1'))
    .option('--key <key>', 'LTI 1.1: the consumer key, exactly as the tool shows it')
    .option('--course <course>', 'for this course only; for the whole institution unless given')
    .option('--draft', 'do not enable it yet')
    .option('--second <reason>', 'registers the same tool a second time, and says why')
    .addHelpText(
      'after',
      examples(
        'tool register --name "Knotwork Drills" --key skerrow-knots --secret-file - --launch-url http://127.0.0.1:9101/launch --sees name',
        'tool register --lti 1.3 --name "Sextant Bench" --launch-url http://127.0.0.1:9104/bench --initiation-url http://127.0.0.1:9104/login --redirect-uri http://127.0.0.1:9104/launch --keyset-url http://127.0.0.1:9104/keyset',
      ),
    )
    .action(
      job<ToolOptions & { name: string; lti: '1.1' | '1.3' }>(async ({ client, options, show }) => {
        const sharedSecret =
          options.secretFile === undefined && (options.draft || options.lti === '1.3' || options.keysPerCourse)
            ? undefined
            : await readSecret(options.secretFile, 'Shared secret')
        const made = await client.call('registerTool', {
          body: {
            name: options.name,
            version: options.lti,
            ...(options.key !== undefined && { consumerKey: options.key }),
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
}

function addShow(tool: Command): void {
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
}

function addChange(tool: Command): void {
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
}

function addCheck(tool: Command): void {
  tool
    .command('check <tool>')
    .description(
      'checks the tool’s end short of a launch: answer, frame, clock, key and secret or keyset and login; exits 1 on failure',
    )
    .addHelpText('after', examples('tool check knotwork-drills', 'tool check knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) => {
        const check = await client.call('checkTool', { params: { tool: ref } })
        show(check, showCheck)
        if (check.verdict === 'fail') throw new CheckFailed()
      }),
    )
}
