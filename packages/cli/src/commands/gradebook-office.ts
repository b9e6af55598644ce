import type { HandOn, HandOnView, RecordsOffice } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, optionsOf, show, wholeNumber } from '../terminal/command.js'
import { connect } from '../terminal/connect.js'
import { CheckFailed } from '../terminal/failure.js'
import { pairs, paint, state, table, visible } from '../terminal/output.js'
import { readSecret } from '../terminal/secrets.js'

/** Results on to the records office, and the office itself. */
export function addHandOnCommands(gradebook: Command): void {
  addSend(gradebook)
  addSent(gradebook)
  addSendMode(gradebook)

  const office = gradebook.command('office').description('the records office that results go on to')
  addShow(office)
  addSet(office)
  addRemove(office)
}

function addSend(gradebook: Command): void {
  gradebook
    .command('send <course> [columns...]')
    .description('sends on to the records office what was never sent or has changed, and waits until it is through')
    .option('--again', 'also what was refused as it stands')
    .option('--check', 'only says how many would be sent')
    .option('--no-wait', 'does not wait')
    .option('--for <seconds>', 'waits so long at most', wholeNumber, 60)
    .addHelpText(
      'after',
      examples('gradebook send HYD-210 --check', 'gradebook send HYD-210 HYD-210/soundings-and-datum --again'),
    )
    .action(
      async (
        course: string,
        columns: string[],
        given: { again?: boolean; check?: boolean; wait: boolean; for: number },
        command: Command,
      ) => {
        const options = optionsOf<typeof given>(command)
        const client = connect(options)
        const asked = await client.call('handOn', {
          params: { course },
          body: {
            again: given.again ?? false,
            check: given.check ?? false,
            ...(columns.length > 0 && { columns }),
          },
        })
        if (given.check)
          return show(
            options,
            asked,
            (one) => `${one.queued} results would be sent, ${one.unchanged} are as they were sent. Nothing was sent.`,
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
          (one) => `${asked.queued} results to send, ${asked.unchanged} as they were.\n${showHandOn(one)}`,
        )
        if (view.columns.some((one) => one.refused > 0)) throw new CheckFailed()
      },
    )
}

function addSent(gradebook: Command): void {
  gradebook
    .command('sent <course>')
    .description('what the records office has of a course, and what it refused')
    .addHelpText('after', examples('gradebook sent HYD-210', 'gradebook sent HYD-210 --json'))
    .action(
      job(async ({ client, show }, course) =>
        show(await client.call('showHandOn', { params: { course } }), showHandOn),
      ),
    )
}

function addSendMode(gradebook: Command): void {
  gradebook
    .command('send-mode <column> <mode>')
    .description('how a column goes on: review (when somebody sends it), scheduled, at_once or never')
    .addHelpText(
      'after',
      examples(
        'gradebook send-mode HYD-210/soundings-and-datum at_once',
        'gradebook send-mode HYD-210/swath-planning never',
      ),
    )
    .action(
      job(async ({ client, show }, column, mode) =>
        show(
          await client.call('setHandOn', { params: { assignment: column }, body: { mode: mode as HandOn } }),
          (one) => `“${visible(one.title)}” goes on: ${one.mode.replaceAll('_', ' ')}.`,
        ),
      ),
    )
}

function addShow(office: Command): void {
  office
    .command('show')
    .addHelpText('after', examples('gradebook office show', 'gradebook office show --json'))
    .description('shows where results go on to')
    .action(job(async ({ client, show }) => show(await client.call('showRecordsOffice', {}), showOffice)))
}

function addSet(office: Command): void {
  office
    .command('set')
    .description('sets it, once it has given a token; the secret is asked for or read from a file')
    .requiredOption('--address <url>', 'where its OneRoster 1.2 services stand')
    .requiredOption('--token-address <url>', 'where it gives tokens')
    .requiredOption('--client-id <id>')
    .option('--secret-file <file>', '- reads standard input; without it the one held stays')
    .option('--every <minutes>', 'how often scheduled columns go on', wholeNumber, 60)
    .option('--paused', 'sends nothing for now')
    .addHelpText(
      'after',
      examples(
        'gradebook office set --address https://sis.skerrow.example --token-address https://sis.skerrow.example/token --client-id skerrow-academy --secret-file -',
        'gradebook office set --address https://sis.skerrow.example --token-address https://sis.skerrow.example/token --client-id skerrow-academy --paused',
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
    .description('sends nothing on any more')
    .addHelpText('after', examples('gradebook office remove', 'gradebook office remove --quiet'))
    .action(
      job(async ({ client, show }) => {
        await client.call('removeRecordsOffice', {})
        show({ office: null }, showOffice)
      }),
    )
}

const showOffice = ({ office }: { office: RecordsOffice | null }) =>
  office === null
    ? 'Results go on to no records office.'
    : pairs([
        ['address', office.url],
        ['tokens', office.tokenUrl],
        ['client ID', visible(office.clientId)],
        ['sends', office.paused ? paint('look', 'paused') : paint('good', 'yes')],
        ['scheduled', office.everyMinutes === null ? 'never' : `every ${office.everyMinutes} minutes`],
      ])

function showHandOn(view: HandOnView): string {
  if (!view.office) return 'There is no records office to send results to.'
  return [
    ...(view.paused ? [paint('look', 'The records office is paused: nothing goes on.')] : []),
    table(
      ['column', 'goes on', 'results', 'taken', 'waiting', 'refused', 'not sent'],
      view.columns.map((one) => [
        visible(one.title),
        one.mode.replaceAll('_', ' '),
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
