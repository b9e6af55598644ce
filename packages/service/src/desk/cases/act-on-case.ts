import {
  Refusal,
  type CaseLetter,
  type CaseRow,
  type CaseStateChange,
  type MissingScoreHeard,
  type NewLetters,
  type Note,
  type Written,
} from '@bathyscribe/contract'
import type { z } from 'zod'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import { readPlace, type Page } from '../../records/paging.js'
import { act, type Actor, type Context } from '../context.js'
import { isAdministrator, requireTeaching, taughtCourse } from '../identity/access.js'
import { personRef } from '../identity/person-ref.js'
import { byWay, chosen } from './chosen.js'
import { learnerOf } from './case-facts.js'
import { toldOfCase } from './read-case.js'

const MOST_NOTES = 50
const MOST_LEARNERS = 5000
const DAY_MS = 24 * 3600_000
const MOST_SAID_A_DAY = 20

/** Opens a case, or closes it. What it is already stays as it is; a note is kept all the same. @throws Refusal */
export async function setCaseState(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  ref: string,
  { state, note }: z.output<typeof CaseStateChange>,
): Promise<void> {
  const { person } = await learnerOf(context, assignment.courseId, ref)
  const key = { assignmentId: assignment.id, personId: person.id }
  await act(
    context,
    {
      doer: actor,
      action: state === 'open' ? 'open case' : 'close case',
      subject: `person ${person.username}`,
      courseId: assignment.courseId,
    },
    async ({ cases }, at) => {
      const isNew = await cases.set(key, state, at)
      if (isNew || note.trim() !== '')
        await cases.add([
          { ...key, at, kind: state === 'open' ? 'opened' : 'closed', byPersonId: actor.id, text: note },
        ])
    },
    () => ({ after: { assignment: assignment.title } }),
  )
  context.changes.publish({ kind: 'case', courseId: assignment.courseId, ...key })
}

/** Writes to the learner, or to the tool's support. What goes by mail is sent within a minute, and tried again while the server does not take it. @throws Refusal */
export async function writeInCase(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  ref: string,
  letter: z.output<typeof CaseLetter>,
): Promise<void> {
  const { person } = await learnerOf(context, assignment.courseId, ref)
  if (letter.to === 'support' && !isAdministrator(actor)) throw new Refusal('case.support_by_administrators')
  if (letter.by === 'mail' && !context.mailer) throw new Refusal('mail.off')
  if (letter.to === 'learner' && letter.by === 'mail' && person.email === null)
    throw new Refusal('case.no_address', person.fullName)
  const key = { assignmentId: assignment.id, personId: person.id }
  const { subject, text, to, by, address } = letter
  await act(
    context,
    { doer: actor, action: `write to ${to}`, subject: `person ${person.username}`, courseId: assignment.courseId },
    async ({ cases }, at) => {
      await cases.add([
        { ...key, at, kind: 'letter', byPersonId: actor.id, subject, text, sentTo: to, sentBy: by, address: address ?? null },
      ]) // oxfmt-ignore
    },
    () => ({ after: { assignment: assignment.title, by, ...(address !== undefined && { address }) } }),
  )
  context.changes.publish({ kind: 'case', courseId: assignment.courseId, ...key })
}

/** Writes the same to several learners of an assignment; all of them or nobody. @throws Refusal for who is none of them */
export async function writeToLearners(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  { people, by, subject, text }: z.output<typeof NewLetters>,
): Promise<Written> {
  if (by === 'mail' && !context.mailer) throw new Refusal('mail.off')
  const learners = await context.records.scoreHistory.learners(assignment.id, MOST_LEARNERS)
  const wanted = chosen(learners, people, { personOf: (one) => one, missing: 'case.not_of_learner' })
  const { reached, withoutAddress } = byWay(wanted, by)
  if (reached.length > 0)
    await act(
      context,
      { doer: actor, action: 'write to learners', subject: `assignment ${assignment.slug}`, courseId: assignment.courseId },
      ({ cases }, at) =>
        cases.add(
          reached.map(({ id }) => ({ assignmentId: assignment.id, personId: id, at, kind: 'letter', byPersonId: actor.id, subject, text, sentTo: 'learner', sentBy: by })),
        ),
      () => ({ after: { by, people: reached.slice(0, 200).map(({ username }) => username) } }),
    ) // oxfmt-ignore
  for (const { id } of reached)
    context.changes.publish({ kind: 'case', courseId: assignment.courseId, assignmentId: assignment.id, personId: id })
  return {
    written: reached.map(personRef),
    withoutAddress: withoutAddress.map(personRef),
  }
}

/** A learner says that the own score is missing: the case is open from then on. @returns what is known already @throws Refusal for those who have no result in it */
export async function reportMissingScore(
  context: Context,
  actor: Actor,
  assignment: AssignmentRecord,
  said: string,
): Promise<z.infer<typeof MissingScoreHeard>> {
  const sentence = await toldOfCase(context, assignment, actor.id)
  const since = new Date(context.clock.now().getTime() - DAY_MS)
  if ((await context.records.cases.timesSaid(actor.id, since)) >= MOST_SAID_A_DAY) throw new Refusal('case.said_often')
  const key = { assignmentId: assignment.id, personId: actor.id }
  await act(
    context,
    { doer: actor, action: 'report missing score', subject: `assignment ${assignment.slug}`, courseId: assignment.courseId },
    async ({ cases }, at) => {
      await cases.set(key, 'open', at)
      await cases.add([{ ...key, at, kind: 'said', byPersonId: actor.id, text: said }])
    },
  ) // oxfmt-ignore
  context.changes.publish({ kind: 'case', courseId: assignment.courseId, ...key })
  const state = (await context.records.cases.state(key))!
  return { sentence, since: state.since.toISOString() }
}

/** Cases of the courses that somebody teaches. @throws Refusal for who teaches none */
export async function listCases(
  { records }: Context,
  actor: Actor,
  asked: { state: 'open' | 'closed'; course?: string | undefined; limit: number; cursor?: string | undefined },
): Promise<Page<CaseRow>> {
  const taught = await requireTeaching(records, actor)
  const course = await taughtCourse(records, taught, asked.course)
  const after = readPlace(asked.cursor)
  const page = await records.cases.list(course === undefined ? taught : [course], { ...asked, after })
  return { ...page, items: page.items.map((one) => ({ ...one, since: one.since.toISOString() })) }
}

/** What somebody was told on their pages and has not put away. */
export async function listNotes({ records }: Context, actor: Actor): Promise<Note[]> {
  const rows = await records.cases.notes(actor.id, MOST_NOTES)
  return rows.map((one) => ({ ...one, at: one.at.toISOString() }))
}

/** @throws Refusal `note.not_found` for what is not theirs */
export async function putNoteAway(context: Context, actor: Actor, id: string): Promise<void> {
  const note = await context.records.cases.note(actor.id, id)
  if (!note) throw new Refusal('note.not_found', id)
  const { courseId, assignmentId } = note
  await act(context, { doer: actor, action: 'put note away', subject: `note ${id}`, courseId }, ({ cases }, at) =>
    cases.putAway(id, at),
  )
  context.changes.publish({ kind: 'case', courseId, assignmentId, personId: actor.id })
}
