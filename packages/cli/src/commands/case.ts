import { CASE_ACTOR_WORDS, CASE_CERTAINTY_WORDS, type Case, type CaseEvent } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { examples, job, more, paged } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { readText } from '../terminal/secrets.js'
import { moment, named, paint, pairs, shortName, state, table, visible, zoned } from '../terminal/output.js'
import { showDiagnosis } from './wire-explain.js'

const CERTAINTY_TONES = { proven: 'good', likely: 'look', unknown: 'look' } as const
const SIGNS = { good: '●', bad: '✕', plain: '·' } as const
/** Of texts to people outside. */
export const LANGUAGES = ['en', 'de'] as const

function showEvent(one: CaseEvent): string[] {
  const said = one.text ? `\n${visible(one.text.trim().split('\n')[0]!.slice(0, 100))}` : ''
  return [
    moment(one.at),
    paint(one.tone === 'plain' ? 'quiet' : one.tone, SIGNS[one.tone]),
    (one.isCertain ? '' : `${paint('look', 'likely:')} `) + visible(one.sentence) + said,
    visible(one.by ?? ''),
    paint('quiet', one.wireEntryId ?? ''),
  ]
}

export function showCase(one: Case): string {
  const { judged, cell } = one
  const stands = cell.points === null ? state(cell.state) : `${cell.points} of ${one.outOf} points`
  return [
    pairs([
      ['learner', named(one.person)],
      ['assignment', `${visible(one.assignment.title)}, ${one.course.code}, ${visible(one.tool.name)}`],
      ['stands at', stands],
      ['case', one.state === 'none' ? 'not taken up' : `${one.state} since ${zoned(one.since!, one.course.timeZone)}`],
    ]),
    `\n${paint(CERTAINTY_TONES[judged.certainty], CASE_CERTAINTY_WORDS[judged.certainty])}: ${paint('strong', judged.sentence)}`,
    `→ ${visible(judged.act)}`,
    `  ${paint('quiet', `to act: ${CASE_ACTOR_WORDS[judged.actor]}`)}`,
    ...(one.diagnosis ? ['', showDiagnosis(one.diagnosis)] : []),
    '',
    one.events.length === 0
      ? 'Nothing has happened yet.'
      : table(['when', '', 'what', 'by', 'wire'], one.events.map(showEvent)) + (one.more ? '\n… and older ones' : ''),
  ].join('\n')
}

/** Commands about what happened between one person and one assignment. */
export function addCaseCommands(program: Command): void {
  const group = program
    .command('case')
    .description('what happened between one person and one assignment, why, and who has to act')
  addShow(group)
  addList(group)
  addStates(group)
  addWrite(group)
}

function addShow(group: Command): void {
  group
    .command('show <person> <assignment>')
    .description('shows everything that happened, what explains it, and what is to be done')
    .option('--letter <to>', 'prints the text that could be sent instead: learner or support')
    .addOption(new Option('--language <language>', 'of that text').choices(LANGUAGES).default('en'))
    .addHelpText(
      'after',
      examples('case show niamh HYD-210/depth-reduction', 'case show niamh HYD-210/bends --letter support'),
    )
    .action(
      job<{ letter?: string; language: 'en' | 'de' }>(async ({ client, options, show }, person, assignment) => {
        const one = await client.call('showCase', { params: { person, assignment } })
        const { letter, language } = options
        if (letter === undefined) return show(one, showCase)
        const letters = letter === 'support' ? one.letters.support : one.letters.learner
        show(letters?.[language] ?? null, (text) =>
          text ? `${text.subject}\n\n${visible(text.text)}`.trimEnd() : 'There is nothing to ask the tool’s support.',
        )
      }),
    )
}

function addList(group: Command): void {
  paged(group.command('list').description('lists cases of the courses that you teach, newest first'))
    .addOption(new Option('--state <state>').choices(['open', 'closed']).default('open'))
    .option('--course <course>')
    .addHelpText('after', examples('case list', 'case list --state closed --course HYD-210'))
    .action(
      job<{ limit?: number; cursor?: string; state: 'open' | 'closed'; course?: string }>(
        async ({ client, options: { limit, cursor, state: which, course }, show }) =>
          show(await client.call('listCases', { query: { limit, cursor, state: which, course } }), ({ items, next }) =>
            items.length === 0
              ? `No case is ${which}.`
              : table(
                  ['since', 'learner', 'assignment', 'tool', 'said'],
                  items.map((one) => [
                    moment(one.since),
                    named(one.person),
                    shortName(one.course, one.assignment),
                    visible(one.tool.name),
                    visible((one.said ?? '').replace(/\s+/g, ' ').slice(0, 80)),
                  ]),
                ) + more(next),
          ),
      ),
    )
}

function addStates(group: Command): void {
  for (const [name, next, what] of [
    ['open', 'open', 'takes a case up'],
    ['close', 'closed', 'closes a case; what was done is kept'],
  ] as const)
    group
      .command(`${name} <person> <assignment>`)
      .description(what)
      .option('--note <text>', 'for those who look at it later')
      .addHelpText(
        'after',
        examples(
          `case ${name} niamh HYD-210/depth-reduction`,
          `case ${name} niamh HYD-210/bends --note "Sent again by the tool’s support"`,
        ),
      )
      .action(
        job<{ note?: string }>(async ({ client, options, show }, person, assignment) => {
          const body = { state: next, ...(options.note !== undefined && { note: options.note }) }
          show(await client.call('setCaseState', { params: { person, assignment }, body }), (one) => `The case is ${one.state}.`)
        }),
      ) // oxfmt-ignore
}

interface WriteOptions {
  to: 'learner' | 'support'
  by?: 'mail' | 'page'
  address?: string
  subject?: string
  from?: string
  language: 'en' | 'de'
}

function addWrite(group: Command): void {
  group
    .command('write <person> <assignment>')
    .description('writes to the learner, or to the tool’s support; the text that is proposed, unless another is given')
    .addOption(new Option('--to <whom>').choices(['learner', 'support']).default('learner'))
    .addOption(new Option('--by <way>', 'page: on the learner’s own pages').choices(['mail', 'page']))
    .option('--address <email>', 'of the tool’s support')
    .option('--subject <text>')
    .option('--from <file>', 'the text; - for standard input')
    .addOption(new Option('--language <language>', 'of the text that is proposed').choices(LANGUAGES).default('en'))
    .addHelpText(
      'after',
      examples(
        'case write niamh HYD-210/bends --by page',
        'case write niamh HYD-210/bends --to support --address help@knotwork.example --language de',
      ),
    )
    .action(
      job<WriteOptions>(async ({ client, options, show }, person, assignment) => {
        const { to, address, subject, from, language } = options
        const params = { person, assignment }
        const { letters } = await client.call('showCase', { params })
        const proposed = letters[to]?.[language]
        if (!proposed && (from === undefined || subject === undefined))
          throw new Failure('There is nothing to ask the tool’s support.', EXIT.refused, 'Give your own text with --subject and --from.') // oxfmt-ignore
        const by = options.by ?? (to === 'support' ? 'mail' : 'page')
        const text = from === undefined ? proposed!.text : readText(from)
        const body = { to, by, subject: subject ?? proposed!.subject, text, ...(address !== undefined && { address }) }
        show(await client.call('writeInCase', { params, body }), ({ events }) =>
          events[0] ? `${visible(events[0].sentence)}.` : 'Written.',
        )
      }),
    )
}
