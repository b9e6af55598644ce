import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { moment, paint, table, visible } from '../terminal/output.js'

/** Tools that were let into courses by consent. */
export function addConnectionCommands(tool: Command): void {
  tool
    .command('connections [tool]')
    .description('connected tools: who let them into which courses, and when they last came')
    .addHelpText('after', examples('tool connections', 'tool connections tally-bench --json'))
    .action(
      job(async ({ client, show }, ref?: string) =>
        show(await client.call('listConnections', { query: ref ? { tool: ref } : {} }), ({ items }) =>
          items.length === 0
            ? 'No tool is connected.'
            : table(
                ['connection', 'tool', 'courses', 'by', 'since', 'last came', 'state'],
                items.map((one) => [
                  one.id,
                  visible(one.tool.name),
                  one.courses.map((course) => course.code).join(', '),
                  visible(one.person.fullName),
                  moment(one.madeAt),
                  moment(one.lastUsedAt),
                  one.revokedBy === null ? paint('good', 'open') : paint('quiet', `ended by ${one.revokedBy}`),
                ]),
              ),
        ),
      ),
    )
  tool
    .command('disconnect <connection>')
    .description('takes a connection back, at once; columns and scores stay')
    .addHelpText('after', examples('tool disconnect 4k2m9x7p1qzd', 'tool disconnect 4k2m9x7p1qzd --quiet'))
    .action(
      job(async ({ client, show }, id) => {
        await client.call('revokeConnection', { params: { id } })
        show({ disconnected: id }, () => 'The tool no longer has access there.')
      }),
    )
}
