import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { moment, table, visible } from '../terminal/output.js'

export function addToolRostersCommand(course: Command): void {
  course
    .command('tool-rosters <course>')
    .description(
      'what each tool of a course knows of its people: whom it has not heard of, whom it still has though they left',
    )
    .addHelpText('after', examples('course tool-rosters HYD-210', 'course tool-rosters WKR-115 --json'))
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('listToolRosters', { params: { course: ref } }), ({ items }) =>
          items.length === 0
            ? 'The course has no tools.'
            : table(
                ['tool', 'roster read', 'entered', 'scored', 'not heard of', 'still has'],
                items.map((one) => [
                  visible(one.tool.name),
                  one.readAt === null ? 'never' : moment(one.readAt),
                  `${one.launched} of ${one.learners}`,
                  String(one.scored),
                  names(one.unheard),
                  names(one.keeps),
                ]),
              ),
        ),
      ),
    )
}

function names(people: readonly { fullName: string }[]): string {
  const shown = people.slice(0, 3).map((one) => visible(one.fullName))
  return people.length > 3 ? `${shown.join(', ')} … (${people.length})` : shown.join(', ') || '–'
}
