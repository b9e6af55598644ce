import type { Command } from 'commander'
import { addCourseMenuCommands } from './course-menu.js'
import { addCourseOutlineCommands } from './course-outline.js'
import { examples, job, more, paged } from '../terminal/command.js'
import { pairs, paint, state, table, visible } from '../terminal/output.js'

export function addCourseCommands(program: Command): void {
  const course = program.command('course').description('courses and who is in them')

  paged(course.command('list').description('lists your courses'))
    .option('--search <text>', 'part of code or title')
    .addHelpText('after', examples('course list', 'course list --search weather --json'))
    .action(
      job<{ limit?: number; cursor?: string; search?: string }>(async ({ client, options, show }) => {
        const { limit, cursor, search } = options
        show(
          await client.call('listCourses', { query: { limit, cursor, search } }),
          ({ items, next }) =>
            table(
              ['code', 'title', 'your role', 'learners', 'assignments', 'without a score'],
              items.map((one) => [
                one.code,
                visible(one.title),
                one.myRole?.replaceAll('_', ' ') ?? '–',
                String(one.learners),
                String(one.assignments),
                one.unproven ? paint('look', String(one.unproven)) : '0',
              ]),
            ) + more(next),
        )
      }),
    )

  course
    .command('show <course>')
    .description('shows a course')
    .addHelpText('after', examples('course show HYD-210', 'course show "HYD 210" --json'))
    .action(
      job(async ({ client, show }, ref) => {
        show(await client.call('showCourse', { params: { course: ref } }), (one) =>
          pairs([
            ['code', one.code],
            ['title', visible(one.title)],
            ['term', one.term || '–'],
            ['time zone', one.timeZone],
            ['your role', one.myRole?.replaceAll('_', ' ') ?? '–'],
            ['learners', String(one.learners)],
            ['assignments', `${one.assignments}, of which ${one.unproven} published without a score yet`],
            ['categories', one.categories.map((category) => category.name).join(', ') || '–'],
          ]),
        )
      }),
    )

  course
    .command('create <code>')
    .description('makes a course with its test learner')
    .requiredOption('--title <title>')
    .option('--term <term>')
    .option('--time-zone <zone>', 'such as Europe/Oslo')
    .option('--category <name...>', 'categories of its gradebook')
    .addHelpText(
      'after',
      examples(
        'course create "HYD 210" --title "Hydrographic Surveying" --category Drills Projects',
        'course create "MET 130" --title "Marine Weather" --time-zone Europe/Oslo',
      ),
    )
    .action(
      job<{ title: string; term?: string; timeZone?: string; category?: string[] }>(
        async ({ client, options, show }, code) => {
          const { title, term, timeZone, category } = options
          const made = await client.call('createCourse', {
            body: {
              code: code,
              title,
              ...(term && { term }),
              ...(timeZone && { timeZone }),
              ...(category && { categories: category }),
            },
          })
          show(made, (one) => `${one.code} ${visible(one.title)} is made; it has its test learner.`)
        },
      ),
    )

  paged(course.command('people <course>').description('lists who is in a course'))
    .option('--search <text>', 'part of a name')
    .addHelpText('after', examples('course people HYD-210', 'course people HYD-210 --search ana'))
    .action(
      job<{ limit?: number; cursor?: string; search?: string }>(async ({ client, options, show }, ref) => {
        const { limit, cursor, search } = options
        show(
          await client.call('listMembers', { params: { course: ref }, query: { limit, cursor, search } }),
          ({ items, next }) =>
            table(
              ['user name', 'name', 'role', 'state'],
              items.map((one) => [
                one.person.username,
                visible(one.person.fullName),
                one.role.replaceAll('_', ' '),
                one.state === 'active' ? 'active' : state('suspended').replace('suspended', 'dropped'),
              ]),
            ) + more(next),
        )
      }),
    )

  addCourseMenuCommands(course)
  addCourseOutlineCommands(course)
}
