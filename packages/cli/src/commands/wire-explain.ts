import type { Diagnosis, ExplainedMessage } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { moment, pairs, paint, table, visible } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'

/** What explains a refused message: sentence, evidence, what to change where. */
export function showDiagnosis(found: Diagnosis): string {
  const lines = [paint('strong', visible(found.sentence))]
  if (found.certainty === 'likely') lines.push(paint('quiet', 'Likely, not proven.'))
  for (const cause of found.causes) {
    if (found.causes.length > 1) lines.push('', visible(cause.sentence))
    lines.push(pairs(cause.evidence.map(([name, value]) => [visible(name), visible(value)])))
    if (cause.ours) lines.push(`→ here: ${visible(cause.ours)}`)
    if (cause.theirs) lines.push(`→ at the tool’s end: ${visible(cause.theirs)}`)
  }
  if (found.certainty !== 'proven' && found.ruledOut.length > 0)
    lines.push(paint('quiet', `Tried and ruled out: ${found.ruledOut.join('; ')}.`))
  return lines.join('\n')
}

function showExplained(one: ExplainedMessage): string {
  const blocks = [visible(one.what)]
  if (one.entry) blocks.push(paint('quiet', `Ours is wire entry ${one.entry.id}, ${moment(one.entry.at)}.`))
  if (one.differences.length > 0)
    blocks.push(
      table(
        ['differs', 'theirs', 'ours'],
        one.differences.map(({ part, theirs, ours }) => [visible(part), visible(theirs), visible(ours)]),
      ),
    )
  if (one.diagnosis) blocks.push(showDiagnosis(one.diagnosis))
  for (const { title, rows } of one.parts)
    blocks.push(`${paint('strong', title)}\n${pairs(rows.map(([name, value]) => [visible(name), visible(value)]))}`)
  return blocks.join('\n\n')
}

export function addExplainCommand(wire: Command): void {
  wire
    .command('explain [file]')
    .description(
      'says what a base string, form post or token is, and what is wrong with it; reads a file or what is piped in',
    )
    .option('--address <url>', 'where a form post was sent, when it does not say so itself')
    .option('--letter', 'prints a text for the tool’s support in place of the rest')
    .addHelpText(
      'after',
      examples('wire explain base-string.txt', 'wire explain form.txt --address https://tool.example/launch'),
    )
    .action(
      job<{ address?: string; letter?: boolean }>(async ({ client, options, show }, file) => {
        const explained = await client.call('explainMessage', {
          body: { text: readText(file ?? '-'), ...(options.address && { address: options.address }) },
        })
        show(explained, (one) => (options.letter ? (one.diagnosis?.letter ?? one.what) : showExplained(one)))
      }),
    )
}
