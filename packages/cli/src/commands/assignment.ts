import type { Assignment } from '@bathyscribe/contract'
import { Option, type Command } from 'commander'
import { collectPairs, examples, job } from '../terminal/command.js'
import { moment, pairs, paint, proofLine, sign, state, table, visible } from '../terminal/output.js'

type Detail = Assignment & { preflight: { verdict: string; statement: string; remedy: string }[]; scores: number }

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
  keepScores?: boolean
}

function fields(options: AssignmentOptions) {
  return {
    ...(options.category !== undefined && { category: options.category }),
    ...(options.instructions !== undefined && { instructions: options.instructions }),
    ...(options.launchUrl !== undefined && { launchUrl: options.launchUrl }),
    ...(options.open && { documentTarget: options.open }),
    ...(options.custom && { customParameters: options.custom }),
  }
}

function withFields(command: Command): Command {
  return command
    .option('--category <name>', 'one of the course’s categories')
    .option('--instructions <text>')
    .option('--launch-url <address>', 'its own address; the registration’s unless given')
    .addOption(new Option('--open <where>').choices(['frame', 'window']))
    .option('--custom <name=value>', 'a custom parameter; may be given again', collectPairs)
}

function showDetail(one: Detail): string {
  const head = pairs([
    ['assignment', `${visible(one.title)}  ${paint('quiet', `${one.course.code.replaceAll(' ', '-')}/${one.slug}`)}`],
    ['course', `${one.course.code} ${visible(one.course.title)}`],
    ['tool', `${visible(one.tool.name)} (${state(one.tool.state)})`],
    ['points', one.points],
    ['category', one.category?.name ?? paint('look', 'none')],
    ['opens in', one.documentTarget === 'frame' ? 'a frame' : 'a window'],
    ['leads to', one.effectiveLaunchUrl ?? '–'],
    ['state', state(one.state)],
    ['scores', String(one.scores)],
  ])
  const proof = one.proof.map((mark) => [
    sign(mark),
    mark.name,
    visible(mark.statement),
    mark.evidence
      ? paint(
          'quiet',
          `${moment(mark.evidence.at)} ${mark.evidence.kind} ${mark.evidence.id}${mark.evidence.person ? `, ${mark.evidence.person}` : ''}`,
        )
      : '',
  ])
  const preflight = one.preflight
    .map((remark) => `\n${state(remark.verdict)} ${remark.statement} ${remark.remedy}`)
    .join('')
  return `${head}\n\n${table(['', 'proof', '', 'evidence'], proof)}${preflight}`
}

export function addAssignmentCommands(program: Command): void {
  const assignment = program.command('assignment').description('external tool assignments')

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

  withFields(assignment.command('create <course>').description('makes an external tool assignment'))
    .requiredOption('--title <title>')
    .requiredOption('--tool <tool>', 'short name of the tool')
    .requiredOption('--points <points>')
    .option('--publish', 'publishes it when preflight finds nothing broken')
    .addHelpText(
      'after',
      examples(
        'assignment create HYD-210 --title "Soundings and datum" --tool knotwork-drills --points 100 --category Drills --custom drill=soundings --publish',
        'assignment create MET-130 --title "Clouds and fronts" --tool knotwork-drills --points 10',
      ),
    )
    .action(
      job<AssignmentOptions & { title: string; tool: string; points: string }>(
        async ({ client, options, show }, course) => {
          const { title, tool, points } = options
          const body = { title, tool, points, publish: options.publish ?? false, ...fields(options) }
          show(await client.call('createAssignment', { params: { course: course }, body }), showDetail)
        },
      ),
    )

  withFields(assignment.command('change <assignment>').description('changes an assignment'))
    .option('--title <title>')
    .option('--tool <tool>')
    .option('--points <points>')
    .option('--keep-scores', 'go on although scores exist; they are kept and recomputed')
    .addHelpText(
      'after',
      examples(
        'assignment change HYD-210/soundings-and-datum --points 50 --keep-scores',
        'assignment change HYD-210/soundings-and-datum --open window',
      ),
    )
    .action(
      job<AssignmentOptions>(async ({ client, options, show }, ref) => {
        const { revision } = await client.call('showAssignment', { params: { assignment: ref } })
        const { title, tool, points } = options
        const body = {
          revision,
          keepScores: options.keepScores ?? false,
          ...(title && { title }),
          ...(tool && { tool }),
          ...(points && { points }),
          ...fields(options),
        }
        show(await client.call('changeAssignment', { params: { assignment: ref }, body }), showDetail)
      }),
    )

  assignment
    .command('publish <assignment>')
    .description('publishes an assignment when preflight finds nothing broken')
    .addHelpText(
      'after',
      examples('assignment publish HYD-210/soundings-and-datum', 'assignment publish MET-130/clouds-and-fronts --json'),
    )
    .action(
      job(async ({ client, show }, ref) =>
        show(await client.call('publishAssignment', { params: { assignment: ref } }), showDetail),
      ),
    )

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
