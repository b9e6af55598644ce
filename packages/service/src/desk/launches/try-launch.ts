import { Refusal, type LaunchTry } from '@bathyscribe/contract'
import { launchRefusal, visibleText } from '@bathyscribe/core/checks'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { Link } from '../../records/statements/links.js'
import { answerKept, followLaunch, type Followed } from '../../wire/follow-launch.js'
import { clip } from '../../wire/mask.js'
import type { Context } from '../context.js'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { launchEntry } from './launch-entry.js'
import type { LaunchOptions } from './launch-facts.js'
import { launchObstacle } from './obstacles.js'
import { prepareLaunch } from './prepare-launch.js'
import { tryLaunch13 } from './try-launch-13.js'

/** A launch that the service itself posted, with what came back and the entry that shows it. */
export interface TriedLaunch {
  followed: Followed
  /** Why the tool did not take it, quoting the tool; undefined when it did. */
  refusal: string | undefined
  wireEntryId: string
}

/** The link for one of the people that a launch can be tried as. @throws Refusal when the course has none. */
export async function linkFor(
  context: Context,
  assignment: AssignmentRecord,
  wanted: z.output<typeof LaunchTry>,
): Promise<Link> {
  const person = await personFor(context, assignment.courseId, wanted)
  const link = await context.statements.findLink({ linkId: assignment.id, personId: person.id })
  if (!link) throw new Refusal('assignment.not_found')
  return link
}

async function personFor(
  context: Context,
  courseId: string,
  wanted: z.output<typeof LaunchTry>,
): Promise<Pick<PersonRecord, 'id'>> {
  if (wanted.as === 'learner') {
    const person = wanted.person === undefined ? null : await context.records.people.byRef(wanted.person)
    const enrolment = person && (await context.records.people.enrolment(courseId, person.id))
    if (!person || enrolment?.role !== 'learner')
      throw new Refusal('enrolment.not_found', wanted.person ?? 'name the learner')
    return person
  }
  const [first] = await context.records.people.ofRole(courseId, [wanted.as])
  if (!first) throw new Refusal(wanted.as === 'instructor' ? 'launch.no_instructor' : 'launch.no_test_learner')
  return first
}

/** Posts a launch as a browser would and follows it, leaving a wire entry. @throws Refusal when we would not launch at all. */
export async function tryLaunch(
  context: Context,
  link: Link,
  options: LaunchOptions & { kind: 'try' | 'probe'; soundingId?: string; label?: string; signal?: AbortSignal },
): Promise<TriedLaunch> {
  const obstacle = launchObstacle(link, context.clock.now())
  if (obstacle !== undefined) throw new Refusal(obstacle)
  const { followed, sent, claims } = await send(context, link, options)
  const refusal = launchRefusal(followed)
  const statement = `${options.label ? `${options.label}: ` : ''}${refusal ?? `The tool answered ${followed.status}.`}`
  const written = await context.statements.writeMessage(
    launchEntry(context, link, sent, {
      kind: options.kind,
      outcome: refusal === undefined ? 'accepted' : followed.status === 0 && !followed.returned ? 'failed' : 'refused',
      code: followed.code,
      statement: clip(statement),
      durationMs: followed.durationMs,
      soundingId: options.soundingId ?? null,
      ...(claims !== undefined && sent && { request: { method: 'POST', url: sent.url, body: JSON.stringify(claims) } }),
      response: answerKept(followed),
    }),
  )
  if (!written.written) throw new Error('A launch entry has neither nonce nor score, so it is always written.')
  return { followed, refusal, wireEntryId: written.wireEntryId }
}

async function send(
  context: Context,
  link: Link,
  options: LaunchOptions & { signal?: AbortSignal },
): Promise<{ followed: Followed; sent: { url: string; fields: Parameter[] } | undefined; claims?: unknown }> {
  if (link.registration.version === '1.3') {
    const { followed, sent } = await tryLaunch13(context, link, options)
    return { followed, sent: sent && { url: sent.url, fields: [] }, ...(sent && { claims: sent.claims }) }
  }
  const prepared = prepareLaunch(context, link, options)
  return { followed: await followLaunch(context.outgoing, { ...prepared, signal: options.signal }), sent: prepared }
}

/** Tries a launch on a person's wish, and notes what it proves. */
export async function tryLaunchOnce(
  context: Context,
  assignment: AssignmentRecord,
  wanted: z.output<typeof LaunchTry>,
): Promise<TriedLaunch> {
  const link = await linkFor(context, assignment, wanted)
  const tried = await tryLaunch(context, link, { kind: 'try' })
  await context.records.assignments.noteLaunch(assignment.id, tried.refusal === undefined ? 'proof' : 'failure', {
    kind: 'wire',
    id: tried.wireEntryId,
    at: context.clock.now(),
    person: link.person.fullName,
    statement: tried.refusal ?? '',
  })
  context.changes.publish({
    kind: 'launch',
    courseId: link.course.id,
    assignmentId: assignment.id,
    personId: link.person.id,
  })
  return tried
}

export function excerpt(followed: Followed): string {
  return visibleText(followed.body).slice(0, 600)
}
