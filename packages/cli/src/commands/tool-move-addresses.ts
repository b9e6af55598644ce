import { ADDRESS_WORDS, type AddressMovePreview, type MovedAddresses } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, state, table, visible } from '../terminal/output.js'
import { terminal } from '../terminal/terminal.js'

interface Options {
  from: string
  to: string
  course?: string
  check?: boolean
  yes?: boolean
}

/** When a tool's domain moves: its addresses and those of its links follow, looked at first, and taken back. */
export function addMoveAddressesCommands(tool: Command): void {
  tool
    .command('move-addresses <tool>')
    .description('moves the addresses of a tool and its links that begin alike, as when its domain moved')
    .requiredOption('--from <address>', 'what they begin with now')
    .requiredOption('--to <address>', 'what they are to begin with')
    .option('--course <course>', 'moves only the links of this course; the registration stays')
    .option('--check', 'only says which addresses would move')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples(
        'tool move-addresses knotwork-drills --from https://drills.example --to https://knots.example/drills --check',
        'tool move-addresses knotwork-drills --from https://drills.example --to https://knots.example/drills --course HYD-210 --yes',
      ),
    )
    .action(
      job<Options>(async ({ client, options, show }, ref) => {
        const { from, to, course } = options
        const call = { params: { tool: ref }, body: { from, to, ...(course && { course }) } }
        if (options.check) return show(await client.call('previewAddressMove', call), showPreview)
        if (!options.yes) {
          terminal().say(`${showPreview(await client.call('previewAddressMove', call))}\n`)
          await requireConsent('Move them?', 'Nothing was moved.', 'Add --yes to move them without being asked.')
        }
        show(await client.call('moveAddresses', call), (one) =>
          [
            `Moved ${addresses(one.addresses)} of links${one.course ? ` in ${one.course.code}` : ', and those of the registration'}.`,
            'What was proven at the old ones has to be proven again: `bathyscribe sounding sweep`.',
            `Take it back with: bathyscribe tool unmove-addresses ${ref}`,
          ].join('\n'),
        )
      }),
    )

  tool
    .command('address-moves <tool>')
    .description('lists moves of a tool’s addresses, newest first')
    .addHelpText('after', examples('tool address-moves knotwork-drills', 'tool address-moves knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listAddressMoves', { params: { tool: ref } }), ({ items }) =>
          items.length === 0 ? 'Its addresses were never moved.' : showMoves(items),
        ),
      ),
    )

  tool
    .command('unmove-addresses <tool> [move]')
    .description('takes a move of addresses back: the last one unless it is named; what was changed since stays')
    .addHelpText(
      'after',
      examples('tool unmove-addresses knotwork-drills', 'tool unmove-addresses knotwork-drills 4k2m9x7p1qzd'),
    )
    .action(
      job(async ({ client, show }, ref, named: string | undefined) => {
        const { items } = await client.call('listAddressMoves', { params: { tool: ref } })
        const id = named ?? items.find((one) => one.undoneAt === null)?.id
        if (id === undefined)
          throw new Failure(
            'There is no move to take back.',
            EXIT.refused,
            `See \`bathyscribe tool address-moves ${ref}\`.`,
          )
        show(
          await client.call('undoAddressMove', { params: { tool: ref, id } }),
          (one) => `Taken back: what began with ${visible(one.to)} begins with ${visible(one.from)} again.`,
        )
      }),
    )
}

const addresses = (n: number) => `${n} address${n === 1 ? '' : 'es'}`

function showPreview({ registration, courses, links, staying, remarks, ...all }: AddressMovePreview): string {
  const pairs = [
    ...registration.map((one) => ['the registration', ADDRESS_WORDS[one.field] ?? one.field, one.before, one.after]),
    ...links.map((one) => [one.course.code, one.title, one.before, one.after]),
  ]
  const more = all.addresses - links.length
  return [
    ...(pairs.length > 0 ? [table(['where', 'what', 'now', 'then'], pairs.map((row) => row.map(visible)))] : []), // oxfmt-ignore
    ...(more > 0 ? [`… and ${more} more`] : []),
    ...(courses.length > 0 ? [`In ${courses.map((one) => `${one.course.code} ${one.addresses}`).join(', ')}.`] : []),
    ...(staying > 0 ? [`${addresses(staying)} of links ${staying === 1 ? 'begins' : 'begin'} otherwise and would stay.`] : []), // oxfmt-ignore
    ...remarks.map((one) => `${state(one.verdict)}  ${visible(one.statement)}`),
  ].join('\n')
}

function showMoves(items: readonly MovedAddresses[]): string {
  return table(
    ['move', 'when', 'from', 'to', 'course', 'addresses', 'still there', 'by', ''],
    items.map((one) => [
      one.id,
      moment(one.at),
      visible(one.from),
      visible(one.to),
      one.course?.code ?? 'all',
      String(one.addresses),
      String(one.still),
      visible(one.by ?? '–'),
      one.undoneAt === null ? '' : `taken back ${moment(one.undoneAt)}`,
    ]),
  )
}
