import type { Reminded, Reminders } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collect, examples, job } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, named, table, visible } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'
import { LANGUAGES } from './case.js'
import { GROUPS, learnersIn } from './score-standing.js'

interface RemindOptions {
  check?: boolean
  person?: string[]
  by?: 'mail' | 'page'
  from?: string
  language: 'en' | 'de'
  again?: boolean
}

/** `assignment remind`: tells those who never opened an assignment. */
export function addRemindCommand(assignment: Command): void {
  assignment
    .command('remind <assignment>')
    .description('reminds those who never opened an assignment; nobody twice within 20 hours')
    .option('--check', 'only says who that is, and what they would be told')
    .option('--person <person>', 'one of them; repeat; all of them unless given', collect)
    .addOption(new Option('--by <way>', 'page: on their own pages').choices(['mail', 'page']))
    .option('--from <file>', 'the text; - for standard input')
    .addOption(new Option('--language <language>', 'of the text that is proposed').choices(LANGUAGES).default('en'))
    .option('--again', 'also those who were reminded less than 20 hours ago')
    .addHelpText(
      'after',
      examples('assignment remind HYD-210/bends --check', 'assignment remind HYD-210/bends --by mail --person niamh'),
    )
    .action(
      job<RemindOptions>(async ({ client, options, show }, assignment) => {
        const { check, person, by, from, language, again } = options
        const params = { assignment }
        const { texts, ...there } = await client.call('showReminders', { params })
        if (check) return show({ ...there, texts }, (all) => showReminders(all, language))
        const body = {
          ...(person && { people: person }),
          ...(by && { by }),
          ...(again && { again }),
          text: from === undefined ? texts[language] : readText(from),
        }
        show(await client.call('remindLearners', { params, body }), showReminded)
      }),
    )
}

function showReminders({ items, texts }: Reminders, language: 'en' | 'de'): string {
  if (items.length === 0) return 'Everybody has opened it.'
  const rows = items.map((one) => [
    named(one.person),
    one.hasAddress ? 'mail or page' : 'page only',
    one.remindedAt === null ? '–' : moment(one.remindedAt),
  ])
  return `${table(['never opened by', 'can be reached by', 'reminded'], rows)}\n\n${visible(texts[language])}`
}

const names = (people: Reminded['reminded']) => visible(people.map((one) => one.fullName).join(', '))

function showReminded({ reminded, withoutAddress, passedOver }: Reminded): string {
  return [
    reminded.length === 0 ? 'Nobody was reminded.' : `Reminded: ${names(reminded)}.`,
    ...(withoutAddress.length > 0 ? [`Without an e-mail address: ${names(withoutAddress)}. Use \`--by page\` for them.`] : []),
    ...(passedOver.length > 0 ? [`Reminded less than 20 hours ago: ${names(passedOver)}. Use \`--again\` for them.`] : []),
  ].join('\n')
} // oxfmt-ignore

interface WriteOptions {
  group?: string
  person?: string[]
  subject?: string
  from: string
  by?: 'mail' | 'page'
}

/** `assignment write`: the same text to several learners. */
export function addWriteCommand(assignment: Command): void {
  assignment
    .command('write <assignment>')
    .description('writes the same to learners: those of a group as in `score standing`, or some by name')
    .addOption(new Option('--group <group>').choices(GROUPS))
    .option('--person <person>', 'one of them; repeat', collect)
    .option('--subject <text>', 'the assignment’s title unless given')
    .requiredOption('--from <file>', 'the text; - for standard input')
    .addOption(new Option('--by <way>', 'page: on their own pages').choices(['mail', 'page']))
    .addHelpText(
      'after',
      examples(
        'assignment write HYD-210/bends --group opened --from note.txt',
        'assignment write WKR-115/first-watch --person paora --from - --by mail',
      ),
    )
    .action(
      job<WriteOptions>(async ({ client, options, show }, assignment) => {
        const { group, person, subject, from, by } = options
        if ((group === undefined) === (person === undefined))
          throw new Failure('Say to whom.', EXIT.usage, 'Give either --group or --person.')
        const standing = await client.call('showStanding', { params: { assignment } })
        const people = person ?? learnersIn(group!, standing).map((one) => one.person.id)
        if (people.length === 0) throw new Failure('There is nobody in this group.', EXIT.refused, 'See who is where with `bathyscribe score standing ASSIGNMENT`.') // oxfmt-ignore
        const body = { people, subject: subject ?? standing.assignment.title, text: readText(from), ...(by && { by }) }
        show(await client.call('writeToLearners', { params: { assignment }, body }), ({ written, withoutAddress }) =>
          [
            `Written to ${names(written) || 'nobody'}.`,
            ...(withoutAddress.length > 0 ? [`Without an e-mail address: ${names(withoutAddress)}.`] : []),
          ].join('\n'),
        )
      }),
    )
}
