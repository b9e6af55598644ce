import { Problem } from '../result/index.js'
import { plainDecimal } from '../text/index.js'
import { plainText } from '../content/item.js'
import { asObject, type Fields } from '../intake/json.js'
import { fractionOf } from '../scores/points.js'

/** Assignment and Grade Services 2.0. */
const AGS = 'https://purl.imsglobal.org/spec/lti-ags/'
export const AGS_CLAIM = `${AGS}claim/endpoint`
export const SCORE_SCOPE = `${AGS}scope/score`
export const LINE_ITEM_SCOPE = `${AGS}scope/lineitem`
export const LINE_ITEM_READ_SCOPE = `${AGS}scope/lineitem.readonly`
export const SCORE_MEDIA_TYPE = 'application/vnd.ims.lis.v1.score+json'
export const RESULT_READ_SCOPE = `${AGS}scope/result.readonly`
export const RESULTS_MEDIA_TYPE = 'application/vnd.ims.lis.v2.resultcontainer+json'
export const LINE_ITEM_MEDIA_TYPE = 'application/vnd.ims.lis.v2.lineitem+json'
export const LINE_ITEMS_MEDIA_TYPE = 'application/vnd.ims.lis.v2.lineitemcontainer+json'

const ACTIVITY = ['Initialized', 'Started', 'InProgress', 'Submitted', 'Completed'] as const
const GRADING = ['FullyGraded', 'Pending', 'PendingManual', 'Failed', 'NotReady'] as const

/** A score as a tool posts it (AGS 2.0 section 3.4.1). */
export interface SentScore {
  /** The subject of the person's launches. */
  userId: string
  timestamp: Date
  /** The same to the microsecond: two scores of one millisecond have an order, too. */
  sentAt: string
  activityProgress: (typeof ACTIVITY)[number]
  gradingProgress: (typeof GRADING)[number]
  /** What was given, out of what, and what that is of 1; above 1 is extra credit. Null when no score was given. */
  given: { sent: string; outOf: string; fraction: string } | null
  comment: string | null
  submittedAt: Date | null
  /** Who gave the score, as the tool names them; null where it does not say, or a machine did. */
  scoringUserId: string | null
}

/** Why a score is not taken. */
export type ScoreProblem = Problem<
  | 'score_service.malformed'
  | 'score_service.timestamp'
  | 'score_service.progress'
  | 'score_service.given'
  | 'score_service.maximum'
>

const TIMESTAMP = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}:\d{2}(\.\d{1,9})?(Z|[+-]\d{2}:?\d{2})$/

/** Reads the body of a score (AGS 2.0 section 3.4.1). Does NOT know persons, line items, or what came before. */
export function readScore(value: unknown): SentScore | ScoreProblem {
  const score = asObject(value)
  if (!score) return new Problem('score_service.malformed', 'not an object')
  const { userId, timestamp, activityProgress, gradingProgress } = score
  if (typeof userId !== 'string' || userId === '' || userId.length > 255)
    return new Problem('score_service.malformed', 'userId')
  const at = momentOf(timestamp)
  if (!at) return new Problem('score_service.timestamp', `“${show(timestamp)}”`)
  const activity = ACTIVITY.find((one) => one === activityProgress)
  const grading = GRADING.find((one) => one === gradingProgress)
  if (!activity || !grading)
    return new Problem(
      'score_service.progress',
      activity ? `gradingProgress “${show(gradingProgress)}”` : `activityProgress “${show(activityProgress)}”`,
    )
  const given = readGiven(score)
  if (given instanceof Problem) return given
  const submittedAt = momentOf(asObject(score['submission'])?.['submittedAt'])
  return {
    userId,
    timestamp: at,
    sentAt: toMicroseconds(String(timestamp), at),
    activityProgress: activity,
    gradingProgress: grading,
    given,
    comment: plainText(score['comment'], 4000) || null,
    submittedAt,
    scoringUserId: plainText(score['scoringUserId'], 255) || null,
  }
}

/** A timestamp in UTC with six decimals, which is what the records hold. */
function toMicroseconds(text: string, at: Date): string {
  const decimals = /\.(\d{1,9})/.exec(text)?.[1] ?? ''
  return `${at.toISOString().slice(0, 19)}.${decimals.padEnd(6, '0').slice(0, 6)}Z`
}

/** ISO 8601 with a zone; null for everything else. */
export function momentOf(value: unknown): Date | null {
  const at = typeof value === 'string' && TIMESTAMP.test(value) ? new Date(value) : undefined
  return at && !Number.isNaN(at.getTime()) ? at : null
}

function readGiven({ scoreGiven, scoreMaximum }: Fields): SentScore['given'] | ScoreProblem {
  if (scoreGiven === undefined || scoreGiven === null) return null
  const given = decimalOf(scoreGiven)
  if (given === undefined) return new Problem('score_service.given', `“${show(scoreGiven)}”`)
  const maximum = decimalOf(scoreMaximum)
  if (maximum === undefined || Number(maximum) <= 0)
    return new Problem('score_service.maximum', `“${show(scoreMaximum)}”`)
  return { sent: given, outOf: maximum, fraction: fractionOf(given, maximum) }
}

/** A JSON number that is not negative, as plain decimal text with at most 12 decimals. */
export function decimalOf(value: unknown): string | undefined {
  if (typeof value !== 'number' || !Number.isFinite(value) || value < 0 || value > 1_000_000) return undefined
  const text = String(value)
  return /^\d+(\.\d+)?$/.test(text) ? text : plainDecimal(value.toFixed(12))
}

function show(value: unknown): string {
  return (typeof value === 'string' ? value : (JSON.stringify(value) ?? 'nothing')).slice(0, 60)
}
