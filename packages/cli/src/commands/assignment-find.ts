import type { Command } from 'commander'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { shortName, state, table, visible } from '../terminal/output.js'

/** `assignment find`: by a part of the title, over all courses. */
export function addFindCommand(assignment: Command): void {
  assignment
    .command('find <words>')
    .description('finds assignments by a part of their title, in all courses that you are in')
    .option('--limit <n>', 'rows at most, 1 to 200', wholeNumber)
    .addHelpText('after', examples('assignment find bends', 'assignment find "first watch" --json'))
    .action(
      job<{ limit?: number }>(async ({ client, options, show }, words) =>
        show(await client.call('findAssignments', { query: { search: words, limit: options.limit } }), ({ items }) =>
          items.length === 0
            ? 'No assignment is called so.'
            : table(
                ['assignment', 'title', 'tool', ''],
                items.map((one) => [
                  shortName(one.course, one),
                  visible(one.title),
                  visible(one.toolName),
                  state(one.state),
                ]),
              ),
        ),
      ),
    )
}
