import { ERRORS } from '@bathyscribe/contract'
import {
  causeOfRefusal,
  judgeSeen,
  PROBES,
  probeCredentials,
  remarksOfPage,
  type Cause,
  type ProbeName,
  type ToolAnswer,
} from '@bathyscribe/core/checks'
import { earlierAddressCause, objectionCause } from '@bathyscribe/core/diagnosis'
import { framingRefusal } from '@bathyscribe/core/links'
import { visibleText } from '@bathyscribe/core/text'
import type { Link } from '../../../records/statements/links.js'
import { likeliestOther } from '../../diagnosis/known.js'
import { heldCredentials } from '../../launches/prepare-launch.js'
import { linkFor, tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import { passed, type Found, type Run } from './run.js'
import { checkSent, sentFacts } from './sent.js'

const READ_IT = 'Read the tool’s own words above; send them with the wire entry to its support.'
/** Browsers keep about this many cookies of a site; more push each other out (RFC 6265 section 6.1 asks for 50 at least). */
const MANY_COOKIES = 50

/** Launches as an instructor, or as the learner that the sounding goes as, and looks at what was sent and what came back. */
export async function soundLaunch(run: Run, as: 'instructor' | 'learner'): Promise<Found[]> {
  const { context, assignment, sounding, signal } = run
  const link = await linkFor(context, assignment, wantedPerson(run, as))
  const extraCustom = as === 'learner' ? link.registration.soundingParameters : {}
  if (as === 'learner') {
    const before = await context.records.scores.trail(assignment.id, link.person.id, 1, undefined)
    run.learner = { link, lastScoreId: before.items[0]?.id ?? null }
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
  const shown: Found[] = moved
    ? [{ check: 'redirect', verdict: 'fail', statement: moved.statement, cause: moved.statement, remedy: moved.remedy }]
    : remarksOnAnswer(run, tried)
  if (!tried.followed.returned) await noteFraming(run, shown)
  return [
    ...sent,
    passed('taken', takenStatement(tried, nameOf(run, link, as)), { wireEntryId: tried.wireEntryId, pictureId }),
    ...shown.map((one) => ({ ...one, wireEntryId: tried.wireEntryId, pictureId })),
    ...cookiesOf(tried),
    ...(as === 'learner' ? expectedOf(run, tried) : []),
  ]
}

function wantedPerson({ sounding }: Run, as: 'instructor' | 'learner') {
  if (as === 'instructor') return { as: 'instructor' as const }
  return sounding.pilot ? { as: 'learner' as const, person: sounding.pilot.id } : { as: 'test_learner' as const }
}

function nameOf({ sounding }: Run, link: Link, as: 'instructor' | 'learner'): string {
  return as === 'instructor' || sounding.pilot ? link.person.fullName : 'the test learner'
}

async function refused(
  run: Run,
  as: 'instructor' | 'learner',
  link: Link,
  tried: TriedLaunch,
  pictureId: string | null,
): Promise<Found> {
  const cause = await causeOfLaunch(run, as, link, tried)
  return {
    check: 'taken',
    verdict: 'fail',
    statement: `Launched as ${nameOf(run, link, as)}. ${tried.refusal}`,
    cause: cause?.statement ?? tried.refusal ?? null,
    remedy: cause?.remedy ?? tried.remedy ?? (tried.followed.code ? ERRORS[tried.followed.code].hint : READ_IT),
    wireEntryId: tried.wireEntryId,
    pictureId,
  }
}

async function causeOfLaunch(
  run: Run,
  as: 'instructor' | 'learner',
  link: Link,
  tried: TriedLaunch,
): Promise<Pick<Cause, 'statement' | 'remedy'> | undefined> {
  const { followed } = tried
  const moved = movedAway(tried)
  if (moved) return moved
  // Nothing came, or nothing that says anything: that is all there is to say.
  if (followed.failure !== null || (followed.status < 400 && !followed.returned)) return undefined
  const words = followed.returned?.error ?? followed.returned?.errorLog ?? visibleText(followed.body)
  const { records, settings } = run.context
  const earlier = await records.ownAddresses.earlier(settings.publicUrl)
  const known = earlierAddressCause(words, { now: settings.publicUrl, earlier })
  if (known) return known
  const objection = objectionCause(words, sentFacts(run, link, tried, as))
  if (followed.status >= 500 && followed.returned === null)
    return {
      statement: `The tool’s own server failed with ${followed.status}: it never came to judge the launch.`,
      remedy: 'Ask the tool’s support; the wire entry has the time and what was sent.',
    }
  // The instructor got in with the same key and secret, so those are not what the tool objects to.
  if (as === 'learner' && !run.sounding.pilot && (objection === undefined || /role/.test(objection.statement)))
    return {
      statement: 'The tool takes an instructor under the same key and secret, but refuses the test learner.',
      remedy:
        'Read the tool’s own words; if it takes no test learners, sound it with a pilot: a learner who has agreed, and whose numbers stay as they are.',
    }
  if (as === 'learner' || link.registration.version === '1.3') return objection
  const proven = await findCause(run, link, tried)
  return proven.code === 'not_the_credentials' ? (objection ?? proven) : proven
}

/** Launches again with one thing changed at a time, until the tool's answers tell what it objects to. */
async function findCause(run: Run, link: Link, tried: TriedLaunch): Promise<Cause> {
  const { context, sounding, signal } = run
  const held = heldCredentials(context, link)
  const other = await likeliestOther(context, link.registration.id)
  const credentials = probeCredentials(held, context.ids.secret(), other)
  const answers: Partial<Record<ProbeName, ToolAnswer>> = {}
  for (const probe of PROBES) {
    const changed = credentials[probe]
    if (!changed) continue
    const { followed } = await tryLaunch(context, link, {
      kind: 'probe',
      soundingId: sounding.id,
      signal,
      credentials: changed,
      label: `Probe “${probe.replaceAll('_', ' ')}”`,
    })
    answers[probe] = followed
  }
  return causeOfRefusal(tried.followed, answers, held.consumerKey, other)
}

/**
 * A redirect to the same path of another origin is that of a server that has moved, not of a tool that has read the launch; and 301, 302 and 303 turn a post into a get, so that
 * nothing of the launch arrives (Fetch section 4.4).
 */
function movedAway({ followed }: TriedLaunch): Pick<Cause, 'statement' | 'remedy'> | undefined {
  const [first, second] = followed.steps
  if (first?.method !== 'POST' || second?.method !== 'GET' || first.status < 301 || first.status > 303) return undefined
  const [from, to] = [new URL(first.url), new URL(second.url)]
  if (from.origin === to.origin || from.pathname !== to.pathname) return undefined
  return {
    statement: `The address redirects to ${to.origin}: what was posted is lost on the way.`,
    remedy: `Ask the vendor for the address that answers by itself; it may begin with ${to.origin}.`,
  }
}

function takenStatement({ followed }: TriedLaunch, who: string): string {
  const { steps, status, durationMs } = followed
  const redirects = steps.length > 1 ? ` after ${steps.length - 1} more ${steps.length > 2 ? 'steps' : 'step'}` : ''
  const parts =
    steps.length > 1 ? ` (${steps.map((one) => `${new URL(one.url).pathname.slice(0, 40)} ${Math.round(one.durationMs)}`).join(', ')})` : '' // oxfmt-ignore
  return `Launched as ${who}: the tool answered ${status}${redirects} in ${Math.round(durationMs)} ms${parts}.`
}

/** What is remarkable about an answer that took the launch: by a browser's eyes, or by headers and page alone. */
export function remarksOnAnswer(run: Run, tried: TriedLaunch, target = run.assignment.documentTarget): Found[] {
  const { followed, seen } = tried
  if (followed.returned) return []
  if (seen) return judgeSeen(seen.seen, target)
  return [...framing(run, tried, target), ...remarksOfPage(followed)]
}

function framing({ context }: Run, { followed }: TriedLaunch, target: 'frame' | 'window'): Found[] {
  const header = framingRefusal(followed.headers, followed.url, new URL(context.settings.publicUrl).origin)
  if (header === undefined || target !== 'frame') return []
  return [
    {
      check: 'framing',
      verdict: 'fail',
      statement: `The tool’s page refuses to be shown in a frame: ${header}`,
      cause: 'The tool refuses frames, and this assignment opens it in one.',
      remedy: 'Set the assignment to open in a window, or have the tool allow our address.',
    },
  ]
}

async function noteFraming({ context, assignment }: Run, shown: readonly Found[]): Promise<void> {
  const refusedFrame = shown.some((one) => one.check === 'framing')
  if (assignment.documentTarget === 'frame')
    await context.records.preflight.noteFraming(assignment.registrationId, refusedFrame ? 'refused' : 'allowed')
}

function cookiesOf({ followed, wireEntryId }: TriedLaunch): Found[] {
  const count = followed.setCookies.length
  if (count <= MANY_COOKIES) return []
  return [
    {
      check: 'cookies',
      verdict: 'warn',
      statement: `The tool sets ${count} cookies in one launch.`,
      cause: 'The tool sets more cookies than browsers need to keep.',
      remedy: 'Have the tool’s support look into it: people may be signed out for no reason that they see.',
      wireEntryId,
    },
  ]
}

function expectedOf({ expected }: Run, { followed, seen, wireEntryId }: TriedLaunch): Found[] {
  const found: Found[] = []
  const tookMs = Math.round(followed.durationMs)
  if (expected?.answersWithinMs != null)
    found.push(
      tookMs <= expected.answersWithinMs
        ? passed('expected time', `It answered within the expected ${expected.answersWithinMs} ms.`)
        : {
            check: 'expected time',
            verdict: 'fail',
            statement: `It answered after ${tookMs} ms; ${expected.answersWithinMs} were expected.`,
            cause: `The tool answers more slowly than the ${expected.answersWithinMs} ms that are expected of it.`,
            remedy: 'Look at the parts of the time in the wire entry; change what is expected if it is too little.',
            wireEntryId,
          },
    )
  if (expected?.contains != null)
    found.push(
      (seen ? seen.seen.words : visibleText(followed.body)).includes(expected.contains)
        ? passed('expected words', `The page shows “${expected.contains.slice(0, 120)}”, as expected.`)
        : {
            check: 'expected words',
            verdict: 'fail',
            statement: `The page does not show “${expected.contains.slice(0, 120)}”.`,
            cause: 'The page does not show what is expected of it.',
            remedy: 'Open it as the test learner: does the link lead to other content than it did?',
            wireEntryId,
          },
    )
  return found
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
