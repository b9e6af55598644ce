import type { Replacement, ReplacementPreview } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, state, table, visible } from '../terminal/output.js'
import { showTool } from './tool-show.js'
import { terminal } from '../terminal/terminal.js'

/** Moving links from one registration to another: looked at first, a course at a time if wanted, and taken back. */
export function addReplaceCommands(tool: Command): void {
  tool
    .command('replace <tool> <other>')
    .description('moves every link to another registration and retires this one; scores stay, and it can be taken back')
    .option('--course <course>', 'moves only the links of this course, and retires nothing')
    .option('--check', 'only says what would move, and what speaks against it')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples(
        'tool replace knotwork-drills-spare-key knotwork-drills --check',
        'tool replace knotwork-drills-spare-key knotwork-drills --course HYD-210 --yes',
      ),
    )
    .action(
      job<{ course?: string; check?: boolean; yes?: boolean }>(async ({ client, options, show }, ref, other) => {
        const call = { params: { tool: ref }, body: { with: other, ...(options.course && { course: options.course }) } }
        if (options.check) return show(await client.call('previewReplacement', call), showPreview)
        if (!options.yes) {
          terminal().say(`${showPreview(await client.call('previewReplacement', call))}\n`)
          await requireConsent(
            `Move them to ${other}?`,
            'Nothing was moved.',
            'Add --yes to move them without being asked.',
          )
        }
        show(
          await client.call('replaceTool', call),
          (one) => `${showTool(one)}\n\nTake it back with: bathyscribe tool unreplace ${ref}`,
        )
      }),
    )

  tool
    .command('replacements <tool>')
    .description('lists what was moved to or from a registration, newest first')
    .addHelpText('after', examples('tool replacements knotwork-drills', 'tool replacements knotwork-drills --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listReplacements', { params: { tool: ref } }), ({ items }) =>
          items.length === 0 ? 'Nothing was moved to or from it.' : showReplacements(items),
        ),
      ),
    )

  tool
    .command('unreplace <tool> [replacement]')
    .description('takes a replacement back: the last one unless it is named; links that were moved on since stay')
    .addHelpText(
      'after',
      examples('tool unreplace knotwork-drills-spare-key', 'tool unreplace knotwork-drills-spare-key 4k2m9x7p1qzd'),
    )
    .action(
      job(async ({ client, show }, ref, named: string | undefined) => {
        const { items } = await client.call('listReplacements', { params: { tool: ref } })
        const id = named ?? items.find((one) => one.undoneAt === null)?.id
        if (id === undefined)
          throw new Failure(
            'There is no replacement to take back.',
            EXIT.refused,
            `See \`bathyscribe tool replacements ${ref}\`.`,
          )
        show(
          await client.call('undoReplacement', { params: { tool: ref, id } }),
          (one) => `Taken back. “${visible(one.from.name)}” is ${one.from.state}; everything has to be proven again.`,
        )
      }),
    )
}

function showPreview({ courses, remarks, retires }: ReplacementPreview): string {
  const rows = courses.map((one) => [
    `${one.course.code} ${visible(one.course.title)}`,
    `${one.assignments} (${one.published} published)`,
    String(one.menuEntries),
    String(one.unitItems),
    String(one.results),
  ])
  return [
    courses.length === 0
      ? 'No link would move.'
      : table(['course', 'assignments', 'menu entries', 'unit items', 'results that stay'], rows),
    ...remarks.map((one) => `${state(one.verdict)}  ${visible(one.statement)}`),
    retires ? 'The registration would be retired.' : 'The registration would stay as it is.',
  ].join('\n')
}

function showReplacements(items: readonly Replacement[]): string {
  return table(
    ['replacement', 'when', 'from', 'to', 'course', 'links', 'still there', 'by', ''],
    items.map((one) => [
      one.id,
      moment(one.at),
      one.from.slug,
      one.to.slug,
      one.course?.code ?? 'all',
      String(one.links),
      String(one.still),
      visible(one.by ?? '–'),
      one.undoneAt === null ? '' : `taken back ${moment(one.undoneAt)}`,
    ]),
  )
}
