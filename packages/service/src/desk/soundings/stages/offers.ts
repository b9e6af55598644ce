import { found, remarksOfPage, saidOf, type Found } from '@bathyscribe/core/checks'
import { MEMBERSHIP_SCOPE } from '@bathyscribe/core/lti13'
import { leavePicking, openPicker } from '../../pickers/open-picker.js'
import { linkFor, tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import type { Run } from './run.js'

/** The roster as the tool may read it, and whether it can. */
export async function soundRoster(run: Run): Promise<Found[]> {
  const { context, tool, assignment, startedAt } = run
  const { expected } = run.sounding
  if (tool.version !== '1.3' || !(tool.scopes as readonly string[]).includes(MEMBERSHIP_SCOPE))
    return [
      expected?.membersFrom == null
        ? found('not tried', 'no_roster_granted', {})
        : found('expected members', 'not_granted', {}),
    ]
  const { members, lastReadAt } = await context.records.rosters.offered(assignment.courseId, tool.id)
  const calls = await context.records.wire.list(null, {
    registrationId: tool.id,
    courseId: assignment.courseId,
    kind: 'service',
    direction: 'received',
    outcome: 'refused',
    since: startedAt,
    limit: 1,
  })
  const refused = calls.items[0]
  const all = [
    refused
      ? found('roster', 'refused', { entry: refused.statement }, { wireEntryId: refused.id })
      : found('roster', 'readable', { members, lastReadAt: lastReadAt?.toISOString() ?? null }),
  ]
  const from = expected?.membersFrom ?? null
  if (from !== null)
    all.push(
      members >= from
        ? found('expected members', 'enough', { from })
        : found('expected members', 'too_few', { members, from }),
    )
  return all
}

/** Opens the tool's picker as an instructor would, and leaves it again without choosing. */
export async function soundPicker(run: Run): Promise<Found[]> {
  const { context, tool, assignment, sounding, signal } = run
  if (!tool.features.includes('picker')) return [found('not tried', 'no_picker', {})]
  const first = await context.records.people.firstOfRole(assignment.courseId, 'instructor')
  const instructor = first ?? (sounding.standIn === null ? null : { id: sounding.standIn })
  if (!instructor) return [found('not tried', 'no_instructor', {})]
  const picking = await openPicker(context, instructor, assignment.courseId, {
    tool: tool.slug,
    purpose: 'assignment',
    multiple: false,
  })
  try {
    const link = await context.statements.findLink({ linkId: picking.id, personId: instructor.id })
    if (!link) return [found('not tried', 'picker_closed', {})]
    const tried = await tryLaunch(context, link, { kind: 'try', soundingId: sounding.id, signal })
    return [opened('picker', null, tried)]
  } finally {
    await leavePicking(context, instructor, assignment.courseId, picking.id)
  }
}

/** Opens the submission of the learner that was launched, as an instructor. */
export async function soundReview(run: Run): Promise<Found[]> {
  const { context, tool, sounding, signal, learner } = run
  // The tool may have said so only when it was launched.
  const assignment = await context.records.assignments.byRef(run.assignment.id)
  if (tool.version !== '1.3' || !assignment.reviewable) return [found('not tried', 'no_review', {})]
  const link = await linkFor(context, assignment, { as: 'instructor' }, sounding.standIn)
  const tried = await tryLaunch(context, link, {
    kind: 'try',
    soundingId: sounding.id,
    signal,
    target: 'window',
    about: learner!.link,
  })
  return [opened('review', learner!.link.person.fullName, tried)]
}

/** A page of the tool beside its content: open, or not, or not what it should be. */
function opened(check: 'picker' | 'review', who: string | null, tried: TriedLaunch): Found {
  const { followed, refusal, wireEntryId } = tried
  if (refusal !== undefined) return found(check, 'refused', { who, said: refusal }, { wireEntryId })
  const [page] = remarksOfPage(followed)
  if (page)
    return found(
      check,
      page.verdict === 'fail' ? 'other_page' : 'doubtful',
      { who, page: saidOf(page) },
      { wireEntryId },
    )
  return found(check, 'opens', { who, status: followed.status, ms: Math.round(followed.durationMs) }, { wireEntryId })
}
