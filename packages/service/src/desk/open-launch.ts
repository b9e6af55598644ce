import { ERRORS, Refusal } from '@bathyscribe/contract'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { Link } from '../records/statements/links.js'
import type { Actor, Context } from './context.js'
import { isTeachingSide, launchEntry, launchObstacle, prepareLaunch, type PreparedLaunch } from './prepare-launch.js'

/**
 * Opens an assignment's tool for a person in a browser. The wire entry is committed before the page is answered; a refused
 * launch leaves one, too.
 * @throws Refusal that says why the person may not open it.
 */
export async function openLaunch(
  context: Context,
  actor: Actor,
  wanted: { assignmentId: string; target: DocumentTarget | undefined; rehearse: boolean },
): Promise<PreparedLaunch> {
  const started = performance.now()
  const own = await context.statements.findLink({ assignmentId: wanted.assignmentId, personId: actor.id })
  if (!own || (own.enrolment === undefined && actor.siteRole !== 'administrator'))
    throw new Refusal('assignment.not_found')
  const link = wanted.rehearse ? await asTestLearner(context, own) : own

  const obstacle = launchObstacle(link)
  if (obstacle !== undefined) {
    await context.statements.writeMessage(
      launchEntry(context, link, undefined, {
        kind: 'launch',
        outcome: 'refused',
        code: obstacle,
        statement: ERRORS[obstacle].sentence,
        durationMs: performance.now() - started,
      }),
    )
    context.changes.publish({
      kind: 'refusal',
      courseId: link.course.id,
      assignmentId: link.assignment.id,
      personId: link.person.id,
    })
    throw new Refusal(obstacle)
  }

  const prepared = prepareLaunch(context, link, wanted.target ? { target: wanted.target } : {})
  await context.statements.writeMessage(
    launchEntry(context, link, prepared, {
      kind: 'launch',
      outcome: 'accepted',
      statement: `Sent ${link.person.fullName} to ${new URL(prepared.url).host}.`,
      durationMs: performance.now() - started,
      visit: true,
    }),
  )
  context.changes.publish({
    kind: 'launch',
    courseId: link.course.id,
    assignmentId: link.assignment.id,
    personId: link.person.id,
  })
  return prepared
}

/** The same link for the course's test learner. @throws Refusal unless the person teaches the course. */
async function asTestLearner(context: Context, own: Link): Promise<Link> {
  if (!isTeachingSide(own)) throw new Refusal('access.denied')
  const [testLearner] = await context.records.people.ofRole(own.course.id, ['test_learner'])
  const link =
    testLearner && (await context.statements.findLink({ assignmentId: own.assignment.id, personId: testLearner.id }))
  if (!link) throw new Refusal('launch.no_test_learner')
  return link
}
