import { Refusal, type LaunchTry } from '@bathyscribe/contract'
import { found, launchRefusal, saidOf, type Follower, type Found } from '@bathyscribe/core/checks'
import { visibleText } from '@bathyscribe/core/text'
import type { Claims } from '@bathyscribe/core/lti13'
import type { Parameter } from '@bathyscribe/core/oauth1'
import { CookieJar } from 'tough-cookie'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { Link } from '../../records/statements/links.js'
import type { LookedAt } from '../../wire/browser/follow.js'
import { answerKept, followLaunch, toFollowed, type Followed } from '../../wire/follow-launch.js'
import { clip } from '../../wire/mask.js'
import { by, type Actor, type Context } from '../context.js'
import { isAdministrator } from '../identity/access.js'
import { launchEntry } from './launch-entry.js'
import type { LaunchOptions } from './launch-facts.js'
import { launchObstacle } from './obstacles.js'
import { reviewObstacle } from './open-review.js'
import { framedTool } from './stage-origins.js'
import { prepareLaunch } from './prepare-launch.js'
import { tryLaunch13 } from './try-launch-13.js'

/** A launch that the service itself posted, with what came back and the entry that shows it. */
export interface TriedLaunch {
  followed: Followed
  /** What was posted to the tool; undefined when it never came to that. Claims of LTI 1.3 only. */
  sent: { url: string; fields: Parameter[]; claims?: Claims } | undefined
  jar: CookieJar
  /** What a browser saw of it, when one followed. */
  seen: LookedAt | null
  /** What is wrong with what the tool asked for before it was launched. */
  wrong: Found | null
  /** Why the tool did not take it, quoting the tool; undefined when it did. */
  refusal: string | undefined
  wireEntryId: string
}

/** The link for one of the people that a launch can be tried as. @param standIn administrator who goes as instructor where the course has none @throws Refusal when there is nobody */
export async function linkFor(
  context: Context,
  assignment: Pick<AssignmentRecord, 'id' | 'courseId'>,
  wanted: z.output<typeof LaunchTry>,
  standIn: string | null,
): Promise<Link> {
  const person = await personFor(context, assignment.courseId, wanted, standIn)
  const link = await context.statements.findLink({ linkId: assignment.id, personId: person.id })
  if (!link) throw new Refusal('assignment.not_found')
  return link
}

async function personFor(
  context: Context,
  courseId: string,
  wanted: z.output<typeof LaunchTry>,
  standIn: string | null,
): Promise<Pick<PersonRecord, 'id'>> {
  if (wanted.as === 'learner') {
    const person = wanted.person === undefined ? null : await context.records.people.byRef(wanted.person)
    const enrolment = person && (await context.records.people.enrolment(courseId, person.id))
    if (!person || enrolment?.role !== 'learner')
      throw new Refusal('enrolment.not_found', wanted.person ?? 'name the learner')
    return person
  }
  const first = await context.records.people.firstOfRole(courseId, wanted.as)
  if (!first && wanted.as === 'instructor' && standIn !== null) return { id: standIn }
  if (!first) throw new Refusal(wanted.as === 'instructor' ? 'launch.no_instructor' : 'launch.no_test_learner')
  return first
}

export interface TryOptions extends LaunchOptions {
  kind: 'try' | 'probe'
  soundingId?: string
  label?: string
  signal?: AbortSignal
  follower?: Follower
  /** Whose submission is to be reviewed. */
  about?: Link
}

/** Posts a launch as a browser would and follows it, leaving a wire entry. @throws Refusal when we would not launch at all. */
export async function tryLaunch(context: Context, link: Link, options: TryOptions): Promise<TriedLaunch> {
  const obstacle = (options.about ? reviewObstacle : launchObstacle)(link, context.clock.now())
  if (obstacle !== undefined) throw new Refusal(obstacle)
  const { followed, sent, jar, seen, wrong } = await send(context, link, options)
  // A page that a browser was shown, or did not show, is judged by what was seen.
  const isSeen = seen !== null && followed.failure === null && !followed.returned && followed.status < 400
  const refusal = isSeen ? undefined : launchRefusal(followed)
  const statement = `${options.label ? `${options.label}: ` : ''}${refusal ?? `The tool answered ${followed.status}.`}`
  const shown = sent && { url: sent.url, fields: sent.claims ? [] : sent.fields }
  const written = await context.statements.writeMessage(
    launchEntry(context, link, shown, {
      kind: options.kind,
      outcome: refusal === undefined ? 'accepted' : followed.status === 0 && !followed.returned ? 'failed' : 'refused',
      code: followed.code,
      statement: clip(statement),
      durationMs: followed.durationMs,
      soundingId: options.soundingId ?? null,
      ...(sent?.claims && { request: { method: 'POST', url: sent.url, body: JSON.stringify(sent.claims) } }),
      response: answerKept(followed),
    }),
  )
  if (!written.written) throw new Error('A launch entry has neither nonce nor score, so it is always written.')
  return { followed, refusal, sent, jar, seen, wrong, wireEntryId: written.wireEntryId }
}

async function send(
  context: Context,
  link: Link,
  options: TryOptions,
): Promise<Pick<TriedLaunch, 'followed' | 'sent' | 'jar' | 'seen' | 'wrong'>> {
  if (link.registration.version === '1.3') return tryLaunch13(context, link, options)
  const prepared = prepareLaunch(context, link, options)
  const jar = new CookieJar()
  if (options.follower !== 'browser')
    return {
      followed: await followLaunch(context.outgoing, { ...prepared, jar, signal: options.signal }),
      sent: prepared,
      jar,
      seen: null,
      wrong: null,
    }
  const seen = await context.browser.follow({
    ...prepared,
    platformUrl: context.settings.publicUrl,
    ...framedTool(link),
    target: options.target ?? link.resource.documentTarget,
    signal: options.signal,
  })
  return { followed: toFollowed(seen.walked), sent: prepared, jar, seen, wrong: null }
}

/** Tries a launch on a person's wish, and notes what it proves. */
export async function tryLaunchOnce(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  wanted: z.output<typeof LaunchTry>,
): Promise<TriedLaunch> {
  const link = await linkFor(context, assignment, wanted, isAdministrator(actor) ? actor.id : null)
  // Before it is done: entering a tool as somebody else is asked about afterwards.
  if (wanted.as === 'learner')
    await context.records.audit.note({
      at: context.clock.now(),
      ...by(actor),
      action: 'launch as somebody',
      subject: `assignment ${assignment.id}`,
      courseId: assignment.courseId,
      after: { as: 'learner', person: link.person.username },
    })
  const tried = await tryLaunch(context, link, { kind: 'try' })
  const who = link.person.fullName
  const { refusal, wrong, followed, wireEntryId } = tried
  await context.records.assignments.noteLaunch(
    assignment.id,
    refusal === undefined ? 'proof' : 'failure',
    { kind: 'wire', id: wireEntryId, at: context.clock.now(), person: who },
    refusal === undefined
      ? null
      : found('taken', 'refused', { who, said: refusal, wrong: wrong && saidOf(wrong), code: followed.code }),
  )
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
