import type { Client, Course, CourseState } from '@bathyscribe/contract'
import type { Command } from 'commander'
import { examples, job } from '../terminal/command.js'
import { requireConsent } from '../terminal/confirm.js'
import { dateIn } from '../terminal/dates.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { visible } from '../terminal/output.js'

interface CourseOptions {
  code?: string
  title?: string
  term?: string
  timeZone?: string
  sourcedId?: string
  starts?: string
  ends?: string
  category?: string[]
}

const withDates = (command: Command) =>
  command
    .option('--term <term>', 'such as "Autumn 2026"; sweeps and lists go by it')
    .option('--time-zone <zone>', 'in which its dates are read and shown, such as Europe/Oslo')
    .option('--sourced-id <identifier>', 'what the registrar’s system calls it; “none” takes it off')
    .option('--starts <date>', 'such as 2026-08-17, in the course’s time zone; “none” takes it off')
    .option('--ends <date>', 'a date alone is the end of that day; “none” takes it off')

/** What a course is, from its making to its end. */
export function addCourseLifeCommands(course: Command): void {
  addCreate(course)
  addChange(course)

  addState(course, 'close', 'closed', {
    description:
      'closes a course: it can be looked at, but learners begin no work; scores that tools still send are taken',
    done: (one) => `${one.code} is closed. \`bathyscribe course reopen ${key(one)}\` opens it again.`,
  })
  addState(course, 'reopen', 'open', {
    description: 'opens a closed course again',
    done: (one) => `${one.code} is open.`,
  })
  addState(course, 'restore', 'open', {
    description: 'brings a deleted course back as it was; `course list --state deleted` lists them',
    done: (one) => `${one.code} is back, with everything that was in it.`,
  })

  addDelete(course)
}

function addCreate(course: Command): void {
  withDates(course.command('create <code>').description('makes a course with its test learner'))
    .requiredOption('--title <title>')
    .option('--category <name...>', 'categories of its gradebook')
    .addHelpText(
      'after',
      examples(
        'course create "HYD 210" --title "Hydrographic Surveying" --category Drills Projects',
        'course create "MET 130" --title "Marine Weather" --time-zone Europe/Oslo',
      ),
    )
    .action(
      job<CourseOptions & { title: string }>(async ({ client, options, show }, code) => {
        const { title, category } = options
        const body = { code, title, ...plainFields(options), ...(category && { categories: category }) }
        // Dates are read in its own zone, which only the service knows where none is said.
        const made = await client.call('createCourse', { body })
        const dates = datesOf(options, made.timeZone)
        show(
          Object.keys(dates).length === 0
            ? made
            : await client.call('changeCourse', { params: { course: made.id }, body: dates }),
          (one) => `${one.code} ${visible(one.title)} is made; it has its test learner.`,
        )
      }),
    )
}

function addChange(course: Command): void {
  withDates(course.command('change <course>').description('changes what a course is called and when it is'))
    .option('--code <code>')
    .option('--title <title>')
    .addHelpText(
      'after',
      examples(
        'course change HYD-210 --term "Autumn 2026" --time-zone Europe/Oslo',
        'course change NAV-120 --starts 2026-08-17 --ends 2026-12-18',
      ),
    )
    .action(
      job<CourseOptions>(async ({ client, options, show }, ref) => {
        const { code, title } = options
        const fields = { ...(code && { code }), ...(title && { title }), ...plainFields(options) }
        const zone = options.timeZone ?? (await client.call('showCourse', { params: { course: ref } })).timeZone
        const body = { ...fields, ...datesOf(options, zone) }
        if (Object.keys(body).length === 0)
          throw new Failure('Nothing to change was named.', EXIT.usage, 'See `bathyscribe course change --help`.')
        show(
          await client.call('changeCourse', { params: { course: ref }, body }),
          (one) => `${one.code} ${visible(one.title)} is changed.`,
        )
      }),
    )
}

function addDelete(course: Command): void {
  course
    .command('delete <course>')
    .description('deletes a course: nobody can open it and no tool can reach it; it can be restored')
    .option('--yes', 'does not ask')
    .addHelpText('after', examples('course delete NAV-120', 'course delete NAV-120 --yes'))
    .action(
      job<{ yes?: boolean }>(async ({ client, options, show }, ref) => {
        const one = await client.call('showCourse', { params: { course: ref } })
        const question = `Delete ${one.code} ${visible(one.title)} with ${one.learners} learners and ${one.assignments} assignments?`
        if (!options.yes)
          await requireConsent(question, 'Nothing was deleted.', 'Add --yes to delete without being asked.')
        await setState(client, one.id, 'deleted')
        show(
          { deleted: one.id },
          () => `${one.code} is deleted. \`bathyscribe course restore ${key(one)}\` brings it back.`,
        )
      }),
    )
}

function addState(
  course: Command,
  name: string,
  state: CourseState,
  { description, done }: { description: string; done: (one: Course) => string },
): void {
  course
    .command(`${name} <course>`)
    .description(description)
    .addHelpText('after', examples(`course ${name} HYD-210`, `course ${name} "HYD 210" --json`))
    .action(job(async ({ client, show }, ref) => show(await setState(client, ref, state), done)))
}

const setState = (client: Client, ref: string, state: CourseState) =>
  client.call('setCourseState', { params: { course: ref }, body: { state } })

const key = (one: Course) => one.code.toUpperCase().replace(/\s+/g, '-')

function plainFields({ term, timeZone, sourcedId }: CourseOptions) {
  return {
    ...(term !== undefined && { term }),
    ...(timeZone && { timeZone }),
    ...(sourcedId && { sourcedId: sourcedId === 'none' ? null : sourcedId }),
  }
}

function datesOf({ starts, ends }: CourseOptions, zone: string) {
  return {
    ...(starts !== undefined && { startsAt: dateIn(zone, starts, 'beginning') }),
    ...(ends !== undefined && { endsAt: dateIn(zone, ends, 'end') }),
  }
}
