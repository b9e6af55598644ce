import { Refusal } from '@bathyscribe/contract'
import type { DocumentTarget } from '@bathyscribe/core/lti1'
import type { Parameter } from '@bathyscribe/core/oauth1'
import type { Link } from '../../records/statements/links.js'
import { mask } from '../../wire/mask.js'
import { by, type Actor, type Context } from '../context.js'
import { launchEntry, openingKind, publishLaunch, refuseLaunch } from './launch-entry.js'
import { prepareLogin } from './login.js'
import { isTeachingSide, launchObstacle } from './obstacles.js'
import { prepareLaunch } from './prepare-launch.js'

/** The form that opens a tool: the launch itself by LTI 1.1, the login initiation by LTI 1.3. */
export interface OpenedLaunch {
  url: string
  fields: Parameter[]
  version: '1.1' | '1.3'
}

/**
 * Opens a link's tool for a person in a browser. `own` is the link as it is for them, `started` when they asked (`performance.now()`). The wire entry is committed before the page is answered; a refused
 * launch leaves one, too.
 * @throws Refusal that says why the person may not open it.
 */
export async function openLaunch(
  context: Context,
  actor: Actor,
  own: Link | undefined,
  wanted: { target: DocumentTarget | undefined; rehearse: boolean; started: number },
): Promise<OpenedLaunch> {
  const { started } = wanted
  if (!own || (own.enrolment === undefined && actor.siteRole !== 'administrator'))
    throw new Refusal('assignment.not_found')
  const link = wanted.rehearse ? await asTestLearner(context, own) : own

  const obstacle = launchObstacle(link, context.clock.now())
  // Who is not of the course goes in by the site's own right, and that is noted.
  if (obstacle === undefined && own.enrolment === undefined)
    await context.records.audit.note({
      at: context.clock.now(),
      ...by(actor),
      action: 'launch as administrator',
      subject: `${own.resource.kind} ${own.resource.id}`,
      courseId: own.course.id,
      after: { as: link.person.username },
    })
  if (obstacle !== undefined) return refuseLaunch(context, link, new Refusal(obstacle), started)
  return link.registration.version === '1.3'
    ? openLogin(context, actor, link, started, { target: wanted.target })
    : openSigned(context, link, wanted.target, started)
}

async function openSigned(
  context: Context,
  link: Link,
  target: DocumentTarget | undefined,
  started: number,
): Promise<OpenedLaunch> {
  const prepared = prepareLaunch(context, link, target ? { target } : {})
  await context.statements.writeMessage(
    launchEntry(context, link, prepared, {
      kind: openingKind(link),
      outcome: 'accepted',
      statement: `Sent ${link.person.fullName} to ${new URL(prepared.url).host}.`,
      durationMs: performance.now() - started,
      visit: link.resource.kind === 'assignment',
    }),
  )
  await noteEntry(context, link)
  publishLaunch(context, link, 'launch')
  return { ...prepared, version: '1.1' }
}

/** The launch proper follows when the tool's authorisation request comes; until then this is all that is known. @param about whose submission is to be reviewed */
export async function openLogin(
  context: Context,
  actor: Actor,
  link: Link,
  started: number,
  options: { target?: DocumentTarget | undefined; about?: Link } = {},
): Promise<OpenedLaunch> {
  const { about, target } = options
  const { url, fields } = prepareLogin(context, link, {
    actorId: actor.id,
    target,
    ...(about && { aboutId: about.person.id }),
  })
  const shown = fields.map(([name, value]): Parameter => [name, name.endsWith('_hint') ? mask(value) : value])
  const purpose = about ? `, to review what ${about.person.fullName} handed in` : ''
  await context.statements.writeMessage(
    launchEntry(
      context,
      link,
      { url, fields: shown },
      {
        kind: 'login',
        outcome: 'accepted',
        statement: `Asked ${new URL(url).host} to begin a login for ${link.person.fullName}${purpose}.`,
        durationMs: performance.now() - started,
      },
    ),
  )
  return { url, fields, version: '1.3' }
}

/** The first time that the teaching side opens a tool that asks for it: learners may come after that. */
export async function noteEntry(context: Context, link: Link): Promise<void> {
  const { registration, resource, course, person } = link
  if (link.entered || registration.firstEntry === 'none' || !isTeachingSide(link) || resource.kind === 'picker') return
  await context.records.menus.enter({
    registrationId: registration.id,
    courseId: course.id,
    linkId: registration.firstEntry === 'link' ? resource.id : '',
    personId: person.id,
    at: context.clock.now(),
  })
  context.changes.publish({ kind: 'menu', courseId: course.id })
  if (resource.kind === 'assignment')
    context.changes.publish({ kind: 'assignment', courseId: course.id, assignmentId: resource.id })
}

/** The same link for the course's test learner. @throws Refusal unless the person teaches the course. */
async function asTestLearner(context: Context, own: Link): Promise<Link> {
  if (!isTeachingSide(own)) throw new Refusal('access.denied')
  const testLearner = await context.records.people.firstOfRole(own.course.id, 'test_learner')
  const link = testLearner && (await context.statements.findLink({ linkId: own.resource.id, personId: testLearner.id }))
  if (!link) throw new Refusal('launch.no_test_learner')
  return link
}
