import { Refusal, sentenceOf, type ErrorCode } from '@bathyscribe/contract'
import { isScored } from '@bathyscribe/core/identity'
import { readScore, SCORE_SCOPE, type SentScore } from '@bathyscribe/core/lti13'
import { pointsOf } from '@bathyscribe/core/scores'
import type { Link } from '../../records/statements/links.js'
import type { MessageToWrite } from '../../records/statements/messages.js'
import { clip } from '../../wire/mask.js'
import type { Context } from '../context.js'
import { launchEntry } from '../launches/launch-entry.js'
import { leaveServiceEntry, toolCaller, type ToolCaller } from './tool-caller.js'

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
const TRIES = 3

/**
 * Takes a score of LTI 1.3 (AGS 2.0 section 3.4). The steps, in their order: token and scope; the column, which has to be the tool's; the form; the person, who has to be a
 * learner of the course; that it is newer than what stands. Trail, result and wire entry are written in one statement. A score that is not final moves nothing.
 * @throws Refusal; a refused score of a known person stands in the trail, too
 */
export async function receiveScore(context: Context, call: ScoreCall): Promise<void> {
  const started = performance.now()
  let caller: ToolCaller | undefined
  try {
    caller = await toolCaller(context, { bearer: call.bearer, scope: SCORE_SCOPE, courseId: call.courseId })
    const assignment = await context.records.assignments.columnOf(caller.course.id, caller.tool.id, call.lineItemId)
    const score = readScore(call.body)
    if ('code' in score) throw new Refusal(score.code, score.detail)
    const personId = await context.records.people.idOfSubject(score.userId)
    const link =
      personId === undefined ? undefined : await context.statements.findLink({ linkId: assignment.id, personId })
    if (!link?.enrolment) throw new Refusal('score_service.unknown_person', `“${score.userId.slice(0, 60)}”`)
    await record(context, call, link, score, started)
  } catch (error) {
    if (error instanceof Refusal && !(error instanceof Recorded))
      await leaveServiceEntry(
        context,
        caller,
        { url: call.url, started, kind: 'score' },
        {
          outcome: 'refused',
          statement: sentenceOf(error),
          code: error.code,
          detail: error.detail,
        },
      )
    throw error
  }
}

/** A refusal that stands in the trail already. */
class Recorded extends Refusal {}

async function record(context: Context, call: ScoreCall, link: Link, score: SentScore, started: number): Promise<void> {
  const refused =
    isScored(link.enrolment?.role) && link.enrolment?.state === 'active' ? undefined : ('score.not_a_learner' as const)
  for (let attempt = 1; ; attempt++) {
    const current =
      attempt === 1 ? link : await context.statements.findLink({ linkId: link.resource.id, personId: link.person.id })
    if (!current) throw new Refusal('line_item.not_found')
    const written = await context.statements.writeMessage(entryOf(context, call, current, score, refused, started))
    if (written.written) break
    // Either the points changed just now, or what stands is newer.
    const standing = await context.records.scores.standing(link.resource.id, link.person.id)
    if (standing?.sentAt && standing.sentAt >= score.timestamp)
      throw new Refusal('score_service.not_newer', score.timestamp.toISOString())
    if (attempt === TRIES) throw new Refusal('record.changed_meanwhile')
  }
  if (refused) throw new Recorded(refused)
  context.changes.publish({
    kind: 'score',
    courseId: link.course.id,
    assignmentId: link.resource.id,
    personId: link.person.id,
  })
}

function entryOf(
  context: Context,
  call: ScoreCall,
  link: Link,
  score: SentScore,
  refused: ErrorCode | undefined,
  started: number,
): MessageToWrite {
  const final = score.gradingProgress === 'FullyGraded'
  const { points } = link.resource
  const given = score.fraction === null ? 'no score' : `${score.fraction} of 1`
  return launchEntry(context, link, undefined, {
    kind: 'score',
    direction: 'received',
    outcome: refused ? 'refused' : 'accepted',
    code: refused ?? null,
    statement: refused
      ? sentenceOf({ code: refused })
      : final
        ? `${given} for ${link.person.fullName}, recorded.`
        : `${link.person.fullName} is ${score.gradingProgress}: nothing moves in the gradebook yet.`,
    durationMs: performance.now() - started,
    request: { method: 'POST', url: call.url, body: clip(call.text) },
    ...(final && {
      score: {
        operation: score.fraction === null ? 'delete' : 'replace',
        outcome: refused ? 'refused' : 'accepted',
        code: refused ?? null,
        sent: score.fraction,
        fraction: score.fraction,
        points: score.fraction === null ? null : pointsOf(score.fraction, points),
        outOf: points,
        resultData: score.comment === null ? null : { kind: 'text', value: score.comment },
        sentAt: score.timestamp,
      },
    }),
  })
}
