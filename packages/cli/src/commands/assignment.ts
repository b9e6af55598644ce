import type { Assignment, Client, Counting, PreflightRemark, RecountPreview } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { CheckFailed, EXIT, Failure } from '../terminal/failure.js'
import {
  addAddressCommand,
  addLifeCommands,
  addPreflightCommand,
  describeColumns,
  showRemark,
  showTable,
  tableTemplate,
} from './assignment-many.js'
import { addExpectCommand } from './assignment-expect.js'
import { addFindCommand } from './assignment-find.js'
import { addRemindCommand, addWriteCommand } from './assignment-write.js'
import { collectPairs, examples, job, wholeNumber } from '../terminal/command.js'
import { dateIn } from '../terminal/dates.js'
import { moment, pairs, paint, proofLine, shortName, sign, state, table, visible, zoned } from '../terminal/output.js'
import { readText } from '../terminal/secrets.js'

type Detail = Assignment & { preflight: PreflightRemark[]; scores: number }

interface AssignmentOptions {
  title?: string
  tool?: string
  points?: string
  category?: string
  instructions?: string
  launchUrl?: string
  open?: 'frame' | 'window'
  custom?: Record<string, string>
  publish?: boolean
  publishUnit?: boolean
  keepScores?: boolean
  opens?: string
  due?: string
  closes?: string
  attempts?: number | null
  unit?: string
  group?: string[]
  everyone?: boolean
  notInTotal?: boolean
  counts?: Counting
  results?: 'shown' | 'held-back'
  from?: string
  template?: boolean
  columns?: boolean
  acceptWarnings?: boolean
  check?: boolean
}

/** @param zone of the course, in which dates are read */
function fields(options: AssignmentOptions, zone: string) {
  return {
    ...(options.category !== undefined && { category: options.category }),
    ...(options.instructions !== undefined && { instructions: options.instructions }),
    ...(options.launchUrl !== undefined && { launchUrl: options.launchUrl }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.custom && { customParameters: options.custom }),
    ...(options.opens !== undefined && { opensAt: dateIn(zone, options.opens, 'beginning') }),
    ...(options.due !== undefined && { dueAt: dateIn(zone, options.due, 'end') }),
    ...(options.closes !== undefined && { closesAt: dateIn(zone, options.closes, 'end') }),
    ...(options.attempts !== undefined && { attempts: options.attempts }),
    ...(options.everyone && { audience: null }),
    ...(options.group && { audience: { groups: options.group } }),
    ...(options.notInTotal && { counted: false }),
    ...(options.counts && { counting: options.counts }),
    ...(options.results && { released: options.results === 'shown' }),
  }
}

function withFields(command: Command): Command {
  return command
    .option('--category <name>', 'one of the course’s categories')
    .option('--instructions <text>')
    .option('--launch-url <address>', 'its own address; the registration’s unless given')
    .addOption(new Option('--open <where>').choices(['frame', 'window']))
    .option('--opens <moment>', 'such as "2026-12-01 08:00", in the course’s time zone; “none” takes it off')
    .option('--due <moment>', 'a date alone is the end of that day')
    .option('--closes <moment>', 'a date alone is the end of that day')
    .option('--attempts <n>', 'how often it may be handed in, or “unlimited”', (text) =>
      text === 'unlimited' ? null : wholeNumber(text),
    )
    .option('--group <name...>', 'only for these groups')
    .option('--everyone', 'for everyone in the course again')
    .option('--unit <title>', 'its unit')
    .option('--not-in-total', 'its points are not part of the total')
    .addOption(new Option('--counts <which>', 'which score counts').choices(['latest', 'best', 'first', 'mean']))
    .addOption(new Option('--results <when>', 'when learners see their results').choices(['shown', 'held-back']))
    .option('--custom <name=value>', 'a custom parameter; may be given again', collectPairs)
}

export function showDetail(one: Detail): string {
  const head = pairs([
    ['assignment', `${visible(one.title)}  ${paint('quiet', shortName(one.course, one))}`],
    ['course', `${one.course.code} ${visible(one.course.title)}`],
    ['tool', `${visible(one.tool.name)} (${state(one.tool.state)})`],
    ['points', one.counted ? one.points : `${one.points}, not part of the total`],
    ['category', one.category?.name ?? paint('look', 'none')],
    [
      'when',
      [
        one.opensAt && `opens ${zoned(one.opensAt, one.course.timeZone)}`,
        one.dueAt && `due ${zoned(one.dueAt, one.course.timeZone)}`,
        one.closesAt && `closes ${zoned(one.closesAt, one.course.timeZone)}`,
      ]
        .filter(Boolean)
        .join(', ') || '–',
    ],
    [
      'for',
      one.audience
        ? `${[...one.audience.groups.map((each) => each.name), ...one.audience.people.map((each) => each.fullName)].join(', ')} (${one.audience.reached} learners)`
        : 'everyone',
    ],
    ['unit', one.unit ? visible(one.unit.title) : '–'],
    ['opens in', one.documentTarget === 'frame' ? 'a frame' : 'a window'],
    ['leads to', one.effectiveLaunchUrl ?? '–'],
    ['state', state(one.state)],
    ['scores', String(one.scores)],
  ])
  const proof = one.proof.map((mark) => [
    sign(mark),
    mark.name,
    visible(mark.statement),
    [
      ...(mark.change
        ? [`changed ${moment(mark.change.at)}${mark.change.by ? ` by ${visible(mark.change.by)}` : ''}; before:`]
        : []),
      ...(mark.evidence
        ? [
            paint(
              'quiet',
              `${moment(mark.evidence.at)} ${mark.evidence.kind} ${mark.evidence.id}${mark.evidence.person ? `, ${visible(mark.evidence.person)}` : ''}`,
            ),
          ]
        : []),
    ].join('\n'),
  ])
  const preflight = one.preflight.map((remark) => `\n${showRemark(remark)}`).join('')
  return `${head}\n\n${table(['', 'proof', '', 'evidence'], proof)}${preflight}`
}

export function addAssignmentCommands(program: Command): void {
  const assignment = program.command('assignment').description('external tool assignments')

  addList(assignment)
  addFindCommand(assignment)
  addShow(assignment)
  addCreate(assignment)
  addChange(assignment)
  addPreflightCommand(assignment)
  addAddressCommand(assignment)
  addLifeCommands(assignment)
  addExpectCommand(assignment)
  addRemindCommand(assignment)
  addWriteCommand(assignment)
  addPublish(assignment)
  addUnpublish(assignment)
}

function addList(assignment: Command): void {
  assignment
    .command('list <course>')
    .description('lists a course’s assignments with their proof')
    .addHelpText('after', examples('assignment list HYD-210', 'assignment list HYD-210 --json'))
    .action(
      job(async ({ client, show }, course) => {
        show(await client.call('listAssignments', { params: { course: course } }), ({ items }) =>
          items.length === 0
            ? `No assignments yet. Make one with \`bathyscribe assignment create ${course} --title … --tool …\`.`
            : table(
                ['proof', 'short name', 'title', 'tool', 'points', 'category', 'state'],
                items.map((one) => [
                  proofLine(one.proof),
                  one.slug,
                  visible(one.title),
                  visible(one.tool.name),
                  one.points,
                  one.category?.name ?? '–',
                  state(one.state),
                ]),
              ),
        )
      }),
    )
}

function addShow(assignment: Command): void {
  assignment
    .command('show <assignment>')
    .description('shows an assignment with its proof and the evidence for it')
    .addHelpText(
      'after',
      examples('assignment show HYD-210/soundings-and-datum', 'assignment show HYD-210/soundings-and-datum --json'),
    )
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('showAssignment', { params: { assignment: ref } }), showDetail),
      ),
    )
}

function addCreate(assignment: Command): void {
  withFields(assignment.command('create <course>').description('makes an external tool assignment'))
    .option('--title <title>')
    .option('--tool <tool>', 'short name of the tool')
    .option('--points <points>')
    .option('--from <file>', 'makes or changes many from a CSV file, or - for standard input; safe to run twice')
    .option('--check', 'with --from: only says what would be made')
    .option('--accept-warnings', 'with --from: publishes rows whose address carries somebody’s session, too')
    .option('--template', 'prints the heads of the CSV')
    .option('--columns', 'lists the columns of the CSV')
    .option('--publish', 'publishes it when preflight finds nothing broken')
    .option('--publish-unit', 'with --publish: its unit, too')
    .addHelpText(
      'after',
      examples(
        'assignment create HYD-210 --title "Soundings and datum" --tool knotwork-drills --points 100 --category Drills --custom drill=soundings --publish',
        'assignment create NAV-120 --from term.csv --check',
      ),
    )
    .action(
      job<AssignmentOptions>(async ({ client, options, show }, course) => {
        if (options.template) return show({ template: tableTemplate() }, ({ template }) => template.trimEnd())
        if (options.columns) return show(describeColumns(), (text) => text)
        if (options.from !== undefined) return createMany(client, course, options, show)
        const { title, tool, points } = options
        if (!title || !tool || (points === undefined && !options.notInTotal))
          throw new Failure(
            'Title, tool and points are needed.',
            EXIT.usage,
            'Give --title, --tool and --points, or --from FILE for many.',
          )
        const unit = await unitOf(client, course, options.unit)
        const body = {
          title,
          tool,
          points: points ?? '0',
          publish: options.publish ?? false,
          publishUnit: options.publishUnit ?? false,
          ...fields(options, await zoneOf(client, course, options)),
          ...unit,
        }
        show(await client.call('createAssignment', { params: { course: course }, body }), showDetail)
      }),
    )
}

function addChange(assignment: Command): void {
  withFields(assignment.command('change <assignment>').description('changes an assignment'))
    .option('--title <title>')
    .option('--tool <tool>')
    .option('--points <points>')
    .option('--keep-scores', 'go on although scores exist; they are kept and recomputed')
    .option('--check', 'only says what would become of results with other --points or --counts')
    .addHelpText(
      'after',
      examples(
        'assignment change HYD-210/soundings-and-datum --points 50 --keep-scores',
        'assignment change HYD-210/soundings-and-datum --open window',
      ),
    )
    .action(
      job<AssignmentOptions>(async ({ client, options, show }, ref) => {
        const { revision, course } = await client.call('showAssignment', { params: { assignment: ref } })
        const { title, tool, points } = options
        if (options.check)
          return show(
            await client.call('previewRecount', {
              params: { assignment: ref },
              body: { ...(points && { points }), ...(options.counts && { counting: options.counts }) },
            }),
            showRecount,
          )
        const body = {
          revision,
          keepScores: options.keepScores ?? false,
          ...(title && { title }),
          ...(tool && { tool }),
          ...(points && { points }),
          ...fields(options, course.timeZone),
          ...(await unitOf(client, ref.split('/')[0] ?? '', options.unit)),
        }
        show(await client.call('changeAssignment', { params: { assignment: ref }, body }), showDetail)
      }),
    )
}

function addPublish(assignment: Command): void {
  assignment
    .command('publish <assignment>')
    .description('publishes an assignment when preflight finds nothing broken')
    .option('--publish-unit', 'its unit, too')
    .addHelpText(
      'after',
      examples('assignment publish HYD-210/soundings-and-datum', 'assignment publish MET-130/clouds-and-fronts --json'),
    )
    .action(
      job<AssignmentOptions>(async ({ client, options, show }, ref) =>
        show(
          await client.call('publishAssignment', {
            params: { assignment: ref },
            body: { publishUnit: options.publishUnit ?? false },
          }),
          showDetail,
        ),
      ),
    )
}

function addUnpublish(assignment: Command): void {
  assignment
    .command('unpublish <assignment>')
    .description('makes it a draft again')
    .option('--keep-scores', 'go on although scores exist; they are kept')
    .addHelpText(
      'after',
      examples(
        'assignment unpublish MET-130/clouds-and-fronts',
        'assignment unpublish MET-130/clouds-and-fronts --keep-scores',
      ),
    )
    .action(
      job<AssignmentOptions>(async ({ client, options, show }, ref) =>
        show(
          await client.call('unpublishAssignment', {
            params: { assignment: ref },
            body: { keepScores: options.keepScores ?? false },
          }),
          showDetail,
        ),
      ),
    )
}

/** What would become of results. Nothing is changed yet. */
function showRecount({ changes, stays, overridden }: RecountPreview): string {
  const byHand = overridden > 0 ? `; ${overridden} set by hand stay as they are` : ''
  const head = `${changes.length} results would change, ${stays} stay${byHand}. Nothing is changed yet.`
  if (changes.length === 0) return head
  return `${head}\n${table(
    ['learner', 'now', 'then'],
    changes.map((one) => [visible(one.person.fullName), one.now ?? '–', one.then ?? '–']),
  )}\nAdd --keep-scores instead of --check to do it.`
}

type Show = <T>(answer: T, forPeople: (answer: T) => string) => void

async function createMany(client: Client, course: string, options: AssignmentOptions, show: Show): Promise<void> {
  const body = {
    table: readText(options.from!),
    ...(options.tool && { tool: options.tool }),
    ...(options.category && { category: options.category }),
    ...(options.unit && { unit: options.unit }),
    ...(options.acceptWarnings && { acceptWarnings: true }),
  }
  const answer = await client.call(options.check ? 'checkTable' : 'makeTable', { params: { course }, body })
  show(answer, showTable)
  if (answer.refuses > 0) throw new CheckFailed()
}

/** The zone in which the dates of a course are read; not asked for where there are none. */
async function zoneOf(client: Client, course: string, { opens, due, closes }: AssignmentOptions): Promise<string> {
  if (opens === undefined && due === undefined && closes === undefined) return 'UTC'
  return (await client.call('showCourse', { params: { course } })).timeZone
}

export async function unitOf(
  client: Client,
  course: string,
  title: string | undefined,
): Promise<{ unit?: string | null }> {
  if (title === undefined) return {}
  if (title === 'none') return { unit: null }
  const { units } = await client.call('showOutline', { params: { course } })
  const unit = units.find((one) => one.title.toLowerCase() === title.toLowerCase())
  if (!unit)
    throw new Failure(
      `The course has no unit “${title}”.`,
      EXIT.refused,
      `Make it with \`bathyscribe course unit-add ${course} "${title}"\`.`,
    )
  return { unit: unit.id }
}
