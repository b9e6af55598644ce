import type { CallAnswer } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { serviceUrl } from '../terminal/connect.js'
import { requireConsent } from '../terminal/confirm.js'
import { examples, job } from '../terminal/command.js'
import { moment, paint, state, table, visible } from '../terminal/output.js'

function showRehearsal({ testLearner, traces, items }: CallAnswer<'showRehearsal'>): string {
  const rows = items.map((one) => [
    visible(one.assignment.title),
    visible(one.tool.name),
    state(one.state),
    String(one.launches),
    moment(one.lastAt),
    one.points === null ? '–' : `${one.points} of ${one.outOf}`,
    one.refusesTestLearners ? paint('look', 'takes no test learners: sound it with a pilot') : '',
  ])
  return [
    `${visible(testLearner.fullName)} has left ${traces} ${traces === 1 ? 'trace' : 'traces'} here; none of it affects anybody.`,
    items.length === 0
      ? 'The course has no assignments yet.'
      : table(['assignment', 'tool', '', 'opened', 'last', 'result', ''], rows),
  ].join('\n')
}

/** A course as its test learner has it: what was opened, what came of it, and how to begin again. */
export function addRehearseCommands(program: Command): void {
  const rehearse = program
    .command('rehearse')
    .description('a course as its test learner meets it; nothing of it touches real learners’ numbers')

  rehearse
    .command('show <course>')
    .description('shows what the test learner has opened, and what came of it')
    .addHelpText('after', examples('rehearse show HYD-210', 'rehearse show HYD-210 --json'))
    .action(
      job(async ({ client, show }, course) =>
        show(await client.call('showRehearsal', { params: { course } }), showRehearsal),
      ),
    )

  rehearse
    .command('open <assignment>')
    .description('prints the address at which a browser opens an assignment as the test learner')
    .addHelpText(
      'after',
      examples('rehearse open HYD-210/soundings-and-datum', 'rehearse open HYD-210/soundings-and-datum --json'),
    )
    .action(
      job(async ({ client, options, show }, ref) => {
        const one = await client.call('showAssignment', { params: { assignment: ref } })
        const address = `${serviceUrl(options)}/courses/${one.course.id}/assignments/${one.id}/work?as=test_learner`
        show({ address, assignment: one.id }, () => address)
      }),
    )

  rehearse
    .command('clear <course>')
    .description('clears what the test learner left in a course; the trail keeps it, but it is not used')
    .option('--yes', 'does not ask first')
    .addHelpText('after', examples('rehearse clear HYD-210', 'rehearse clear HYD-210 --yes'))
    .action(
      job<{ yes?: boolean }>(async ({ client, options, show }, course) => {
        const { testLearner, traces } = await client.call('showRehearsal', { params: { course } })
        const question = `Clear ${traces} traces of ${visible(testLearner.fullName)}?`
        if (!options.yes)
          await requireConsent(question, 'Nothing was cleared.', 'Add --yes to do it without being asked.')
        show(await client.call('clearTestLearner', { params: { course } }), ({ visits, scores }) =>
          visits + scores === 0
            ? 'There was nothing to clear.'
            : `${visits} ${visits === 1 ? 'visit' : 'visits'} cleared, ${scores} ${scores === 1 ? 'score' : 'scores'} set aside.`,
        )
      }),
    )
}
