import type { MailDigest } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { moment, paint, visible } from '../terminal/output.js'

function say(digest: MailDigest): string {
  if (!digest.on) return 'This service sends no mail: no mail server is set.'
  const lines =
    digest.every === 'never'
      ? ['You are mailed nothing.']
      : [
          `Every ${digest.every} to ${visible(digest.to ?? '–')}, when something new needs you; next look ${moment(digest.nextAt)}.`,
        ]
  if (digest.sentAt) lines.push(paint('quiet', `Last sent ${moment(digest.sentAt)}.`))
  if (digest.failure) lines.push(`${paint('bad', '✕')} The mail server said: ${visible(digest.failure)}`)
  return lines.join('\n')
}

export function addMailCommand(person: Command): void {
  person
    .command('mail')
    .description('says or sets how often you are mailed what needs you')
    .addOption(new Option('--every <time>', 'when something new needs you').choices(['never', 'day', 'week']))
    .option('--now', 'mails it now')
    .addHelpText('after', examples('person mail --every day', 'person mail --now'))
    .action(
      job<{ every?: 'never' | 'day' | 'week'; now?: boolean }>(async ({ client, options, show }) => {
        let digest = await (options.every
          ? client.call('changeMailDigest', { body: { every: options.every } })
          : client.call('showMailDigest', {}))
        if (options.now) digest = await client.call('sendMailDigest', {})
        show(digest, say)
      }),
    )
}
