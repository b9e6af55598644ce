import {
  USUAL_POINTS,
  WATCHED_WAIT_MINUTES,
  type AssignmentDetail,
  type Client,
  type SoundingDetail,
  type Tool,
} from '@bathyscribe/contract'
import type { Command } from 'commander'
import { collectPairs, wholeNumber } from '../terminal/command.js'
import { EXIT, Failure } from '../terminal/failure.js'
import { terminal } from '../terminal/terminal.js'
import { showDetail, unitOf } from './assignment.js'
import { follow, isProven, showSounding } from './sounding.js'

/** What is made of a tool as soon as it is registered. */
export interface IntoOptions {
  into?: string
  assignment?: string
  points?: string
  category?: string
  unit?: string
  custom?: Record<string, string>
  launchUrl?: string
  prove?: boolean
  /** False: for nobody. */
  wait?: number | false
}

/** What was made, and what a sounding found of it. */
export interface Made {
  assignment: AssignmentDetail
  sounding: SoundingDetail | null
}

export function withInto(command: Command): Command {
  return command
    .option('--into <course>', 'makes an assignment with it in this course, too')
    .option('--assignment <title>', 'with --into: its title')
    .option('--points <points>', `with --into: what it is out of; ${USUAL_POINTS} unless given`)
    .option('--category <name>', 'with --into: its category')
    .option('--unit <title>', 'with --into: the unit that it is added to')
    .option(
      '--custom <name=value>',
      'with --into: a custom parameter of its launches; may be given again',
      collectPairs,
    )
    .option('--launch-url <address>', 'with --into: its own launch address')
    .option('--prove', 'with --into: publishes it, with its unit, and runs a sounding; exits 1 unless it is proven')
    .option(
      '--wait <minutes>',
      'with --prove: waits so long for a person where a tool scores nothing by itself',
      wholeNumber,
    )
    .option('--no-wait', 'waits for nobody: neither until a tool has registered itself, nor for the work of a person')
}

/** @throws Failure before anything is registered, when what is to be made of the tool is not said completely */
export function requireWhole({
  into,
  assignment,
  points,
  category,
  unit,
  custom,
  launchUrl,
  prove,
}: IntoOptions): void {
  const rest = { points, category, unit, custom, launchUrl, prove }
  if ((into === undefined) !== (assignment === undefined))
    throw new Failure('--into and --assignment go together.', EXIT.usage, 'Give --into COURSE --assignment "TITLE".')
  if (into === undefined && Object.values(rest).some((value) => value !== undefined))
    throw new Failure(
      'What is said is about an assignment, and none is made.',
      EXIT.usage,
      'Add --into COURSE --assignment "TITLE".',
    )
}

/** Looks before anything is registered whether the course and the unit are there. @throws Failure */
export async function findPlace(
  client: Client,
  { into, unit, category }: IntoOptions,
): Promise<{ unit?: string | null } | undefined> {
  if (into === undefined) return undefined
  const { code, categories } = await client.call('showCourse', { params: { course: into } })
  if (category !== undefined && !categories.some((one) => one.name === category))
    throw new Failure(
      `${code} has no category “${category}”.`,
      EXIT.refused,
      `Make it with \`bathyscribe course category-add ${into} "${category}"\`.`,
    )
  return unitOf(client, into, unit)
}

/** Makes the assignment, and proves it where that is wanted. */
export async function makeInto(
  client: Client,
  tool: Tool,
  options: IntoOptions,
  place: { unit?: string | null },
  progress: boolean,
): Promise<Made> {
  const {
    into,
    assignment: title,
    points,
    category,
    custom,
    launchUrl,
    prove = false,
    wait = WATCHED_WAIT_MINUTES,
  } = options
  const assignment = await client.call('createAssignment', {
    params: { course: into! },
    body: {
      title: title!,
      tool: tool.id,
      points: points ?? USUAL_POINTS,
      publish: prove,
      publishUnit: prove,
      ...(category && { category }),
      ...(custom && { customParameters: custom }),
      ...(launchUrl && { launchUrl }),
      ...place,
    },
  })
  if (!prove) return { assignment, sounding: null }
  if (progress) terminal().say(`Made, and published. A sounding takes it down its whole way …\n`)
  const params = { assignment: assignment.id }
  const started = await client.call('runSounding', { params, body: { waitMinutes: wait || 0 } })
  const sounding = await follow(client, started, progress)
  return { assignment: await client.call('showAssignment', { params }), sounding }
}

export function showMade({ assignment, sounding }: Made): string {
  return [...(sounding ? [showSounding(sounding)] : []), showDetail(assignment)].join('\n\n')
}

/** Whether what was to be proven is. */
export const isMadeRight = ({ sounding }: Made) => sounding === null || isProven(sounding)
