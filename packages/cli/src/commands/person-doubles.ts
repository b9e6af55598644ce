import type { CallAnswer } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { moment, named, pairs, table, visible } from '../terminal/output.js'

/** Accounts that several people seem to share, and taking them apart. */
export function addDoubleCommands(person: Command): void {
  person
    .command('doubles')
    .description('lists accounts under which tools were told of people who have nothing in common')
    .addHelpText('after', examples('person doubles', 'person doubles --json'))
    .action(job(async ({ client, show }) => show(await client.call('listDoubles', {}), doublesInWords)))

  person
    .command('part <person>')
    .description('makes an account of its own for one of the people who share one, with launches and scores')
    .requiredOption('--name <name>', 'as `person doubles` shows it')
    .requiredOption('--as <user name>', 'user name of the new account')
    .option('--email <address>', 'the one that tools were told of unless given')
    .option('--check', 'says what would be, and does nothing')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples(
        'person part 00 --name "Li Ming" --as li.ming --check',
        'person part 00 --name "Li Ming" --as li.ming --yes',
      ),
    )
    .action(
      job<{ name: string; as: string; email?: string; check?: true; yes?: true }>(
        async ({ client, options, show }, ref) => {
          const body = { name: options.name, username: options.as, ...(options.email && { email: options.email }) }
          const params = { person: ref }
          if (options.check || !options.yes) {
            const would = await client.call('partPerson', { params, body })
            if (options.check) return show(would, partedInWords)
            await requireConsent(
              `${partedInWords(would)}\n\nThe tools will know ${visible(would.made.fullName)} as somebody new, and nothing puts the two together again. Go on?`,
              'Nothing was done.',
              'Add --yes to do it without being asked.',
            )
          }
          show(await client.call('partPerson', { params, body: { ...body, apply: true } }), partedInWords)
        },
      ),
    )
}

function doublesInWords({ items, lookedThrough }: CallAnswer<'listDoubles'>): string {
  const where = `Looked through: the newest ${lookedThrough} wire entries. Only what tools were told can be compared: names and addresses.`
  if (items.length === 0) return `No account seems to be several people’s.\n${where}`
  const rows = items.flatMap(({ person, likenesses }) =>
    likenesses.map((one, i) => [
      i === 0 ? person.username : '',
      visible(one.names.join(', ')),
      visible(one.emails.join(', ')) || '–',
      moment(one.firstAt),
      moment(one.lastAt),
      String(one.launches),
    ]),
  )
  return `${table(['account', 'launched as', 'address', 'first', 'last', 'launches'], rows)}

Likely several people: their names have no word in common. A name in another script looks so, too.
${where}
Take one out with \`bathyscribe person part ACCOUNT --name "NAME" --as USER-NAME --check\`.`
}

function partedInWords(parted: CallAnswer<'partPerson'>): string {
  return pairs([
    [parted.done ? 'taken out' : 'would be taken out', named(parted.made)],
    ['of', named(parted.person)],
    ['address', visible(parted.made.email ?? '–')],
    ['launches', String(parted.launches)],
    ['scores', String(parted.scores)],
    ['undecided, they stay', String(parted.undecided)],
    ['courses', parted.courses.join(', ') || '–'],
  ])
}
