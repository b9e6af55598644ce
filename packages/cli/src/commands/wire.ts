import { WIRE_KINDS, type CallAnswer } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { addCausesCommand, showVerdicts } from './wire-causes.js'
import { addExplainCommand, showDiagnosis } from './wire-explain.js'
import { addStoryCommands } from './wire-story.js'
import { examples, job, more, paged } from '../terminal/command.js'
import { milliseconds, moment, pairs, paint, state, table, visible } from '../terminal/output.js'

const OUTCOMES = ['accepted', 'refused', 'failed'] as const

function showEntry(one: CallAnswer<'showWireEntry'>): string {
  const { request, response, diagnosis, explained, verdicts } = one
  const parts = [
    pairs([
      ['wire entry', `${one.id}, ${moment(one.at)}, ${milliseconds(one.durationMs)}`],
      ['what', `${one.direction} ${one.kind}: ${state(one.outcome)}${one.code ? ` ${paint('quiet', one.code)}` : ''}`],
      ['statement', visible(one.statement)],
      ['tool', visible(one.tool?.name ?? '–')],
      ['assignment', one.assignment ? `${one.course?.code ?? ''} ${visible(one.assignment.title)}` : '–'],
      ['person', visible(one.person?.fullName ?? '–')],
    ]),
    `\n${request.method} ${visible(request.url)}`,
  ]
  if (request.headers) parts.push(pairs(Object.entries(request.headers).map(([name, value]) => [name, visible(value)])))
  if (request.parameters) parts.push(pairs(request.parameters.map(([name, value]) => [name, visible(value)])))
  if (request.body) parts.push('', visible(request.body))
  if (response) {
    parts.push(`\nanswer ${response.status}`)
    if (response.steps && response.steps.length > 1)
      parts.push(
        table(
          ['', 'address', 'answer', ''],
          response.steps.map((step) => [
            step.method,
            visible(step.url),
            String(step.status),
            milliseconds(step.durationMs),
          ]),
        ),
      )
    if (response.body) parts.push(visible(response.body.slice(0, 4000)))
  }
  if (diagnosis)
    parts.push(
      `\n${paint('strong', diagnosis.sentence)}${diagnosis.detail ? ` (${visible(diagnosis.detail)})` : ''}\n→ ${diagnosis.hint}`,
    )
  if (explained) parts.push('', showDiagnosis(explained))
  if (verdicts.length > 0) parts.push('', showVerdicts(verdicts))
  return parts.join('\n')
}

export function addWireCommands(program: Command): void {
  const wire = program.command('wire').description('every message as it crossed the wire, secrets masked')

  paged(wire.command('list').description('lists wire entries, newest first'))
    .option('--tool <tool>')
    .option('--course <course>')
    .option('--assignment <assignment>')
    .option('--person <person>')
    .addOption(new Option('--kind <kind>').choices(WIRE_KINDS))
    .addOption(new Option('--outcome <outcome>').choices(OUTCOMES))
    .option('--search <text>', 'any identifier that crossed the wire, or a part of code or statement')
    .addHelpText(
      'after',
      examples('wire list --outcome refused', 'wire list --course HYD-210 --kind outcome --limit 20'),
    )
    .action(
      job<{
        limit?: number
        cursor?: string
        tool?: string
        course?: string
        assignment?: string
        person?: string
        kind?: (typeof WIRE_KINDS)[number]
        outcome?: (typeof OUTCOMES)[number]
        search?: string
      }>(async ({ client, options, show }) => {
        const { limit, cursor, tool, course, assignment, person, kind, outcome, search } = options
        show(
          await client.call('listWire', {
            query: { limit, cursor, tool, course, assignment, person, kind, outcome, search },
          }),
          ({ items, next }) =>
            table(
              ['entry', 'when', 'what', '', 'course', 'assignment', 'person', 'statement'],
              items.map((one) => [
                one.id,
                moment(one.at),
                one.kind,
                state(one.outcome),
                one.course?.code ?? '–',
                visible(one.assignment?.title ?? '–'),
                visible(one.person?.fullName ?? '–'),
                visible(one.statement.slice(0, 90)),
              ]),
            ) + more(next),
        )
      }),
    )

  wire
    .command('show <entry>')
    .description('shows a message with all its parameters and what it means')
    .addHelpText('after', examples('wire show 42', 'wire show 42 --json'))
    .action(
      job(async ({ client, show }, entry) =>
        show(await client.call('showWireEntry', { params: { entry: entry } }), showEntry),
      ),
    )

  addExplainCommand(wire)
  addCausesCommand(wire)
  addStoryCommands(wire)
}
