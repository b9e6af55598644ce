import type { RosterImported } from '@bathyscribe/contract'
import { readFileSync } from 'node:fs'
import { basename } from 'node:path'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import { paint, visible } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'

function showImport(one: RosterImported): string {
  const would = one.applied ? '' : 'would be '
  return [
    `${one.peopleMade} people ${would}made, ${one.peopleChanged} changed; ${one.coursesMade} courses ${would}made.`,
    `${one.added} enrolments ${would}added, ${one.returned} back or in another role, ${one.dropped} dropped, ${one.unchanged} as they were.`,
    ...(one.whole ? [paint('quiet', 'The file is whole: who is not named in a class of it has left it.')] : []),
    ...one.problems.map(
      (problem) =>
        `${paint('look', '▲')} ${visible(problem.file)}${problem.line ? ` line ${problem.line}` : ''}: ${visible(problem.message)}`,
    ),
    ...(one.applied ? [] : ['Nothing is done yet: say --apply.']),
  ].join('\n')
}

/** Whole rosters. */
export function addRosterCommands(person: Command): void {
  person
    .command('import <file>')
    .description('brings people and enrolments in step with a roster: CSV, or OneRoster 1.2 CSV in a zip archive')
    .option('--course <course>', 'for lines of a table that name none')
    .option('--no-make-courses', 'does not make courses for classes that are not known')
    .option('--apply', 'does it; without, only says what would change')
    .addHelpText('after', examples('person import newcomers.csv --course HYD-210', 'person import roster.zip --apply'))
    .action(
      job<{ course?: string; makeCourses: boolean; apply?: boolean }>(async ({ client, options, show }, file) => {
        const isArchive = /\.zip$/i.test(file)
        const answer = await client.call('importRoster', {
          body: {
            fileName: file === '-' ? 'standard input' : basename(file),
            ...(isArchive ? { zip: archiveOf(file) } : { table: readText(file) }),
            ...(options.course && { course: options.course }),
            makeCourses: options.makeCourses,
            apply: options.apply ?? false,
          },
        })
        show(answer, showImport)
        // The rest is done: a program that goes on from here has to know that not all of it is.
        if (answer.problems.length > 0) throw new CheckFailed()
      }),
    )
}

function archiveOf(file: string): string {
  try {
    return readFileSync(file).toString('base64')
  } catch {
    throw new Failure(`${file} cannot be read.`, EXIT.usage, 'Check its name.')
  }
}
