import { Refusal } from '@bathyscribe/contract'
import { readReturn } from '@bathyscribe/core/checks'
import { readResultId } from '@bathyscribe/core/lti1'
import type { Link } from '../../records/statements/links.js'
import type { Context } from '../context.js'
import { launchEntry, publishLaunch } from './launch-entry.js'

/** So often an hour one person comes back from one link: a tool that repeats itself has said what it had to say. */
const MOST_AN_HOUR = 10
const HOUR_MS = 3_600_000

export interface Returned {
  /** The page of ours that the person came from. */
  backPath: string
  /** For the person; `lti_errormsg` before `lti_msg`. */
  message: string | null
  isError: boolean
}

const BACK: Record<Link['resource']['kind'], (course: string, id: string) => string> = {
  assignment: (course, id) => `${course}/assignments/${id}`,
  menu: (course) => `${course}/menu`,
  item: (course, id) => `${course}/items/${id}`,
  picker: (course) => course,
}

/** A browser came back from a tool. What the tool said for people is shown, what it said for the log is kept. @throws Refusal */
export async function takeReturn(context: Context, key: string, pathAndQuery: string): Promise<Returned> {
  const started = performance.now()
  const target = readResultId(context.keys.resultIdKey, key)
  const link = target && (await context.statements.findLink(target))
  if (!link) throw new Refusal('launch.return_unknown')
  const asked = `return ${link.resource.id} ${link.person.id}`
  const { uses } = await context.records.rations.take(asked, context.clock.now(), HOUR_MS)
  if (uses > MOST_AN_HOUR) throw new Refusal('request.too_many')
  const url = `${context.settings.publicUrl}${pathAndQuery}`
  const said = readReturn(url)
  const problem = said.error ?? said.errorLog
  const statement = problem
    ? `The tool reported: “${problem.slice(0, 300)}”`
    : `The tool sent the person back${said.message ? `: “${said.message.slice(0, 300)}”` : '.'}`
  const written = await context.statements.writeMessage(
    launchEntry(context, link, undefined, {
      kind: 'return',
      direction: 'received',
      outcome: problem ? 'failed' : 'accepted',
      statement,
      durationMs: performance.now() - started,
      request: {
        method: 'GET',
        url: url.slice(0, 8000),
        parameters: Object.entries(said).filter(([, value]) => value !== null),
      },
    }),
  )
  if (problem && written.written && link.resource.kind === 'assignment')
    await context.records.assignments.noteLaunch(link.resource.id, 'complaint', {
      kind: 'wire',
      id: written.wireEntryId,
      at: context.clock.now(),
      person: link.person.fullName,
      statement: problem.slice(0, 300),
    })
  publishLaunch(context, link, problem ? 'refusal' : 'launch')
  const course = `/courses/${link.course.id}`
  return {
    backPath: BACK[link.resource.kind](course, link.resource.id),
    message: said.error ?? said.message,
    isError: problem !== null,
  }
}
