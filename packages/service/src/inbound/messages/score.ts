import { Problem } from '@bathyscribe/core/result'
import { Refusal } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import { readScore, type ScoreProblem, type SentScore } from '@bathyscribe/core/lti13'
import { pointsOf } from '@bathyscribe/core/scores'
import type { Context } from '../../desk/context.js'
import type { MessageToWrite } from '../../records/statements/messages.js'
import type { CallerRow, ServiceColumn } from '../../records/statements/service-callers.js'
import { refuseByRoute, type About, type Refused, type Taken } from '../message.js'
import { aboutCaller, type Call, type WithCaller } from './service.js'

/** A score as it came in; `body` is what was read of it as JSON. */
export interface ScoreCall extends Call {
  body: unknown
}
type Read = ScoreCall & { sent: SentScore | ScoreProblem; subject: string | undefined }
type ToColumn = WithCaller<Read> & { to: ServiceColumn }
type Whole = ToColumn & { score: SentScore }
type Placed = Whole & { person: NonNullable<CallerRow['person']> }

/** One score of a wrong clock would lock all that come after it. */
const MOST_AHEAD_MS = 24 * 3600_000

/** Reads the score (AGS 2.0 section 3.4); what is wrong with it is told only to who may send it. */
export function scoreSent(_: Context, { body }: ScoreCall) {
  const sent = readScore(body)
  return { sent, subject: sent instanceof Problem ? undefined : sent.userId }
}

/** That the column is the tool's own, in this course. */
export function ownColumn(_: Context, { caller, column }: WithCaller<Read>): { to: ServiceColumn } | Refusal {
  return caller.column ? { to: caller.column } : new Refusal('line_item.not_found', column?.slice(0, 60))
}

export function wholeScore(_: Context, { sent }: ToColumn): { score: SentScore } | Refusal {
  return sent instanceof Problem ? Refusal.of(sent) : { score: sent }
}

export function notAhead({ clock }: Context, { score }: Whole): object | Refusal {
  return score.timestamp.getTime() > clock.now().getTime() + MOST_AHEAD_MS
    ? new Refusal('score_service.timestamp', `“${score.sentAt}” is more than a day ahead of our clock`)
    : {}
}

export function personOfCourse(_: Context, { caller, score }: Whole): Pick<Placed, 'person'> | Refusal {
  return caller.person
    ? { person: caller.person }
    : new Refusal('score_service.unknown_person', `“${score.userId.slice(0, 60)}”`)
}

export function learnerOfCourse(_: Context, { person }: Placed): object | Refusal {
  return isScored(person.role) && person.state === 'active' ? {} : new Refusal('score.not_a_learner')
}

/** Adds to the trail and moves the result, unless something newer stands. A score that is not final moves the state only. */
export function score(context: Context, call: Placed): Taken<undefined> {
  const { to, person, score: sent } = call
  return {
    statement: statementOf(sent, person.fullName),
    kept: { score: scoreOf(call) },
    answer: () => undefined,
    isOver: async () => {
      const standing = await context.records.scores.standing(to.id, person.id)
      return standing?.sentAt && standing.sentAt >= sent.timestamp
        ? new Refusal('score_service.not_newer', sent.timestamp.toISOString())
        : undefined
    },
  }
}

export function aboutScored(context: Context, call: Placed): About {
  const { entry } = aboutCaller(context, call)
  const place = { courseId: call.caller.course.id, assignmentId: call.to.id, personId: call.person.id }
  return { entry: { ...entry, ...place }, tells: { taken: { kind: 'score', ...place } } }
}

/** The refused score of a known person stands in the trail, too. */
export function refuseScored(context: Context, call: Placed, refusal: Refusal): Refused<never> {
  const { answer } = refuseByRoute(context, call, refusal)
  const isOfPerson = refusal.code === 'score.not_a_learner'
  return {
    answer,
    ...(isOfPerson && { kept: { score: { ...scoreOf(call), outcome: 'refused' as const, code: refusal.code } } }),
  }
}

function scoreOf({ score: sent, to }: Placed): NonNullable<MessageToWrite['score']> {
  const { given } = sent
  const operation = sent.gradingProgress !== 'FullyGraded' ? 'progress' : given === null ? 'delete' : 'replace'
  const counts = operation === 'replace' ? given : null
  return {
    operation,
    outcome: 'accepted',
    code: null,
    sent: given?.sent ?? null,
    sentOutOf: given?.outOf ?? null,
    fraction: counts?.fraction ?? null,
    points: counts ? pointsOf(counts.fraction, to.points) : null,
    outOf: to.points,
    handedIn: null,
    sentAt: sent.sentAt,
    sentTo: to.sentTo,
    activity: sent.activityProgress,
    grading: sent.gradingProgress,
    comment: sent.comment,
    submittedAt: sent.submittedAt,
    scoredBy: sent.scoringUserId,
  }
}

function statementOf(sent: SentScore, name: string): string {
  if (sent.gradingProgress !== 'FullyGraded')
    return `${name} is ${sent.activityProgress}, ${sent.gradingProgress}: no points move.`
  return sent.given
    ? `${sent.given.sent} of ${sent.given.outOf} for ${name}, recorded.`
    : `The score of ${name} was cleared.`
}
