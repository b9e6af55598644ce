import {
  causeOfRefusal,
  found,
  hindranceOf,
  isInTheWay,
  judgeSeen,
  probeCredentials,
  Probes,
  remarksOfPage,
  saidOf,
  type Found,
  type Hindrance,
  type LaunchCause,
} from '@bathyscribe/core/checks'
import { earlierAddress, objectionIn, type Objected } from '@bathyscribe/core/diagnosis'
import { framingRefusal } from '@bathyscribe/core/links'
import { visibleText } from '@bathyscribe/core/text'
import type { Link } from '../../../records/statements/links.js'
import { likeliestOther } from '../../diagnosis/known.js'
import { heldCredentials } from '../../launches/prepare-launch.js'
import { linkFor, tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import { learnerName, type Run } from './run.js'
import { checkSent, sentFacts } from './sent.js'

/** Browsers keep about this many cookies of a site; more push each other out (RFC 6265 section 6.1 asks for 50 at least). */
const MANY_COOKIES = 50

/** Launches as an instructor, or as the learner that the sounding goes as, and looks at what was sent and what came back. */
export async function soundLaunch(run: Run, as: 'instructor' | 'learner'): Promise<Found[]> {
  const { context, assignment, sounding, signal } = run
  const link = await linkFor(context, assignment, wantedPerson(run, as), sounding.standIn)
  const extraCustom = as === 'learner' ? link.registration.soundingParameters : {}
  if (as === 'learner') {
    run.learner = { link, lastScoreId: await context.records.scores.endOfTrail(assignment.id, link.person.id) }
  }
  const tried = await tryLaunch(context, link, {
    kind: 'try',
    soundingId: sounding.id,
    extraCustom,
    signal,
    follower: sounding.follower,
  })
  if (run.learner && as === 'learner') run.learner.tried = tried
  const pictureId = await keepPicture(run, tried)
  const sent = checkSent(run, link, tried, as)
  if (tried.refusal !== undefined) return [...sent, await refused(run, as, link, tried, pictureId)]
  const moved = movedAway(tried)
  const shown = moved ? [found('redirect', 'moved', moved)] : remarksOnAnswer(run, tried)
  if (!tried.followed.returned) await noteFraming(run, shown)
  return [
    ...sent,
    found('taken', 'taken', takenFacts(tried, nameOf(run, link, as)), { wireEntryId: tried.wireEntryId, pictureId }),
    ...shown.map((one) => ({ ...one, wireEntryId: tried.wireEntryId, pictureId })),
    ...cookiesOf(tried),
    ...(as === 'learner' ? expectedOf(run, tried) : []),
  ]
}

function wantedPerson({ sounding }: Run, as: 'instructor' | 'learner') {
  if (as === 'instructor') return { as: 'instructor' as const }
  return sounding.pilot ? { as: 'learner' as const, person: sounding.pilot.id } : { as: 'test_learner' as const }
}

function nameOf(run: Run, link: Link, as: 'instructor' | 'learner'): string {
  if (as === 'learner') return learnerName(run, link)
  return link.enrolment ? link.person.fullName : `${link.person.fullName} (administrator)`
}

async function refused(
  run: Run,
  as: 'instructor' | 'learner',
  link: Link,
  tried: TriedLaunch,
  pictureId: string | null,
): Promise<Found> {
  const base = { who: nameOf(run, link, as), said: tried.refusal! }
  const cause = await causeOfLaunch(run, as, link, tried, base)
  const { wrong, followed, wireEntryId } = tried
  return {
    ...(cause ?? found('taken', 'refused', { ...base, wrong: wrong && saidOf(wrong), code: followed.code })),
    wireEntryId,
    pictureId,
  }
}

/** What a launch was refused for, as far as that is known. @param base as whom it was launched, and what the tool said */
async function causeOfLaunch(
  run: Run,
  as: 'instructor' | 'learner',
  link: Link,
  tried: TriedLaunch,
  base: { who: string; said: string },
): Promise<Found | undefined> {
  const { followed } = tried
  const moved = movedAway(tried)
  if (moved) return found('taken', 'moved', { ...base, ...moved })
  // Nothing came, or nothing that says anything: that is all there is to say.
  if (followed.failure !== null || (followed.status < 400 && !followed.returned)) return undefined
  const words = followed.returned?.error ?? followed.returned?.errorLog ?? visibleText(followed.body)
  const { records, settings } = run.context
  const earlier = await records.ownAddresses.earlier(settings.publicUrl)
  const known = earlierAddress(words, { now: settings.publicUrl, earlier })
  if (known) return found('taken', 'earlier_address', { ...base, ...known })
  const what = hindranceOf(followed)
  if (what !== undefined && isInTheWay(what)) return hindered(base, what, followed.status)
  const objection = objectionIn(words, sentFacts(run, link, tried, as))
  // The instructor got in with the same key and secret, so those are not what the tool objects to.
  if (as === 'learner' && !run.sounding.pilot && (objection === undefined || objection.about === 'roles'))
    return found('taken', 'refuses_test_learner', base)
  const objected = objection && found('taken', 'objected', { ...base, objection })
  if (as === 'learner' || link.registration.version === '1.3') return objected
  const cause = await findCause(run, link, tried)
  return (wordsSayMore(cause, objection) ? objected : undefined) ?? withCause(base, cause)
}

/** Where the probes leave it open, the tool's own words are the better hint; and where they speak for the secret, words about something else than key and signature are. */
function wordsSayMore({ code }: LaunchCause, objection: Objected | undefined): boolean {
  if (code === 'not_the_credentials' || code === 'key_or_secret_wrong' || code === 'not_told') return true
  return code === 'secret_wrong' && objection !== undefined && !['signature', 'key'].includes(objection.about)
}

function hindered(base: { who: string; said: string }, what: Hindrance, status: number): Found {
  return what === 'server_error'
    ? found('taken', 'server_error', { ...base, status })
    : found('taken', 'hindered', { ...base, what, status })
}

function withCause(base: { who: string; said: string }, cause: LaunchCause): Found {
  switch (cause.code) {
    case 'address_wrong':
      return found('taken', cause.code, { ...base, status: cause.status, url: cause.url })
    case 'hindered':
      return hindered(base, cause.what, cause.status)
    case 'secret_wrong':
    case 'key_or_secret_wrong':
      return found('taken', cause.code, { ...base, key: cause.key })
    default:
      return found('taken', cause.code, base)
  }
}

/** Launches again, as it was and with one thing changed at a time, until the tool's answers tell what it objects to. */
async function findCause(run: Run, link: Link, tried: TriedLaunch): Promise<LaunchCause> {
  const { context, sounding, signal } = run
  const held = heldCredentials(context, link)
  const other = await likeliestOther(context, link.registration.id)
  const credentials = probeCredentials(held, context.ids.secret(), other)
  const probes = new Probes(tried.followed, credentials, async (probe, changed) => {
    const { followed } = await tryLaunch(context, link, {
      kind: 'probe',
      soundingId: sounding.id,
      signal,
      credentials: changed,
      label: `Probe “${probe.replaceAll('_', ' ')}”`,
    })
    return followed
  })
  return causeOfRefusal(tried.followed, probes, held.consumerKey, other)
}

/**
 * A redirect to the same path of another origin is that of a server that has moved, not of a tool that has read the launch; and 301, 302 and 303 turn a post into a get, so that
 * nothing of the launch arrives (Fetch section 4.4).
 */
function movedAway({ followed }: TriedLaunch): { to: string } | undefined {
  const [first, second] = followed.steps
  if (first?.method !== 'POST' || second?.method !== 'GET' || first.status < 301 || first.status > 303) return undefined
  const [from, to] = [new URL(first.url), new URL(second.url)]
  return from.origin === to.origin || from.pathname !== to.pathname ? undefined : { to: to.origin }
}

function takenFacts({ followed: { steps, status, durationMs } }: TriedLaunch, who: string) {
  return {
    who,
    status,
    ms: Math.round(durationMs),
    steps: steps.map((one) => ({ path: new URL(one.url).pathname.slice(0, 40), ms: Math.round(one.durationMs) })),
  }
}

/** What is remarkable about an answer that took the launch: by a browser's eyes, or by headers and page alone. */
export function remarksOnAnswer(run: Run, tried: TriedLaunch, target = run.assignment.documentTarget): Found[] {
  const { followed, seen } = tried
  if (followed.returned) return []
  if (seen) return judgeSeen(seen.seen, target, run.tool.slug)
  return [...framing(run, tried, target), ...remarksOfPage(followed)]
}

function framing({ context }: Run, { followed }: TriedLaunch, target: 'frame' | 'window'): Found[] {
  const header = framingRefusal(followed.headers, followed.url, new URL(context.settings.publicUrl).origin)
  return header === undefined || target !== 'frame' ? [] : [found('framing', 'launch_refused', { header })]
}

async function noteFraming({ context, assignment, tool }: Run, shown: readonly Found[]): Promise<void> {
  const framing = shown.some((one) => one.check === 'framing') ? 'refused' : 'allowed'
  if (assignment.documentTarget !== 'frame' || tool.framing === framing) return
  await context.records.preflight.noteFraming(assignment.registrationId, framing)
  tool.framing = framing
}

function cookiesOf({ followed, wireEntryId }: TriedLaunch): Found[] {
  const count = followed.setCookies.length
  return count > MANY_COOKIES ? [found('cookies', 'too_many', { count }, { wireEntryId })] : []
}

function expectedOf({ sounding: { expected } }: Run, { followed, seen, wireEntryId }: TriedLaunch): Found[] {
  const all: Found[] = []
  const ms = Math.round(followed.durationMs)
  if (expected?.answersWithinMs != null) {
    const expectedMs = expected.answersWithinMs
    all.push(
      ms <= expectedMs
        ? found('expected time', 'within', { expectedMs })
        : found('expected time', 'slower', { ms, expectedMs }, { wireEntryId }),
    )
  }
  if (expected?.contains != null) {
    const shown = (seen ? seen.seen.words : visibleText(followed.body)).includes(expected.contains)
    const words = expected.contains.slice(0, 120)
    all.push(found('expected words', shown ? 'shown' : 'missing', { words }, shown ? {} : { wireEntryId }))
  }
  return all
}

async function keepPicture({ context, sounding }: Run, { seen }: TriedLaunch): Promise<string | null> {
  if (!seen?.picture) return null
  const id = context.ids.next()
  await context.records.soundings.addPicture({
    id,
    soundingId: sounding.id,
    at: context.clock.now(),
    mediaType: 'image/jpeg',
    bytes: seen.picture,
  })
  return id
}
