import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import { readScore, SCORE_SCOPE, type SentScore } from '@bathyscribe/core/lti13'
import { pointsOf } from '@bathyscribe/core/scores'
import type { ServiceColumn } from '../../records/statements/service-callers.js'
import type { MessageToWrite } from '../../records/statements/messages.js'
import { clip } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { leaveServiceEntry, toolCaller, type ServiceCall, type ToolCaller } from './tool-caller.js'

/** A score as it came in; `body` is read, `text` as it crossed the wire. */
export interface ScoreCall {
  url: string
  bearer: string | undefined
  courseId: string
  lineItemId: string
  body: unknown
  text: string
}

/** How often points may change under a score on its way before we give up. */
const MOST_AHEAD_MS = 24 * 3600_000
const TRIES = 3

/** Who is scored, and where. */
interface Scored {
  caller: ToolCaller
  column: ServiceColumn
  person: NonNullable<ToolCaller['person']>
}

/**
 * Takes a score of LTI 1.3 (AGS 2.0 section 3.4). The steps, in their order: token and scope; the column, which has to be the tool's; the form; the person, who has to be a
 * learner of the course; that it is newer than what stands. Trail, result and wire entry are written in one statement. A score that is not final moves the state only.
 * @throws Refusal; a refused score of a known person stands in the trail, too
 */
export async function receiveScore(context: Context, call: ScoreCall): Promise<void> {
  const started = performance.now()
  const score = readScore(call.body)
  const asked: ServiceCall = {
    bearer: call.bearer,
    scope: SCORE_SCOPE,
    courseId: call.courseId,
    column: call.lineItemId,
    subject: 'code' in score ? undefined : score.userId,
  }
  let caller: ToolCaller | undefined
  try {
    caller = await toolCaller(context, asked)
    const { column, person } = caller
    if (!column) throw new Refusal('line_item.not_found', call.lineItemId.slice(0, 60))
    if ('code' in score) throw new Refusal(score.code, score.detail)
    // One score of a wrong clock would lock all that come after it.
    if (score.timestamp.getTime() > context.clock.now().getTime() + MOST_AHEAD_MS)
      throw new Refusal('score_service.timestamp', `“${score.sentAt}” is more than a day ahead of our clock`)
    if (!person) throw new Refusal('score_service.unknown_person', `“${score.userId.slice(0, 60)}”`)
    await record(context, call, asked, { caller, column, person }, score, started)
  } catch (error) {
    if (error instanceof Refusal && !(error instanceof Recorded))
      await leaveServiceEntry(
        context,
        caller,
        { method: 'POST', url: call.url, started, kind: 'score', body: call.text },
        { outcome: 'refused', statement: sentenceOf(error), code: error.code, detail: error.detail, error },
      )
    throw error
  }
}

/** A refusal that stands in the trail already. */
class Recorded extends Refusal {}

async function record(
  context: Context,
  call: ScoreCall,
  asked: ServiceCall,
  scored: Scored,
  score: SentScore,
  started: number,
): Promise<void> {
  const { person } = scored
  const refused = isScored(person.role) && person.state === 'active' ? undefined : ('score.not_a_learner' as const)
  let { column } = scored
  for (let attempt = 1; ; attempt++) {
    const entry = entryOf(context, call, { ...scored, column }, score, refused, started)
    if ((await context.statements.writeMessage(entry)).written) break
    // What stands is newer, or the points changed just now, or another column took its place.
    const standing = await context.records.scores.standing(column.id, person.id)
    if (standing?.sentAt && standing.sentAt >= score.timestamp)
      throw new Refusal('score_service.not_newer', score.timestamp.toISOString())
    if (attempt === TRIES) throw new Refusal('record.changed_meanwhile')
    const now = await toolCaller(context, asked)
    if (!now.column) throw new Refusal('line_item.not_found')
    column = now.column
  }
  if (refused) throw new Recorded(refused)
  context.changes.publish({
    kind: 'score',
    courseId: scored.caller.course.id,
    assignmentId: column.id,
    personId: person.id,
  })
}

function entryOf(
  context: Context,
  call: ScoreCall,
  { caller, column, person }: Scored,
  score: SentScore,
  refused: ErrorCode | undefined,
  started: number,
): MessageToWrite {
  const { given } = score
  const operation = score.gradingProgress !== 'FullyGraded' ? 'progress' : given === null ? 'delete' : 'replace'
  const counts = operation === 'replace' ? given : null
  return {
    at: context.clock.now(),
    kind: 'score',
    direction: 'received',
    outcome: refused ? 'refused' : 'accepted',
    code: refused ?? null,
    detail: null,
    statement: refused ? sentenceOf({ code: refused }) : statementOf(score, person.fullName),
    registrationId: caller.tool.id,
    courseId: caller.course.id,
    assignmentId: column.id,
    personId: person.id,
    soundingId: null,
    durationMs: performance.now() - started,
    request: { method: 'POST', url: call.url, body: clip(call.text) },
    response: null,
    score: {
      operation,
      outcome: refused ? 'refused' : 'accepted',
      code: refused ?? null,
      sent: given?.sent ?? null,
      sentOutOf: given?.outOf ?? null,
      fraction: counts?.fraction ?? null,
      points: counts ? pointsOf(counts.fraction, column.points) : null,
      outOf: column.points,
      resultData: null,
      sentAt: score.sentAt,
      sentTo: column.sentTo,
      activity: score.activityProgress,
      grading: score.gradingProgress,
      comment: score.comment,
      submittedAt: score.submittedAt,
      scoredBy: score.scoringUserId,
    },
  }
}

function statementOf(score: SentScore, name: string): string {
  if (score.gradingProgress !== 'FullyGraded')
    return `${name} is ${score.activityProgress}, ${score.gradingProgress}: no points move.`
  return score.given
    ? `${score.given.sent} of ${score.given.outOf} for ${name}, recorded.`
    : `The score of ${name} was cleared.`
}
