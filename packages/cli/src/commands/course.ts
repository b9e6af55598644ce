import { COURSE_STATES, type CourseState } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { addCategoryCommands } from './course-categories.js'
import { addCourseLifeCommands } from './course-life.js'
import { addCourseMenuCommands } from './course-menu.js'
import { addCourseOutlineCommands } from './course-outline.js'
import { addToolRostersCommand } from './course-tool-rosters.js'
import { examples, job, more, paged } from '../terminal/command.js'
import { moment, pairs, paint, state, table, visible, zoned } from '../terminal/output.js'

interface ListOptions {
  limit?: number
  cursor?: string
  search?: string
  state?: CourseState
  term?: string
}

const courseState = ({ state: now }: { state: CourseState }) => (now === 'open' ? 'open' : paint('look', now))

export function addCourseCommands(program: Command): void {
  const course = program.command('course').description('courses and who is in them')

  addList(course)
  addShow(course)
  addPeople(course)
  addToolRostersCommand(course)
  addCourseLifeCommands(course)
  addCategoryCommands(course)
  addCourseMenuCommands(course)
  addCourseOutlineCommands(course)
}

function addList(course: Command): void {
  paged(course.command('list').description('lists your courses'))
    .option('--search <text>', 'part of code or title')
    .option('--term <term>')
    .addOption(
      new Option('--state <state>', 'open and closed ones unless said; administrators see deleted ones').choices(
        COURSE_STATES,
      ),
    )
    .addHelpText('after', examples('course list', 'course list --state closed --term "Autumn 2026" --json'))
    .action(
      job<ListOptions>(async ({ client, options, show }) => {
        const { limit, cursor, search, state, term } = options
        show(
          await client.call('listCourses', { query: { limit, cursor, search, state, term } }),
          ({ items, next }) =>
            table(
              ['code', 'title', 'term', 'state', 'your role', 'learners', 'assignments', 'without a score'],
              items.map((one) => [
                one.code,
                visible(one.title),
                visible(one.term) || '–',
                courseState(one),
                one.myRole?.replaceAll('_', ' ') ?? '–',
                String(one.learners),
                String(one.assignments),
                one.unproven ? paint('look', String(one.unproven)) : '0',
              ]),
            ) + more(next),
        )
      }),
    )
}

function addShow(course: Command): void {
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
            ['state', courseState(one) + (one.stateSince ? ` since ${moment(one.stateSince)}` : '')],
            ['starts', one.startsAt ? zoned(one.startsAt, one.timeZone) : '–'],
            ['ends', one.endsAt ? zoned(one.endsAt, one.timeZone) : '–'],
            ['time zone', one.timeZone],
            ...(one.sourcedId ? [['sourced identifier', visible(one.sourcedId)] as [string, string]] : []),
            ['your role', one.myRole?.replaceAll('_', ' ') ?? '–'],
            ['learners', String(one.learners)],
            ['assignments', `${one.assignments}, of which ${one.unproven} published without a score yet`],
            ['categories', one.categories.map((category) => category.name).join(', ') || '–'],
          ]),
        )
      }),
    )
}

function addPeople(course: Command): void {
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
}
