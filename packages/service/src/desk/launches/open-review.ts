import { Refusal, type ErrorCode } from '@bathyscribe/contract'
import { isReviewable } from '@bathyscribe/core/lti13'
import type { Link } from '../../records/statements/links.js'
import type { Actor, Context } from '../context.js'
import { refuseLaunch } from './launch-entry.js'
import { isTeachingSide, launchObstacle } from './obstacles.js'
import { openLogin, type OpenedLaunch } from './open-launch.js'

/** What only keeps people from working, not from looking at what was worked. */
const ABOUT_WORK: readonly ErrorCode[] = [
  'launch.not_open_yet',
  'launch.closed',
  'launch.no_attempt_left',
  'launch.waiting_first_entry',
]

/**
 * Opens one submission in the tool (Submission Review 1.0): for who teaches any learner's, for a learner the own one once results are released.
 * @throws Refusal
 */
export async function openReview(
  context: Context,
  actor: Actor,
  wanted: { columnId: string; personId: string },
): Promise<OpenedLaunch> {
  const started = performance.now()
  const [link, about] = await Promise.all([
    context.statements.findLink({ linkId: wanted.columnId, personId: actor.id }),
    context.statements.findLink({ linkId: wanted.columnId, personId: wanted.personId }),
  ])
  if (!link || !about?.enrolment || !mayReview(link, about)) throw new Refusal('assignment.not_found')
  const obstacle = reviewObstacle(link, context.clock.now())
  if (obstacle) return refuseLaunch(context, link, new Refusal(obstacle), started)
  const { review } = link.resource
  if (review && !isReviewable(review, about.activity))
    return refuseLaunch(context, link, new Refusal('launch.review_not_yet', review.statuses?.join(', ')), started)
  return openLogin(context, actor, link, started, { target: 'window', about })
}

function mayReview(link: Link, about: Link): boolean {
  if (isTeachingSide(link)) return true
  return link.person.id === about.person.id && link.enrolment?.state === 'active' && link.resource.released
}

/** Why a submission cannot be looked at now. */
export function reviewObstacle(link: Link, now: Date): ErrorCode | undefined {
  if (link.resource.kind !== 'assignment' || link.registration.version !== '1.3' || link.resource.review === null)
    return 'launch.no_review'
  const obstacle = launchObstacle(link, now)
  return obstacle && ABOUT_WORK.includes(obstacle) ? undefined : obstacle
}
