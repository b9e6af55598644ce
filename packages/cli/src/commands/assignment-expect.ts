import type { Expectation } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { moment, pairs, visible } from '../terminal/output.js'

interface ExpectOptions {
  withinMs?: number
  contains?: string
  scoreFrom?: string
  scoreTo?: string
  membersFrom?: number
  learn?: boolean
  none?: boolean
}

function showExpectation(one: Expectation | null): string {
  if (!one) return 'Nothing is expected of it.'
  const { answersWithinMs, contains, scoreFrom, scoreTo, membersFrom } = one
  const rows: [string, string][] = []
  if (answersWithinMs !== null) rows.push(['answers within', `${answersWithinMs} ms`])
  if (contains !== null) rows.push(['shows', `“${visible(contains)}”`])
  if (scoreFrom !== null || scoreTo !== null) rows.push(['score', `${scoreFrom ?? '0'} to ${scoreTo ?? 'any'} of 1`])
  if (membersFrom !== null) rows.push(['roster', `at least ${membersFrom} members`])
  const from = one.learnedFrom === null ? '' : `, learned from sounding ${one.learnedFrom}`
  return `${pairs(rows)}\nset ${moment(one.setAt)}${one.by ? ` by ${visible(one.by.fullName)}` : ''}${from}`
}

/** What every sounding of an assignment is held against. */
export function addExpectCommand(assignment: Command): void {
  assignment
    .command('expect <assignment>')
    .description('shows or sets what every sounding of it should find')
    .option('--within-ms <n>', 'the tool answers a launch within so many milliseconds', wholeNumber)
    .option('--contains <text>', 'the page of a learner shows these words')
    .option('--score-from <part>', 'the score is at least this part of 1')
    .option('--score-to <part>', 'the score is at most this part of 1')
    .option('--members-from <n>', 'the roster that the tool may read has at least so many people', wholeNumber)
    .option('--learn', 'expects what the last sounding that passed has found')
    .option('--none', 'removes the expectation')
    .addHelpText(
      'after',
      examples(
        'assignment expect HYD-210/soundings-and-datum --within-ms 2000 --contains "Soundings"',
        'assignment expect HYD-210/soundings-and-datum --learn',
      ),
    )
    .action(
      job<ExpectOptions>(async ({ client, options, show }, ref) => {
        const { withinMs, contains, scoreFrom, scoreTo, membersFrom, learn, none } = options
        const params = { params: { assignment: ref } }
        const body = {
          ...(withinMs !== undefined && { answersWithinMs: withinMs }),
          ...(contains !== undefined && { contains }),
          ...(scoreFrom !== undefined && { scoreFrom }),
          ...(scoreTo !== undefined && { scoreTo }),
          ...(membersFrom !== undefined && { membersFrom }),
        }
        const sets = Object.keys(body).length > 0
        if ([sets, learn, none].filter(Boolean).length > 1)
          throw new Failure(
            '--learn and --none cannot be combined with others.',
            EXIT.usage,
            'Learn first, then say the rest.',
          )
        if (none) await client.call('removeExpectation', params)
        else if (learn) await client.call('learnExpectation', params)
        else if (sets) await client.call('setExpectation', { ...params, body })
        show((await client.call('showExpectation', params)).expectation, showExpectation)
      }),
    )
}
