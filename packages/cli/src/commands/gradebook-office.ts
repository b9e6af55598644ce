import {
  HAND_ON,
  HAND_ON_WORDS,
  type Client,
  type HandOn,
  type HandOnView,
  type RecordsOffice,
} from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job, optionsOf, show, wholeNumber } from '../terminal/command.js'
import { connect } from '../terminal/connect.js'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import { pairs, paint, state, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

/** Handing results on to the records office, and where that is. */
export function addHandOnCommands(gradebook: Command): void {
  addHandOn(gradebook)
  addHandedOn(gradebook)

  const office = gradebook.command('records-office').description('the records office that results are handed on to')
  addShow(office)
  addSet(office)
  addRemove(office)
}

interface Given {
  again?: boolean
  check?: boolean
  mode?: HandOn
  wait: boolean
  for: number
}

function addHandOn(gradebook: Command): void {
  gradebook
    .command('hand-on <course> [columns...]')
    .description('hands results on to the records office that are new or changed, and waits until it has answered')
    .addOption(
      new Option('--mode <mode>', 'sets when the named columns are handed on, and hands nothing on now')
        .choices(HAND_ON)
        .conflicts(['again', 'check']),
    )
    .option('--again', 'also what was refused, unchanged')
    .option('--check', 'only says how many would be handed on')
    .option('--no-wait', 'does not wait')
    .option('--for <seconds>', 'waits at most this long', wholeNumber, 60)
    .addHelpText(
      'after',
      examples('gradebook hand-on HYD-210 --check', 'gradebook hand-on HYD-210 soundings-and-datum --mode at_once'),
    )
    .action(async (course: string, columns: string[], given: Given, command: Command) => {
      const options = optionsOf<typeof given>(command)
      const client = connect(options)
      if (given.mode !== undefined) return show(options, await setMode(client, course, columns, given.mode), showModes)
      const asked = await client.call('handOn', {
        params: { course },
        body: {
          again: given.again ?? false,
          check: given.check ?? false,
          ...(columns.length > 0 && { columns: columns.map((one) => inCourse(course, one)) }),
        },
      })
      if (given.check)
        return show(
          options,
          asked,
          (one) =>
            `${one.queued} results would be handed on, ${one.unchanged} have not changed. Nothing was handed on.`,
        )
      const until = performance.now() + given.for * 1000
      let view = await client.call('showHandOn', { params: { course } })
      const waits = () => view.columns.some((one) => one.waiting > 0)
      while (given.wait && waits() && performance.now() < until) {
        await new Promise((resolve) => setTimeout(resolve, 500))
        view = await client.call('showHandOn', { params: { course } })
      }
      show(
        options,
        view,
        (one) => `${asked.queued} results to hand on, ${asked.unchanged} unchanged.\n${showHandOn(one)}`,
      )
      if (view.columns.some((one) => one.refused > 0)) throw new CheckFailed()
    })
}

/** A column may be named within its course, or with it. */
const inCourse = (course: string, column: string) => (column.includes('/') ? column : `${course}/${column}`)

async function setMode(client: Client, course: string, columns: string[], mode: HandOn) {
  if (columns.length === 0)
    throw new Failure(
      'No column is named.',
      EXIT.usage,
      'Name the columns: `gradebook hand-on COURSE COLUMN --mode MODE`.',
    )
  const items = []
  for (const column of columns)
    items.push(await client.call('setHandOn', { params: { assignment: inCourse(course, column) }, body: { mode } }))
  return { items }
}

const showModes = ({ items }: Awaited<ReturnType<typeof setMode>>) =>
  items.map((one) => `“${visible(one.title)}” is handed on: ${HAND_ON_WORDS[one.mode]}.`).join('\n')

function addHandedOn(gradebook: Command): void {
  gradebook
    .command('handed-on <course>')
    .description('what the records office has of a course, and what it refused')
    .addHelpText('after', examples('gradebook handed-on HYD-210', 'gradebook handed-on HYD-210 --json'))
    .action(
      job(async ({ client, show }, course) =>
        show(await client.call('showHandOn', { params: { course } }), showHandOn),
      ),
    )
}

function addShow(office: Command): void {
  office
    .command('show')
    .addHelpText('after', examples('gradebook records-office show', 'gradebook records-office show --json'))
    .description('shows where results are handed on to')
    .action(job(async ({ client, show }) => show(await client.call('showRecordsOffice', {}), showOffice)))
}

function addSet(office: Command): void {
  office
    .command('set')
    .description('sets it, once it has given a token; the secret is asked for or read from a file')
    .requiredOption('--address <url>', 'where its OneRoster 1.2 services are')
    .requiredOption('--token-address <url>', 'where it gives tokens')
    .requiredOption('--client-id <id>')
    .option('--secret-file <file>', '- reads standard input; without it the one held stays')
    .option('--every <minutes>', 'how often scheduled columns are handed on', wholeNumber, 60)
    .option('--paused', 'hands nothing on for now')
    .addHelpText(
      'after',
      examples(
        'gradebook records-office set --address https://sis.skerrow.example --token-address https://sis.skerrow.example/token --client-id skerrow-academy --secret-file -',
        'gradebook records-office set --address https://sis.skerrow.example --token-address https://sis.skerrow.example/token --client-id skerrow-academy --paused',
      ),
    )
    .action(
      job<{
        address: string
        tokenAddress: string
        clientId: string
        secretFile?: string
        every: number
        paused?: boolean
      }>(async ({ client, options, show }) => {
        const { address, tokenAddress, clientId, secretFile, every, paused } = options
        const clientSecret = secretFile === undefined ? undefined : await readSecret(secretFile, 'Client secret')
        const answer = await client.call('setRecordsOffice', {
          body: {
            url: address,
            tokenUrl: tokenAddress,
            clientId,
            everyMinutes: every,
            paused: paused ?? false,
            ...(clientSecret && { clientSecret }),
          },
        })
        show(answer, showOffice)
      }),
    )
}

function addRemove(office: Command): void {
  office
    .command('remove')
    .description('stops handing results on')
    .addHelpText('after', examples('gradebook records-office remove', 'gradebook records-office remove --quiet'))
    .action(
      job(async ({ client, show }) => {
        await client.call('removeRecordsOffice', {})
        show({ office: null }, showOffice)
      }),
    )
}

const showOffice = ({ office }: { office: RecordsOffice | null }) =>
  office === null
    ? 'Results are handed on to no records office.'
    : pairs([
        ['address', office.url],
        ['tokens', office.tokenUrl],
        ['client ID', visible(office.clientId)],
        ['hands on', office.paused ? paint('look', 'paused') : paint('good', 'yes')],
        ['scheduled', office.everyMinutes === null ? 'never' : `every ${office.everyMinutes} minutes`],
      ])

function showHandOn(view: HandOnView): string {
  if (!view.office) return 'There is no records office to hand results on to.'
  return [
    ...(view.paused ? [paint('look', 'The records office is paused: nothing is handed on.')] : []),
    table(
      ['column', 'handed on', 'results', 'accepted', 'waiting', 'refused', 'not handed on'],
      view.columns.map((one) => [
        visible(one.title),
        HAND_ON_WORDS[one.mode],
        String(one.results),
        String(one.accepted),
        String(one.waiting),
        one.refused > 0 ? paint('bad', String(one.refused)) : '0',
        String(one.unsent),
      ]),
    ),
    ...view.trouble
      .slice(0, 30)
      .map(
        (one) =>
          `${state(one.state)} ${visible(one.person.fullName)}, ${visible(one.column.title)}: ${visible(one.answer)} ${paint('quiet', `(${one.tries} tries)`)}`,
      ),
  ].join('\n')
}
