import type { CallAnswer } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, optionsOf, show } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, table } from '../terminal/output.js'
import type { Resealed } from '@bathyscribe/service/upkeep'
import { terminal } from '../terminal/terminal.js'

/** The service's own package is loaded only here: every other command speaks to the API. */
export function addServiceCommands(program: Command): void {
  const service = program.command('service').description('runs the service itself')

  service
    .command('run')
    .description('runs the service until it is told to stop')
    .option('--config <file>', 'configuration file (JSON); the environment goes over it')
    .addHelpText('after', examples('service run --config /etc/bathyscribe/settings.json', 'service run'))
    .action(async (options: { config?: string }) => {
      const { runService } = await import('@bathyscribe/service')
      await explainFaults(() =>
        runService(options.config, terminal().environment, (line) => terminal().print(`${line}\n`)),
      )
    })

  addKeyCommands(service)

  service
    .command('reseal')
    .description('seals every secret under a new key of the key file, as after a copy of it went astray')
    .option('--config <file>', 'configuration file (JSON); the environment goes over it')
    .option('--forget-old', 'adds no key, but takes the earlier ones out, once every process was restarted')
    .option('--yes', 'does not ask')
    .addHelpText(
      'after',
      examples('service reseal --config /etc/bathyscribe/settings.json', 'service reseal --forget-old --yes'),
    )
    .action(async (options: { config?: string; forgetOld?: true; yes?: true }, command: Command) => {
      if (options.forgetOld && !options.yes)
        await requireConsent(
          'A process that was not restarted since the last `service reseal` may lose what it seals from now on. Was every one restarted?',
          'No key was taken out.',
          'Add --yes to take them out without being asked.',
        )
      const { readSettings, resealSecrets } = await import('@bathyscribe/service/upkeep')
      const done = await explainFaults(async () =>
        resealSecrets(readSettings(options.config, terminal().environment), { forget: options.forgetOld ?? false }),
      )
      show(optionsOf(command), done, resealedInWords)
    })

  service
    .command('migrate')
    .description('brings the records up to date, and makes the key file if there is none')
    .option('--config <file>', 'configuration file (JSON); the environment goes over it')
    .addHelpText('after', examples('service migrate --config /etc/bathyscribe/settings.json', 'service migrate --json'))
    .action(async (options: { config?: string }, command: Command) => {
      const { migrateRecords, readSettings } = await import('@bathyscribe/service/upkeep')
      const done = await explainFaults(async () => migrateRecords(readSettings(options.config, terminal().environment)))
      show(optionsOf(command), { migrations: done }, () =>
        done.length > 0 ? `Done: ${done.join(', ')}.` : 'The records are up to date.',
      )
    })

  service
    .command('settings')
    .description('lists every setting with its environment variable and meaning')
    .addHelpText('after', examples('service settings', 'service settings --json'))
    .action(async (_: unknown, command: Command) => {
      const { environmentName, Settings } = await import('@bathyscribe/service/upkeep')
      const rows = Object.entries(Settings.shape).map(([key, schema]) => ({
        key,
        environment: environmentName(key),
        meaning: schema.description ?? '',
      }))
      show(optionsOf(command), rows, (all) =>
        table(
          ['setting', 'environment', 'meaning'],
          all.map((row) => [row.key, row.environment, row.meaning]),
        ),
      )
    })
}

function resealedInWords({ newKey, sealedAnew, forgotten }: Resealed): string {
  const rows = Object.entries(sealedAnew).map(([column, n]) => [column, String(n)])
  const what = rows.length > 0 ? table(['where', 'resealed'], rows) : 'Nothing was sealed under an earlier key.'
  const next =
    newKey !== null
      ? `New key ${newKey}. Back the key file up, restart every process, then run \`bathyscribe service reseal --forget-old\`.`
      : forgotten.length > 0
        ? `Taken out of the key file: ${forgotten.join(', ')}.`
        : 'The key file holds no earlier key that could go; the first one stays, because result identifiers depend on it.'
  return `${what}\n\n${next}`
}

/** The platform's own keys are the service's, but they are turned over through the API like everything else. */
function addKeyCommands(service: Command): void {
  const showAll = (all: PlatformKeys) =>
    table(
      ['key', 'state', 'made', 'current since', 'published until', 'uses', 'last use'],
      all.keys.map((one) => [
        one.kid.slice(0, 16),
        one.state,
        moment(one.madeAt),
        moment(one.currentSince),
        one.state === 'previous' ? moment(one.endsAt) : '–',
        String(one.uses),
        moment(one.lastUsedAt),
      ]),
    ) + `\n\nKeyset: ${all.keysetAddress}`
  service
    .command('keys')
    .description('lists the platform’s own keys with their use')
    .addHelpText('after', examples('service keys', 'service keys --json'))
    .action(job(async ({ client, show: print }) => print(await client.call('listPlatformKeys', {}), showAll)))
  service
    .command('rotate-keys')
    .description('goes on to the next key and makes another; tools notice nothing')
    .option('--reason <text>', 'kept in the audit log')
    .addHelpText('after', examples('service rotate-keys', 'service rotate-keys --reason "yearly turn"'))
    .action(
      job<{ reason?: string }>(async ({ client, options, show: print }) =>
        print(await client.call('rotatePlatformKeys', { body: { reason: options.reason ?? '' } }), showAll),
      ),
    )
  service
    .command('end-keys')
    .description('ends all of the platform’s own keys at once and makes new ones, as after a theft')
    .option('--reason <text>', 'kept in the audit log')
    .option('--yes', 'does not ask')
    .addHelpText('after', examples('service end-keys --reason "backup lost"', 'service end-keys --yes'))
    .action(
      job<{ reason?: string; yes?: true }>(async ({ client, options, show: print }) => {
        const question =
          'Every token that was granted ends now, and tools that keep our keyset refuse launches until they read it again. Go on?'
        if (!options.yes)
          await requireConsent(question, 'No key was ended.', 'Add --yes to end them without being asked.')
        print(await client.call('endPlatformKeys', { body: { reason: options.reason ?? '' } }), showAll)
      }),
    )
}
type PlatformKeys = CallAnswer<'listPlatformKeys'>

async function explainFaults<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run()
  } catch (error) {
    const { SettingsFault } = await import('@bathyscribe/service/upkeep')
    if (error instanceof SettingsFault)
      throw new Failure(
        `${error.message}\n${error.faults.map((fault) => `  ${fault.path}: ${fault.message}`).join('\n')}`,
        EXIT.usage,
        'Fix every fault, then start again. `bathyscribe service settings` lists what can be set.',
      )
    throw new Failure((error as Error).message, EXIT.refused)
  }
}
