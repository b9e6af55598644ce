import { Refusal } from '@bathyscribe/contract'
import { found, readReturn } from '@bathyscribe/core/checks'
import { readResultId } from '@bathyscribe/core/lti1'
import type { Context } from '../../desk/context.js'
import { entryOfLink, launchChange } from '../../desk/launches/launch-entry.js'
import type { Link } from '../../records/statements/links.js'
import type { About, Taken } from '../message.js'

/** A browser that comes back from a tool. `key` names the person and the link, sealed by us. */
export interface ReturnCall {
  key: string
  pathAndQuery: string
}

export interface Returned {
  /** The page of ours that the person came from. */
  backPath: string
  /** For the person; `lti_errormsg` before `lti_msg`. */
  message: string | null
  isError: boolean
}

type Said = ReturnCall & { url: string; said: ReturnType<typeof readReturn> }
type OfLink = Said & { link: Link }

/** So often an hour one person comes back from one link: a tool that repeats itself has said what it had to say. */
const MOST_AN_HOUR = 10
const HOUR_MS = 3_600_000

const BACK: Record<Link['resource']['kind'], (course: string, id: string) => string> = {
  assignment: (course, id) => `${course}/assignments/${id}`,
  menu: (course) => `${course}/menu`,
  item: (course, id) => `${course}/items/${id}`,
  picker: (course) => course,
}

/** What the tool says for people, and for the log (LTI 1.1.1 section 3; LTI 1.3 core section 5.3.6). */
export function toolSaid({ settings }: Context, { pathAndQuery }: ReturnCall) {
  const url = `${settings.publicUrl}${pathAndQuery}`
  return { url, said: readReturn(url) }
}

export async function linkOfReturn({ keys, statements }: Context, { key }: Said): Promise<{ link: Link } | Refusal> {
  const target = readResultId(keys.resultIdKey, key)
  const link = target && (await statements.findLink(target))
  return link ? { link } : new Refusal('launch.return_unknown')
}

export async function notTooOften({ records, clock }: Context, { link }: OfLink): Promise<object | Refusal> {
  const { uses } = await records.rations.take(`return ${link.resource.id} ${link.person.id}`, clock.now(), HOUR_MS)
  return uses > MOST_AN_HOUR ? new Refusal('request.too_many') : {}
}

/** What the tool said for people is shown, what it said for the log is kept. */
export function cameBack({ records, clock }: Context, { link, said, url }: OfLink): Taken<Returned> {
  const problem = said.error ?? said.errorLog
  const complaint = problem?.slice(0, 300)
  return {
    outcome: problem ? 'failed' : 'accepted',
    statement: problem
      ? `The tool reported: “${complaint}”`
      : `The tool sent the person back${said.message ? `: “${said.message.slice(0, 300)}”` : '.'}`,
    kept: {
      request: {
        method: 'GET',
        url: url.slice(0, 8000),
        parameters: Object.entries(said).filter(([, value]) => value !== null),
      },
    },
    answer: async (wireEntryId) => {
      if (complaint && wireEntryId !== null && link.resource.kind === 'assignment')
        await records.assignments.noteLaunch(
          link.resource.id,
          'complaint',
          { kind: 'wire', id: wireEntryId, at: clock.now(), person: link.person.fullName },
          found('return', 'complained', { words: complaint }),
        )
      return {
        backPath: BACK[link.resource.kind](`/courses/${link.course.id}`, link.resource.id),
        message: said.error ?? said.message,
        isError: problem !== null,
      }
    },
  }
}

/** What comes to an address that was given to nobody is kept nowhere. */
export const aboutNothing = () => undefined

export function aboutLinkOfReturn(_: Context, call: OfLink): About {
  const { link, said } = call
  const isProblem = (said.error ?? said.errorLog) !== null
  return {
    entry: { ...entryOfLink(link), request: { method: 'GET', url: call.url.slice(0, 8000) } },
    tells: { taken: launchChange(link, isProblem ? 'refusal' : 'launch') },
  }
}
