import type { Client, IntakeAnswer, Invitation, NewTool, Tool } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collect, collectPairs, examples, job, wholeNumber, type Job } from '../terminal/command.js'
import { askToConfirm } from '../terminal/confirm.js'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import { paint, state, table, visible } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'
import { collectPlaces, seesOption, type Placement, type Sees } from './tool-options.js'
import { showTool } from './tool-show.js'
import {
  findPlace,
  isMadeRight,
  makeInto,
  requireWhole,
  showMade,
  withInto,
  type IntoOptions,
} from './tool-intake-into.js'
import { terminal } from '../terminal/terminal.js'

interface IntakeOptions extends IntoOptions {
  sounding?: Record<string, string>
  name?: string
  course?: string
  sees?: Sees
  open?: 'frame' | 'window'
  pair?: number
  yes?: boolean
  read?: boolean
  anyway?: boolean
  draft?: boolean
  second?: string
  scope?: string[]
  redirectUri?: string[]
  picker?: string
  place?: Placement[]
}

const WAIT_EVERY_MS = 2000

/** `tool intake`: from whatever the vendor handed over to a registration, with one confirmation. */
export function addIntakeCommand(tool: Command): void {
  const command = tool
    .command('intake <file-or-address>')
    .description(
      'reads what a vendor handed over (text, XML, JSON, an address; - for standard input), registers it, and makes a proven assignment of it',
    )
    .option('--name <name>', 'its name here')
    .option('--course <course>', 'for this course only; for the whole institution unless given')
    .addOption(seesOption('what of a person the tool may see'))
    .addOption(new Option('--open <where>', 'offered first when a link is made').choices(['frame', 'window']))
    .option(
      '--scope <scope>',
      'LTI 1.3: grants this scope, such as score or roster, instead of those proposed; “none” for none; may be given again',
      collect,
    )
    .option(
      '--redirect-uri <address>',
      'LTI 1.3: one more address where id_tokens are sent; may be given again',
      collect,
    )
    .option('--picker <address>', 'where its picker is opened')
    .option('--place <place[=label]>', 'where it may show; may be given again', collectPlaces)
    .option('--pair <n>', 'which pair of key and secret, when there are several', wholeNumber)
    .option('--yes', 'registers without asking')
    .option('--read', 'reads only, registers nothing')
    .option('--anyway', 'registers although something was found wrong')
    .option('--draft', 'do not enable it yet')
    .option('--second <reason>', 'registers the same tool a second time, and says why')
    .option('--sounding <name=value>', 'a parameter that only soundings send; may be given again', collectPairs)
  withInto(command)
    .addHelpText(
      'after',
      examples(
        'tool intake mail.txt --sees name --into HYD-210 --assignment "Soundings and datum" --prove',
        'tool intake http://127.0.0.1:9104/register --yes',
      ),
    )
    .action(
      job<IntakeOptions>(async (work, source) => {
        requireWhole(work.options)
        const text = /^https?:\/\//i.test(source) ? source : readText(source)
        if (text.trim() === '') throw new Failure('There is nothing to read.', EXIT.usage)
        const read = await work.client.call('readIntake', { body: { text } })
        if (!work.options.json && !work.options.quiet) terminal().print(`${showIntake(read)}\n\n`)
        if (work.options.read) {
          if (work.options.json) work.show(read, () => '')
          return
        }
        const place = await findPlace(work.client, work.options)
        const { tool, done } = read.registrationAddress
          ? await letRegister(work, read.registrationAddress)
          : await registerRead(work, read)
        const made = place && (await makeOf(work, tool, place))
        work.show({ intake: withoutSecret(read), tool, ...made }, () =>
          [`${done}\n\n${showTool(tool)}`, ...(made ? [showMade(made)] : [])].join('\n\n'),
        )
        if (made && !isMadeRight(made)) throw new CheckFailed()
      }),
    )
}

export function showIntake(read: IntakeAnswer): string {
  const missing = read.missing.filter((one) => one.field !== 'name' || read.proposedName === null)
  const rows = read.recognised.map((one) => [
    one.word,
    one.field === 'sharedSecret'
      ? `${visible(one.value).slice(0, 3)}… (${one.value.length} characters)`
      : visible(one.value),
    paint('quiet', one.source),
  ])
  const remarks = read.remarks.map((one) => `${state(one.verdict)}  ${visible(one.statement)}\n      → ${one.remedy}`)
  const pairs = read.pairs.map(
    (pair, i) =>
      `${i + 1}. ${visible(pair.consumerKey)}  ${pair.returnsScores === null ? '' : pair.returnsScores ? '(returns scores)' : '(no scores)'} ${visible(pair.purpose)}`,
  )
  return [
    `Read as ${read.kind}${read.version ? `, LTI ${read.version}` : ''}${read.fetched ? `, from ${read.fetched}` : ''}.`,
    ...(rows.length > 0 ? [table(['what', 'value', 'from'], rows)] : []),
    ...(remarks.length > 0 ? [remarks.join('\n')] : []),
    ...(pairs.length > 0 ? [`Choose one of these pairs with --pair:\n${pairs.join('\n')}`] : []),
    ...(read.scopes.length > 0
      ? [
          `It gets to (choose others with --scope):\n${read.scopes.map((one) => `  ${one.allows}  ${paint('quiet', `${shortScope(one.scope)}, ${one.because}`)}`).join('\n')}`,
        ]
      : []),
    ...(read.beyond.length > 0
      ? [
          `It also says, and nothing of it is taken by itself:\n${table(
            ['what', 'says', 'take it by', 'from'],
            read.beyond.map((one) => [
              visible(one.name),
              visible(one.value).slice(0, 60),
              takenBy(one),
              paint('quiet', visible(one.from)),
            ]),
          )}`,
        ]
      : []),
    ...(read.proposedName && read.missing.some((one) => one.field === 'name')
      ? [`It gives no name; its address suggests “${visible(read.proposedName)}”. --name gives another.`]
      : []),
    ...(missing.length > 0 ? [`Still missing: ${missing.map((one) => one.word).join(', ')}.`] : []),
    ...read.same.map((one) =>
      paint('look', `Looks like “${one.tool.name}” (${one.tool.slug}): same ${one.what.join(', ')}.`),
    ),
  ].join('\n\n')
}

const shortScope = (scope: string) => scope.split(/[/:]/).at(-1) ?? scope

/** The option that takes over what was said. */
function takenBy({ mightFill }: IntakeAnswer['beyond'][number]): string {
  if (mightFill === null) return '–'
  if (mightFill.field === 'disclosure') return `--sees ${mightFill.value}`
  if (mightFill.field === 'pickerUrl') return '--picker ADDRESS'
  return mightFill.value.map((one) => `--place ${one}`).join(' ')
}

/** A tool as it is now, and what was done with it. */
interface Registered {
  tool: Tool
  done: string
}

/** What is made of the tool. When that fails, the tool is registered nevertheless, and that is said. @throws Failure */
async function makeOf({ client, options }: Job<IntakeOptions>, tool: Tool, place: { unit?: string | null }) {
  const progress = terminal().isTTY.messages && !options.json && !options.quiet
  try {
    return await makeInto(client, tool, options, place, progress)
  } catch (error) {
    terminal().say(`“${visible(tool.name)}” (${tool.slug}) is registered; what follows is about the assignment.\n`)
    throw error
  }
}

async function registerRead({ client, options }: Job<IntakeOptions>, read: IntakeAnswer): Promise<Registered> {
  const body = toRegister(read, options)
  const wrong = read.remarks.filter((one) => one.verdict === 'fail' && !(one.code === 'two_pairs' && options.pair))
  if (wrong.length > 0 && !options.anyway)
    throw new Failure(
      'Nothing was registered, because something is wrong with it.',
      EXIT.refused,
      'Fix it, or add --anyway.',
    )
  const where = options.course ? `for ${options.course}` : 'for the whole institution'
  await requireConfirmed(options, `Register “${body.name}” by LTI ${body.version ?? '1.1'}, ${where}?`)
  const tool = await client.call('registerTool', { body })
  return { tool, done: 'Registered.' }
}

/** What will be registered: what was read, with what was said on the command line over it. */
export function toRegister(read: IntakeAnswer, options: IntakeOptions): NewTool {
  const value = (field: IntakeAnswer['recognised'][number]['field']) =>
    read.recognised.find((one) => one.field === field)?.value
  const pair = options.pair === undefined ? undefined : read.pairs[options.pair - 1]
  if (read.pairs.length > 1 && !pair)
    throw new Failure('There are several pairs of key and secret.', EXIT.usage, 'Say which one with --pair.')
  const name = options.name ?? value('name') ?? read.proposedName
  const missing = read.missing.filter((one) => !(one.field === 'name' && name))
  if (read.version === null || !name || missing.length > 0)
    throw new Failure(
      `Not enough to register: ${missing.map((one) => one.word).join(', ') || (name ? 'neither a key nor LTI 1.3 addresses' : 'name')}.`,
      EXIT.usage,
      'Add what is missing to the text, or give --name.',
    )
  const secret = pair?.sharedSecret ?? value('sharedSecret')
  return {
    name,
    version: read.version,
    description: value('description') ?? '',
    launchUrl: value('launchUrl') ?? null,
    customParameters: read.customParameters,
    ...(read.fetched && { configurationUrl: read.fetched }),
    ...(secret !== undefined && { sharedSecret: secret }),
    ...((pair?.consumerKey ?? value('consumerKey')) !== undefined && {
      consumerKey: pair?.consumerKey ?? value('consumerKey'),
    }),
    ...(pair?.returnsScores === false && { features: [] }),
    ...(pair && { note: `This key: ${pair.purpose}` }),
    ...(read.version === '1.3' && {
      initiationUrl: value('initiationUrl'),
      redirectUris: [
        ...read.recognised.filter((one) => one.field === 'redirectUri').map((one) => one.value),
        ...(options.redirectUri ?? []),
      ],
      ...(value('keysetUrl') !== undefined && { keysetUrl: value('keysetUrl') }),
      ...(value('publicKey') !== undefined && { publicKeys: value('publicKey') }),
      scopes: options.scope ? options.scope.filter((one) => one !== 'none') : read.scopes.map((one) => one.scope),
    }),
    ...((options.picker ?? value('pickerUrl')) && { pickerUrl: options.picker ?? value('pickerUrl') }),
    ...(options.place && { placements: options.place }),
    ...(options.course && { course: options.course }),
    ...(options.sounding && { soundingParameters: options.sounding }),
    ...(options.sees && { disclosure: options.sees }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.second && { secondReason: options.second }),
    enable: !options.draft,
  }
}

/** A tool that registers itself: it is let in, and shown as it waits; the confirmation is its approval. */
async function letRegister(work: Job<IntakeOptions>, address: string): Promise<Registered> {
  const { client, options } = work
  const invited = await client.call('inviteTool', {
    body: {
      address,
      open: true,
      ...(options.course && { course: options.course }),
      ...(options.name && { name: options.name }),
      ...(options.second && { secondReason: options.second }),
    },
  })
  refuseSame(invited)
  const ref = invited.tool ?? (await waitForTool(work, invited.id, invited.openAt))
  const tool = await client.call('showTool', { params: { tool: ref.id } })
  if (!options.json && !options.quiet) terminal().print(`${showAsked(tool)}\n\n`)
  await requireConfirmed(
    options,
    `Approve “${tool.name}” and enable it?`,
    `It waits on: bathyscribe tool approve ${tool.slug}, or tool refuse ${tool.slug}.`,
  )
  const approved = await client.call('approveTool', {
    params: { tool: tool.id },
    body: { revision: tool.revision, ...(options.sees && { disclosure: options.sees }) },
  })
  return {
    tool: options.sounding ? await tellSounding(client, approved, options.sounding) : approved,
    done: 'Approved.',
  }
}

/** What a tool that registers itself does not say: by what it scores a sounding. */
const tellSounding = (client: Client, { id, revision }: Tool, soundingParameters: Record<string, string>) =>
  client.call('changeTool', { params: { tool: id }, body: { revision, soundingParameters } })

/** @throws Failure when the tool came, and is registered already */
function refuseSame({ registeredAlready, sameAs }: Invitation): void {
  if (registeredAlready)
    throw new Failure(
      `It is registered already${sameAs ? `, as “${visible(sameAs.name)}” (${sameAs.slug})` : ''}. A tool that registers twice answers under its newer client ID for both.`,
      EXIT.refused,
      'Use that registration; or add --second REASON, if you want a second one anyway.',
    )
}

async function waitForTool({ client, options }: Job<IntakeOptions>, id: string, openAt: string) {
  terminal().say(`The tool wants a person to click. Open this in your browser:\n  ${openAt}\n`)
  if (options.wait === false) throw new Failure('The tool has not registered itself yet.')
  for (;;) {
    await new Promise((resolve) => setTimeout(resolve, WAIT_EVERY_MS))
    const invitation = await client.call('showInvitation', { params: { id } })
    refuseSame(invitation)
    const { tool, expiresAt } = invitation
    if (tool) return tool
    if (new Date(expiresAt) < new Date())
      throw new Failure('The hour for registering is over.', EXIT.refused, 'Start again.')
  }
}

/** What a tool asks for, before anybody has said yes. */
export function showAsked(tool: Tool): string {
  const { asked } = tool
  if (!asked) return `“${visible(tool.name)}” waits for approval.`
  const list = (items: readonly string[]) => items.map((one) => `  ${visible(one)}`).join('\n') || '  nothing'
  return [
    `“${visible(tool.name)}” registered itself as ${tool.clientId ?? ''} and waits for approval.`,
    `It asks to be allowed to\n${list(asked.scopes.map((one) => one.allows))}`,
    `It would like to see of people\n${list(asked.claims)}`,
    `It takes messages\n${list(asked.messages.map((one) => `${one.type}${one.places.length > 0 ? `, shown at ${one.places.join(', ').replaceAll('_', ' ')}` : ''}`))}`,
    ...(tool.lookAlikes.length > 0
      ? [paint('look', `It looks like ${tool.lookAlikes.map((one) => `“${one.name}” (${one.slug})`).join(', ')}.`)]
      : []),
    ...(asked.unknownScopes.length > 0
      ? [`It also asks for what is not given here\n${list(asked.unknownScopes)}`]
      : []),
  ].join('\n')
}

/** @throws Failure when the person says no, or when there is nobody to ask: a script must not take that for done */
async function requireConfirmed(
  options: IntakeOptions,
  question: string,
  else_ = 'Nothing was registered.',
): Promise<void> {
  if (options.yes) return
  const answer = await askToConfirm(question)
  if (answer) return
  throw new Failure(
    else_,
    EXIT.refused,
    answer === undefined ? 'There is no terminal to ask at: add --yes, or --read to read only.' : undefined,
  )
}

function withoutSecret(read: IntakeAnswer): IntakeAnswer {
  return {
    ...read,
    recognised: read.recognised.map((one) => (one.field === 'sharedSecret' ? { ...one, value: '(taken)' } : one)),
    pairs: read.pairs.map((pair) => ({ ...pair, sharedSecret: '(taken)' })),
  }
}
