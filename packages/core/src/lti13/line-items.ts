import { Problem } from '../result/index.js'
import { plainText, type SubmissionReview } from '../content/item.js'
import { asObject } from '../intake/json.js'
import { decimalOf, momentOf } from './scores.js'

/** A column as a tool wants it (AGS 2.0 section 3.2). */
export interface WantedLineItem {
  label: string
  /** Exact decimal text above 0. */
  points: string
  resourceId: string | null
  tag: string | null
  /** The identifier of one of the tool's own links. */
  resourceLinkId: string | null
  opensAt: Date | null
  dueAt: Date | null
  released: boolean
  /** Whether the tool shows single submissions of it, and where (Submission Review 1.0 section 3.2). */
  review: SubmissionReview | null
}

export type LineItemProblem = Problem<'line_item.malformed' | 'line_item.maximum'>

const MOST_POINTS = 100_000
const MOST_STATUSES = 20

/** Reads the body of a line item (AGS 2.0 section 3.2). Does NOT know which links are the tool's. */
export function readLineItem(value: unknown): WantedLineItem | LineItemProblem {
  const item = asObject(value)
  if (!item) return new Problem('line_item.malformed', 'not an object')
  const label = plainText(item['label'], 200)
  if (!label) return new Problem('line_item.malformed', 'label')
  const points = decimalOf(item['scoreMaximum'])
  if (points === undefined || Number(points) <= 0 || Number(points) > MOST_POINTS)
    return new Problem('line_item.maximum', JSON.stringify(item['scoreMaximum'] ?? null).slice(0, 40))
  for (const name of ['startDateTime', 'endDateTime'])
    if (item[name] !== undefined && item[name] !== null && !momentOf(item[name]))
      return new Problem('line_item.malformed', name)
  const review = readReview(item['submissionReview'])
  if (review === undefined) return new Problem('line_item.malformed', 'submissionReview')
  return {
    label,
    points,
    resourceId: text(item['resourceId']),
    tag: text(item['tag']),
    resourceLinkId: text(item['resourceLinkId']),
    opensAt: momentOf(item['startDateTime']),
    dueAt: momentOf(item['endDateTime']),
    released: item['gradesReleased'] !== false,
    review,
  }
}

/** A `submissionReview` of a line item or of a deep-linked one; undefined when it cannot be read. */
export function readReview(value: unknown): SubmissionReview | null | undefined {
  if (value === undefined || value === null) return null
  const review = asObject(value)
  if (!review) return undefined
  const { url, reviewableStatus } = review
  if (url !== undefined && (typeof url !== 'string' || !/^https?:\/\//.test(url) || url.length > 2000)) return undefined
  const custom = Object.entries(asObject(review['custom']) ?? {}).filter(
    (one): one is [string, string] => typeof one[1] === 'string',
  )
  const statuses = reviewableStatus === undefined || reviewableStatus === null ? null : readStatuses(reviewableStatus)
  if (statuses === undefined) return undefined
  return {
    url: url ?? null,
    label: text(review['label']),
    statuses,
    custom: Object.fromEntries(custom.slice(0, 50).map(([name, own]) => [plainText(name, 100), plainText(own, 2000)])),
  }
}

function readStatuses(value: unknown): string[] | undefined {
  if (!Array.isArray(value) || value.length > MOST_STATUSES) return undefined
  const statuses = value.map((one) => (typeof one === 'string' ? plainText(one, 60) : ''))
  return statuses.includes('') ? undefined : statuses
}

/** Whether a tool shows a submission that is this far (`activityProgress` of its last score; null before the first). */
export function isReviewable({ statuses }: Pick<SubmissionReview, 'statuses'>, activity: string | null): boolean {
  return statuses === null || (activity !== null && statuses.includes(activity))
}

function text(value: unknown): string | null {
  return plainText(value, 255) || null
}
