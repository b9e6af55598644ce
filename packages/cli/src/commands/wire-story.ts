import { changeInWords, WireStory, type ProofChange } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { milliseconds, moment, paint, state, table, visible } from '../terminal/output.js'
import { writeOut } from '../terminal/out-file.js'
import { readText } from '../terminal/secrets.js'
import { showDiagnosis } from './wire-explain.js'

function tell({ entries, about, platform, madeAt }: WireStory): string {
  const start = Date.parse(entries[0]?.at ?? madeAt)
  const first = entries[0]
  const head = first
    ? `${visible(first.tool?.name ?? 'an unknown tool')}, ${first.course?.code ?? ''} ${visible(first.assignment?.title ?? '')}, ${visible(first.person?.fullName ?? 'nobody named')}, ${moment(first.at)} (${visible(platform)})`
    : 'Nothing.'
  const rows = entries.map((one) => [
    `+${((Date.parse(one.at) - start) / 1000).toFixed(1)} s`,
    one.id === about ? paint('strong', one.id) : one.id,
    `${one.direction === 'sent' ? '→' : '←'} ${one.kind}`,
    state(one.outcome),
    milliseconds(one.durationMs),
    `${one.certain ? '' : paint('quiet', '(same time) ')}${visible(one.statement.slice(0, 110))}`,
  ])
  const explained = entries.flatMap((one) =>
    one.explained ? [`\nWire entry ${one.id}: ${showDiagnosis(one.explained)}`] : [],
  )
  return [head, table(['after', 'entry', 'what', '', 'took', 'statement'], rows), ...explained].join('\n')
}

/** What was changed here in the meantime: a message may say the same and yet be signed with another secret. */
function between(changes: readonly ProofChange[]): string {
  return changes.map((one) => `\n${changeInWords(one, 'then')} ${moment(one.at)}`).join('')
}

export function addStoryCommands(wire: Command): void {
  wire
    .command('story <entry>')
    .description(
      'tells the launch that an entry belongs to: login, form, what came back; or a file of one, with --file',
    )
    .option('--file', 'the argument is a file that was exported')
    .addHelpText('after', examples('wire story 42', 'wire story --file launch.json'))
    .action(
      job<{ file?: boolean }>(async ({ client, options, show }, given) =>
        show(options.file ? read(given) : await client.call('showWireStory', { params: { entry: given } }), tell),
      ),
    )
  wire
    .command('difference <entry>')
    .description('shows how a message differs from the last good one of the same kind and link')
    .addHelpText('after', examples('wire difference 42', 'wire difference 42 --json'))
    .action(
      job(async ({ client, show }, entry) =>
        show(await client.call('showWireDifference', { params: { entry } }), ({ good, differences, changes }) =>
          good === null
            ? 'No message of this kind was good before.'
            : differences.length === 0
              ? `It says the same as wire entry ${good.id}, ${moment(good.at)}.${between(changes)}`
              : `Against wire entry ${good.id}, ${moment(good.at)}:\n${table(
                  ['part', 'then', 'now'],
                  differences.map((one) => [visible(one.part), visible(one.then), visible(one.now)]),
                )}${between(changes)}`,
        ),
      ),
    )
  wire
    .command('export <entry> <file>')
    .description('writes the launch that an entry belongs to as a file for support; secrets are masked; - prints it')
    .addHelpText('after', examples('wire export 42 launch.json', 'wire export 42 /tmp/launch.json --quiet'))
    .action(
      job(async ({ client, show }, entry, file) => {
        const story = await client.call('showWireStory', { params: { entry: entry } })
        if (!writeOut(file, `${JSON.stringify(story, null, 2)}\n`)) return
        show(
          { file, entries: story.entries.length },
          (one) => `${one.entries} ${one.entries === 1 ? 'message' : 'messages'} written to ${one.file}.`,
        )
      }),
    )
}

function read(file: string): WireStory {
  const text = readText(file)
  try {
    return WireStory.parse(JSON.parse(text))
  } catch {
    throw new Failure(`“${file}” is no story of wire entries.`, EXIT.refused, 'Name a file that `wire export` wrote.')
  }
}
