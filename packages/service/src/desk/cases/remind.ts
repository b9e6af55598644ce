import { Refusal, type NewReminder, type Reminded, type Reminders } from '@bathyscribe/contract'
import { reminder } from '@bathyscribe/core/cases'
import type { z } from 'zod'
import { isShown, type AssignmentSummary } from '../../records/assignment-summary.js'
import type { RemindableRow } from '../../records/cases.js'
import type { RecordsInside } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { byWay, chosen } from './chosen.js'
import { written } from './read-case.js'

/** Learners reminded in one go. */
const MOST_AT_ONCE = 2000
/** Nobody is reminded again within this, unless that is said. */
const SPARED_MS = 20 * 3600_000

/** Who never opened an assignment, when they were reminded, and how a reminder reads. */
export async function readReminders(context: Context, assignmentId: string): Promise<Reminders> {
  const assignment = await context.records.assignments.summary(assignmentId)
  const rows = await context.records.cases.neverOpened(assignmentId, MOST_AT_ONCE)
  return {
    items: rows.map(({ person, email, remindedAt }) => ({
      person,
      hasAddress: email !== null,
      remindedAt: remindedAt?.toISOString() ?? null,
    })),
    mail: context.mailer !== null,
    texts: { en: textOf(context, assignment, 'en'), de: textOf(context, assignment, 'de') },
  }
}

/** Reminds those who never opened an assignment; whoever has opened it meanwhile is left alone. @throws Refusal */
export async function remindLearners(
  context: Context,
  actor: Actor,
  assignmentId: string,
  wanted: z.output<typeof NewReminder>,
): Promise<Reminded> {
  const assignment = await context.records.assignments.summary(assignmentId)
  if (!isShown(assignment)) throw new Refusal('reminder.not_shown')
  if (wanted.by === 'mail' && !context.mailer) throw new Refusal('mail.off')
  const text = wanted.text?.trim() ? wanted.text : textOf(context, assignment, 'en')
  const subject = `${assignment.title} (${assignment.course.code})`
  const done = await context.records.transaction(async (inside) => {
    // Two who remind at once do so one after the other: nobody is told twice.
    await inside.assignments.lock(assignmentId)
    const found = await toRemind(inside, assignmentId, wanted, context.clock.now())
    if (found.reached.length === 0) return found
    const at = context.clock.now()
    await inside.cases.add(
      found.reached.map(({ person }) => ({
        ...{ assignmentId, personId: person.id, at, kind: 'reminder' as const, byPersonId: actor.id },
        ...{ subject, text, sentTo: 'learner' as const, sentBy: wanted.by },
      })),
    )
    await inside.audit.add({
      at,
      ...by(actor),
      action: 'remind learners',
      subject: `assignment ${assignment.slug}`,
      courseId: assignment.courseId,
      after: { by: wanted.by, people: found.reached.slice(0, 200).map(({ person }) => person.username) },
    })
    return found
  })
  for (const { person } of done.reached)
    context.changes.publish({ kind: 'case', courseId: assignment.courseId, assignmentId, personId: person.id })
  const people = (rows: readonly RemindableRow[]) => rows.map(({ person }) => person)
  return {
    reminded: people(done.reached),
    withoutAddress: people(done.withoutAddress),
    passedOver: people(done.passedOver),
  }
}

/** Who is reminded of those who are named, and who is not. @throws Refusal */
async function toRemind(
  { cases }: RecordsInside,
  assignmentId: string,
  { people, by: way, again }: z.output<typeof NewReminder>,
  now: Date,
) {
  const all = await cases.neverOpened(assignmentId, MOST_AT_ONCE)
  const named = people ? chosen(all, people, { personOf: (one) => one.person, missing: 'reminder.not_theirs' }) : all
  if (named.length === 0) throw new Refusal('reminder.nobody')
  const spared = now.getTime() - SPARED_MS
  const isSpared = ({ remindedAt }: RemindableRow) => !again && remindedAt !== null && remindedAt.getTime() > spared
  const due = named.filter((one) => !isSpared(one))
  return {
    ...byWay(due, way),
    passedOver: named.filter(isSpared),
  }
}

function textOf({ settings, clock }: Context, assignment: AssignmentSummary, language: 'en' | 'de'): string {
  return reminder(
    {
      assignment: assignment.title,
      course: `${assignment.course.code} ${assignment.course.title}`,
      dueAt: written(assignment.dueAt, assignment.course.timeZone),
      isPastDue: assignment.dueAt !== null && assignment.dueAt < clock.now(),
      address: `${settings.publicUrl}/courses/${assignment.courseId}/assignments/${assignment.id}/work`,
    },
    language,
  )
}
