import { signInLinksCsv, type SignInLinksMade } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { requireNew, writeOwn } from '../terminal/out-file.js'
import { moment, paint, table, visible } from '../terminal/output.js'
import { terminal } from '../terminal/terminal.js'

interface InviteOptions {
  course?: string
  everyone?: boolean
  again?: boolean
  days?: number
  mail?: boolean
  out?: string
}

/** Links by which people set a password of their own. */
export function addInviteCommand(person: Command): void {
  person
    .command('invite [people...]')
    .description('makes links by which people set a password of their own; each works once')
    .option('--course <course>', 'everybody in this course')
    .option('--everyone', 'everybody who has no password yet, administrators left out')
    .option('--again', 'also those who have a password; it stays until they set another')
    .option('--days <n>', 'how long the links are good, 1 to 30; 14 unless given', wholeNumber)
    .option('--mail', 'mails them to those who have an address')
    .option('--out <file>', 'writes the links as CSV, readable by you only, instead of showing them')
    .addHelpText(
      'after',
      examples('person invite niamh oren', 'person invite --course HYD-210 --out links.csv --days 7'),
    )
    .action(async (people: string[], _: unknown, command: Command) => {
      const run = job<InviteOptions>(async ({ client, options, show }) => {
        const { course, everyone, again, days, mail, out } = options
        if ([people.length > 0, course !== undefined, everyone === true].filter(Boolean).length !== 1)
          throw new Failure('Say whom to invite.', EXIT.usage, 'Name people, or give --course COURSE or --everyone.')
        requireNew(out)
        const made = await client.call('makeSignInLinks', {
          body: {
            ...(people.length > 0 && { people }),
            ...(course && { course }),
            // Who names people means them.
            again: again ?? people.length > 0,
            ...(days !== undefined && { days }),
            mail: mail ?? false,
          },
        })
        if (out !== undefined) write(out, made)
        show(made, (one) => shown(one, out))
      })
      await run({}, command)
    })
}

function shown(made: SignInLinksMade, out: string | undefined): string {
  const { items, passedOver, more, expiresAt } = made
  const handed = items.filter((one) => one.link !== null)
  const mailed = items.length - handed.length
  const lines = [
    `${items.length} ${items.length === 1 ? 'link' : 'links'} made, good until ${moment(expiresAt)}${mailed > 0 ? `; ${mailed} go out by mail within a minute or two` : ''}.`,
    ...(passedOver.length > 0 ? [paint('quiet', `${passedOver.length} have a password and were passed over; --again makes links for them, too.`)] : []), // oxfmt-ignore
    ...(more ? [paint('look', '▲ There are more people: run it again for the rest.')] : []),
  ]
  if (out !== undefined) return [...lines, `They are written to ${out}.`].join('\n')
  if (handed.length === 0) return lines.join('\n')
  return [
    ...lines,
    table(
      ['user name', 'name', 'link'],
      handed.map((one) => [one.person.username, visible(one.person.fullName), one.link!]),
    ),
  ].join('\n')
}

/** The links are shown once, so they are shown where they cannot be written. */
function write(out: string, made: SignInLinksMade): void {
  const links = signInLinksCsv(made)
  writeOwn(out, links, () => {
    terminal().print(links)
    return 'The links are above.'
  })
}
