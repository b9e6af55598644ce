import { requestsOnly, type Diagnosis, type ExplainedMessage, type ExplainedOne } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { moment, pairs, paint, table, visible } from '../terminal/output.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { readText } from '../terminal/secrets.js'
import { judge, type Judged } from './wire-causes.js'

/** What explains a refused message: sentence, evidence, what to change where. */
export function showDiagnosis(found: Diagnosis): string {
  const lines = [paint('strong', visible(found.sentence))]
  if (found.certainty === 'likely') lines.push(paint('quiet', 'Likely, not proven.'))
  if (found.doubt) lines.push(visible(found.doubt))
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
  const all: ExplainedOne[] = [one, ...one.also]
  if (all.length === 1) return showOne(one)
  return all
    .map((each, n) => `${paint('strong', `Message ${n + 1} of ${all.length}`)}\n\n${showOne(each)}`)
    .join('\n\n')
}

function showOne(one: ExplainedOne): string {
  const blocks = [visible(one.what)]
  if (one.takenFor) blocks.push(paint('quiet', `Taken for ${visible(one.takenFor)}.`))
  if (one.entry) blocks.push(paint('quiet', `It ${one.entry.direction === 'sent' ? 'was sent' : 'came'} as wire entry ${one.entry.id}, ${moment(one.entry.at)}.`)) // oxfmt-ignore
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

/** A letter for each message that has one; else why there is none. */
function lettersOf(one: ExplainedMessage, language: 'en' | 'de'): string {
  const letters = [one, ...one.also].flatMap(({ diagnosis }) => diagnosis?.letters[language] ?? [])
  return letters.length > 0 ? letters.join('\n\n') : one.what
}

interface Asked extends Judged {
  address?: string
  letter?: boolean
  language: 'en' | 'de'
}

export function addExplainCommand(wire: Command): void {
  wire
    .command('explain [file]')
    .description(
      'says what a message is, and what is wrong with it: a base string, token, form post, HAR file, curl command or lines of a log; reads a file or what is piped in',
    )
    .option('--address <url>', 'where a form post was sent, when it does not say so itself')
    .addOption(
      new Option('--right <entry>', 'says that what explains a wire entry was right').conflicts(['wrong', 'takeBack']),
    )
    .addOption(
      new Option('--wrong <entry>', 'says that it was wrong; or, where nothing was told, what it was').conflicts(
        'takeBack',
      ),
    )
    .option('--take-back <entry>', 'takes back what was said of a wire entry')
    .option('--cause <code>', 'which of several causes was right or wrong; all of them unless said')
    .option('--was <code>', 'what it was instead, where that is known')
    .option('--letter', 'prints a text for the tool’s support in place of the rest')
    .addOption(new Option('--language <code>', 'of that text').choices(['en', 'de']).default('en'))
    .addHelpText('after', examples('wire explain launch.har', 'wire explain --wrong 42 --was other_scheme'))
    .action(
      job<Asked>(async ({ client, options, show }, file) => {
        if (options.right !== undefined || options.wrong !== undefined || options.takeBack !== undefined) {
          if (file !== undefined)
            throw new Failure(
              'A text is explained, or something is said of a wire entry.',
              EXIT.usage,
              'Leave one of them out.',
            )
          return judge(client, options, show)
        }
        if (options.cause !== undefined || options.was !== undefined)
          throw new Failure(
            '`--cause` and `--was` say more of a verdict.',
            EXIT.usage,
            'Add `--right ENTRY` or `--wrong ENTRY`.',
          )
        const explained = await client.call('explainMessage', {
          body: { text: requestsOnly(readText(file ?? '-')), ...(options.address && { address: options.address }) },
        })
        show(explained, (one) => (options.letter ? lettersOf(one, options.language) : showExplained(one)))
      }),
    )
}
