import { remarksOfPage } from '@bathyscribe/core/checks'
import { MEMBERSHIP_SCOPE } from '@bathyscribe/core/lti13'
import { leavePicking, openPicker } from '../../pickers/open-picker.js'
import { linkFor, tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import { passed, skipped, type Found, type Run } from './run.js'

/** The roster as the tool may read it, and whether it can. */
export async function soundRoster(run: Run): Promise<Found[]> {
  const { context, tool, assignment, startedAt, expected } = run
  if (tool.version !== '1.3' || !(tool.scopes as readonly string[]).includes(MEMBERSHIP_SCOPE))
    return expected?.membersFrom == null
      ? [skipped('The registration grants no roster.')]
      : [
          {
            check: 'expected members',
            verdict: 'fail',
            statement: 'Members are expected in the roster, but the registration grants none.',
            cause: 'The tool may not read the roster that is expected of it.',
            remedy: 'Grant the roster in the registration, or expect no members.',
          },
        ]
  const { members: shown, lastReadAt } = await context.records.rosters.offered(assignment.courseId, tool.id)
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
  const read = lastReadAt ? `the tool last read it at ${lastReadAt.toISOString().slice(0, 16)}Z` : 'the tool has not read it yet' // oxfmt-ignore
  return [
    refused
      ? {
          check: 'roster',
          verdict: 'fail',
          statement: `The tool asked for it, and was refused: ${refused.statement}`,
          cause: refused.statement,
          remedy: 'Look at the wire entry: token, scope and address.',
          wireEntryId: refused.id,
        }
      : passed('roster', `The tool may read ${shown} ${shown === 1 ? 'person' : 'people'}; ${read}.`),
    ...(expected?.membersFrom == null
      ? []
      : [
          shown >= expected.membersFrom
            ? passed('expected members', `At least ${expected.membersFrom} members, as expected.`)
            : ({
                check: 'expected members',
                verdict: 'fail',
                statement: `The roster shows ${shown} members; at least ${expected.membersFrom} are expected.`,
                cause: 'The roster is shorter than is expected of it.',
                remedy: 'Look at the course’s people: was an import incomplete?',
              } satisfies Found),
        ]),
  ]
}

/** Opens the tool's picker as an instructor would, and leaves it again without choosing. */
export async function soundPicker(run: Run): Promise<Found[]> {
  const { context, tool, assignment, sounding, signal } = run
  if (!tool.features.includes('picker')) return [skipped('The registration has no picker.')]
  const [instructor] = await context.records.people.ofRole(assignment.courseId, ['instructor'])
  if (!instructor) return [skipped('The course has no instructor who could choose.')]
  const picking = await openPicker(context, instructor, assignment.courseId, {
    tool: tool.slug,
    purpose: 'assignment',
    multiple: false,
  })
  try {
    const link = await context.statements.findLink({ linkId: picking.id, personId: instructor.id })
    if (!link) return [skipped('The picker was closed in the meantime.')]
    return [judged('picker', 'The tool’s picker', await tryLaunch(context, link, { kind: 'try', soundingId: sounding.id, signal }))] // oxfmt-ignore
  } finally {
    await leavePicking(context, instructor, assignment.courseId, picking.id)
  }
}

/** Opens the submission of the learner that was launched, as an instructor. */
export async function soundReview(run: Run): Promise<Found[]> {
  const { context, tool, sounding, signal, learner } = run
  // The tool may have said so only when it was launched.
  const assignment = await context.records.assignments.byRef(run.assignment.id)
  if (tool.version !== '1.3' || !assignment.reviewable)
    return [skipped('The tool does not say that single submissions can be looked at.')]
  const link = await linkFor(context, assignment, { as: 'instructor' })
  const tried = await tryLaunch(context, link, {
    kind: 'try',
    soundingId: sounding.id,
    signal,
    target: 'window',
    about: learner!.link,
  })
  return [judged('review', `The review of ${learner!.link.person.fullName}`, tried)]
}

function judged(check: string, what: string, { followed, refusal, wireEntryId }: TriedLaunch): Found {
  const [remark] = refusal === undefined ? remarksOfPage(followed) : []
  if (refusal === undefined && !remark)
    return passed(check, `${what} opens: ${followed.status} in ${Math.round(followed.durationMs)} ms.`, { wireEntryId })
  return {
    check,
    verdict: remark?.verdict ?? 'fail',
    statement: `${what} does not open. ${refusal ?? remark!.statement}`,
    cause: refusal === undefined ? remark!.cause : `${what} does not open: ${refusal}`,
    remedy: remark?.remedy ?? 'Read the tool’s own words; the wire entry has what was sent.',
    wireEntryId,
  }
}
