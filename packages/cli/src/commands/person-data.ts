import type { CallAnswer } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { requireNew, writeOwn } from '../terminal/out-file.js'
import { table, visible } from '../terminal/output.js'

/** What is kept of one person: handed out, and removed. */
export function addDataCommands(person: Command): void {
  person
    .command('data <person>')
    .description('hands out all that is kept of a person')
    .option('--out <file>', 'writes it as JSON, readable by you only')
    .addHelpText('after', examples('person data niamh', 'person data niamh --out niamh.json'))
    .action(
      job<{ out?: string }>(async ({ client, options, show }, ref) => {
        requireNew(options.out)
        const data = await client.call('showPersonData', { params: { person: ref } })
        if (options.out)
          writeOwn(
            options.out,
            `${JSON.stringify(data, null, 2)}\n`,
            () => 'Name a file in a folder that you may write to.',
          )
        show(data, () => dataInWords(data, options.out))
      }),
    )

  person
    .command('remove <person>')
    .description('removes for good who a person was; the account has to be closed')
    .option('--yes', 'does not ask')
    .addHelpText('after', examples('person remove niamh', 'person remove niamh --yes'))
    .action(
      job<{ yes?: true }>(async ({ client, options, show }, ref) => {
        const { username, fullName } = await client.call('showPerson', { params: { person: ref } })
        if (!options.yes)
          await requireConsent(
            `Names, address, ways in, connections and wire entries of ${visible(fullName)} (${username}) are removed; results stay, of nobody who is known. Nothing brings it back. Go on?`,
            'Nothing was removed.',
            'Add --yes to remove without being asked.',
          )
        const removed = await client.call('removePerson', { params: { person: ref }, body: { username } })
        show(
          removed,
          () =>
            `${visible(fullName)} is removed. Wire entries removed as well: ${removed.messages}. Results that stay, under “${removed.person.username}”: ${removed.results}.`,
        )
      }),
    )
}

function dataInWords({ person, kinds }: CallAnswer<'showPersonData'>, out: string | undefined): string {
  const some = kinds.filter((one) => one.rows.length > 0)
  return `${table(
    ['kept', 'rows'],
    some.map((one) => [one.kind, `${one.rows.length}${one.more ? ', and older ones' : ''}`]),
  )}

${out ? `All of it is in ${out}.` : `Add --out FILE or --json to have all of it.`} What a message held is read by \`bathyscribe wire list --person ${person.username}\` and \`wire show\`.`
}
