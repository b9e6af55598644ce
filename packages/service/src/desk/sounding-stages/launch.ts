import { ERRORS } from '@bathyscribe/contract'
import {
  causeOfRefusal,
  PROBES,
  probeCredentials,
  type Cause,
  type ProbeName,
  type ToolAnswer,
} from '@bathyscribe/core/checks'
import { framingRefusal } from '@bathyscribe/core/links'
import type { Link } from '../../records/statements/links.js'
import { heldCredentials } from '../launches/prepare-launch.js'
import { linkFor, tryLaunch, type TriedLaunch } from '../launches/try-launch.js'
import type { Found, Run } from './run.js'

export async function soundLaunch(run: Run, as: 'instructor' | 'test_learner'): Promise<Found[]> {
  const { context, assignment, soundingId, signal } = run
  const link = await linkFor(context, assignment, { as })
  const before = await context.records.scores.trail(assignment.id, link.person.id, 1, undefined)
  const extraCustom = as === 'test_learner' ? link.registration.soundingParameters : {}
  const tried = await tryLaunch(context, link, { kind: 'try', soundingId, extraCustom, signal })
  if (as === 'test_learner') run.testLearner = { link, lastScoreId: before.items[0]?.id ?? null }
  const who = as === 'instructor' ? link.person.fullName : 'the test learner'
  if (tried.refusal === undefined) {
    const framed = framing(run, tried)
    // Only a launch that was answered by the tool's own page says anything of frames.
    if (!tried.followed.returned)
      await context.records.preflight.noteFraming(assignment.registrationId, framed.length > 0 ? 'refused' : 'allowed')
    return [passed(tried, who), ...framed.filter(() => assignment.documentTarget === 'frame')]
  }

  const cause = await causeOfLaunch(run, as, link, tried)
  return [
    {
      check: 'taken',
      verdict: 'fail',
      statement: `Launched as ${who}. ${tried.refusal}`,
      cause: cause?.statement ?? tried.refusal,
      remedy: cause?.remedy ?? (tried.followed.code ? ERRORS[tried.followed.code].hint : null),
      wireEntryId: tried.wireEntryId,
    },
  ]
}

async function causeOfLaunch(
  run: Run,
  as: 'instructor' | 'test_learner',
  link: Link,
  tried: TriedLaunch,
): Promise<Pick<Cause, 'statement' | 'remedy'> | undefined> {
  if (tried.followed.status === 0 && !tried.followed.returned) return undefined
  // What can be told by changing key and secret is told so of LTI 1.1 only; of LTI 1.3 the tool's own words stand.
  if (link.registration.version === '1.3') return undefined
  // The instructor got in with the same key and secret, so those are not what the tool objects to.
  if (as === 'test_learner')
    return {
      statement: 'The tool takes an instructor under the same key and secret, but refuses the test learner.',
      remedy: 'Read the tool’s own words; if it takes no test learners, let a real learner open the assignment once.',
    }
  return findCause(run, link, tried)
}

function passed({ followed, wireEntryId }: TriedLaunch, who: string): Found {
  const redirects =
    followed.steps.length > 1
      ? ` after ${followed.steps.length - 1} more ${followed.steps.length > 2 ? 'steps' : 'step'}`
      : ''
  return {
    check: 'taken',
    verdict: 'pass',
    statement: `Launched as ${who}: the tool answered ${followed.status}${redirects} in ${Math.round(followed.durationMs)} ms.`,
    wireEntryId,
  }
}

function framing({ context }: Run, { followed, wireEntryId }: TriedLaunch): Found[] {
  if (followed.returned) return []
  const header = framingRefusal(followed.headers, followed.url, new URL(context.settings.publicUrl).origin)
  return header === undefined
    ? []
    : [
        {
          check: 'framing',
          verdict: 'fail',
          statement: `The tool’s page refuses to be shown in a frame: ${header}`,
          cause: 'The tool refuses frames, and this assignment opens it in one.',
          remedy: 'Set the assignment to open in a window, or have the tool allow our address.',
          wireEntryId,
        },
      ]
}

/** Launches again with one thing changed at a time, until the tool's answers tell what it objects to. */
async function findCause(run: Run, link: Link, tried: TriedLaunch): Promise<Cause> {
  const { context, soundingId, signal } = run
  const held = heldCredentials(context, link)
  const credentials = probeCredentials(held, context.ids.secret())
  const answers: Partial<Record<ProbeName, ToolAnswer>> = {}
  for (const probe of PROBES) {
    const changed = credentials[probe]
    if (!changed) continue
    const { followed } = await tryLaunch(context, link, {
      kind: 'probe',
      soundingId,
      signal,
      credentials: changed,
      label: `Probe “${probe.replaceAll('_', ' ')}”`,
    })
    answers[probe] = followed
  }
  return causeOfRefusal(tried.followed, answers, held.consumerKey)
}
