import { Option, type Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { CheckFailed } from '../terminal/failure.js'
import { milliseconds, paint, state, table, visible } from '../terminal/output.js'

export function addLaunchCommands(program: Command): void {
  program
    .command('launch')
    .description('launches')
    .command('try <assignment>')
    .description('launches by the service itself and says what the tool answered; exits 1 when it was refused')
    .addOption(new Option('--as <role>').choices(['instructor', 'learner', 'test_learner']).default('test_learner'))
    .option('--person <person>', 'the learner, with --as learner')
    .addHelpText(
      'after',
      examples(
        'launch try HYD-210/soundings-and-datum --as instructor',
        'launch try HYD-210/soundings-and-datum --as learner --person aino',
      ),
    )
    .action(
      job<{ as: 'instructor' | 'learner' | 'test_learner'; person?: string }>(
        async ({ client, options, show }, ref) => {
          const tried = await client.call('tryLaunch', {
            params: { assignment: ref },
            body: { as: options.as, ...(options.person && { person: options.person }) },
          })
          show(tried, (one) =>
            [
              table(
                ['', 'address', 'answer', ''],
                one.steps.map((step) => [
                  step.method,
                  visible(step.url),
                  String(step.status),
                  milliseconds(step.durationMs),
                ]),
              ),
              `${state(one.accepted ? 'accepted' : 'refused')}: ${visible(one.statement)}`,
              ...(one.excerpt ? [paint('quiet', `“${visible(one.excerpt.slice(0, 200))}”`)] : []),
              paint('quiet', `wire entry ${one.wireEntryId}`),
            ].join('\n'),
          )
          if (!tried.accepted) throw new CheckFailed()
        },
      ),
    )
}
