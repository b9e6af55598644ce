import { ERRORS, Refusal } from '@bathyscribe/contract'
import {
  causeOfRefusal,
  PROBES,
  probeCredentials,
  worstVerdict,
  type Cause,
  type Finding,
  type ProbeName,
  type StageName,
  type ToolAnswer,
  type Verdict,
} from '@bathyscribe/core/checks'
import { framingRefusal } from '@bathyscribe/core/links'
import { pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { AssignmentRecord, RegistrationRecord } from '../records/entities/courses.js'
import type { Link } from '../records/statements/links.js'
import { checkEnd } from './check-tool.js'
import { type Actor, type Context } from './context.js'
import { remarksOn } from './make-assignment.js'
import { heldCredentials } from './prepare-launch.js'
import { linkFor, tryLaunch, type TriedLaunch } from './try-launch.js'

/** A sounding that takes longer is ended. */
export const SOUNDING_LIMIT_MS = 120_000

/** How long the score of the test learner is waited for. */
const SCORE_WAIT_MS = 8000
const SCORE_LOOK_EVERY_MS = 150

/** Starts a sounding in the records. @throws Refusal when one of the same assignment is running. */
export async function startSounding(context: Context, actor: Actor, assignment: AssignmentRecord): Promise<string> {
  const id = context.ids.next()
  const now = context.clock.now()
  // One that a killed service left behind does not stand in the way of a new one for long.
  await context.records.soundings.interruptOlderThan(new Date(now.getTime() - SOUNDING_LIMIT_MS - 30_000), now)
  await context.records.soundings.start({
    id,
    assignmentId: assignment.id,
    personId: actor.id,
    state: 'running',
    verdict: null,
    cause: null,
    startedAt: now,
    endedAt: null,
  })
  context.changes.publish({
    kind: 'sounding',
    courseId: assignment.courseId,
    assignmentId: assignment.id,
    personId: null,
  })
  return id
}

/** What one sounding has found so far, and what its stages hand on to later ones. */
interface Run {
  context: Context
  soundingId: string
  assignment: AssignmentRecord
  tool: RegistrationRecord
  signal: AbortSignal
  findings: Finding[]
  /** The test learner's link and the trail's end before the launch, once it was launched. */
  testLearner?: { link: Link; lastScoreId: string | null; launched: boolean }
}

type Found = Pick<Finding, 'check' | 'verdict' | 'statement'> & Partial<Finding>

/** The way down, in its order: what each stage does, and which earlier stages must not have failed. */
const WAY: readonly { stage: StageName; needs: readonly StageName[]; run: (run: Run) => Promise<Found[]> }[] = [
  { stage: 'settings', needs: [], run: soundSettings },
  { stage: 'reachability', needs: ['settings'], run: soundReachability },
  { stage: 'launch_instructor', needs: ['settings', 'reachability'], run: (run) => soundLaunch(run, 'instructor') },
  {
    stage: 'launch_test_learner',
    needs: ['settings', 'reachability', 'launch_instructor'],
    run: (run) => soundLaunch(run, 'test_learner'),
  },
  { stage: 'score', needs: ['launch_test_learner'], run: soundScore },
  { stage: 'gradebook', needs: ['score'], run: soundGradebook },
]

/** Takes one assignment down its whole way. Each finding is stored as it is made; what the tool's end does never throws. */
export async function runSounding(context: Context, soundingId: string, signal: AbortSignal): Promise<Verdict> {
  const { assignment: ref } = await context.records.soundings.summary(soundingId)
  const assignment = await context.records.assignments.byRef(ref.id)
  const tool = await context.records.tools.byId(assignment.registrationId)
  const run: Run = { context, soundingId, assignment, tool, signal, findings: [] }
  for (const { stage, needs, run: sound } of WAY) {
    signal.throwIfAborted()
    const missing = needs.find((need) => worstOf(run, need) === 'fail' || worstOf(run, need) === 'skipped')
    const started = performance.now()
    const found = missing
      ? [skipped(`Not tried, because “${missing.replaceAll('_', ' ')}” did not pass.`)]
      : await soundStage(run, sound)
    const durationMs = performance.now() - started
    for (const one of found) await addFinding(run, stage, durationMs, one)
  }
  const verdict = worstVerdict(run.findings)
  await context.records.soundings.end(soundingId, verdict, causeOf(run.findings), context.clock.now())
  await noteLaunchEvidence(run)
  publish(run)
  return verdict
}

async function soundStage(run: Run, sound: (run: Run) => Promise<Found[]>): Promise<Found[]> {
  try {
    return await sound(run)
  } catch (error) {
    if (!(error instanceof Refusal) || error.status === 503) throw error
    const { sentence, hint } = ERRORS[error.code]
    return [
      {
        check: 'launch',
        verdict: 'fail',
        statement: `${sentence}${error.detail ? ` (${error.detail})` : ''}`,
        cause: sentence,
        remedy: hint,
      },
    ]
  }
}

async function soundSettings({ context, assignment, tool }: Run): Promise<Found[]> {
  const remarks = remarksOn(context, assignment, tool)
  const found: Found[] = remarks.map((remark) => ({
    check: remark.rule,
    verdict: remark.verdict,
    statement: remark.statement,
    remedy: remark.remedy,
  }))
  if (!tool.secretSealed)
    found.push({
      check: 'secret',
      verdict: 'fail',
      statement: ERRORS['tool.secret_missing'].sentence,
      remedy: ERRORS['tool.secret_missing'].hint,
    })
  if (assignment.state === 'draft')
    found.push({
      check: 'published',
      verdict: 'warn',
      statement: 'The assignment is a draft: learners cannot see it yet.',
      remedy: 'Publish it when it is ready.',
    })
  return found.length > 0
    ? found
    : [{ check: 'preflight', verdict: 'pass', statement: 'Preflight has nothing to remark.' }]
}

async function soundReachability({ context, assignment, tool }: Run): Promise<Found[]> {
  return checkEnd(context, assignment.launchUrl ?? tool.launchUrl, assignment.documentTarget === 'frame')
}

async function soundLaunch(run: Run, as: 'instructor' | 'test_learner'): Promise<Found[]> {
  const { context, assignment, soundingId, signal } = run
  const link = await linkFor(context, assignment, { as })
  const before = await context.records.scores.standing(assignment.id, link.person.id)
  const extraCustom = as === 'test_learner' ? link.registration.soundingParameters : {}
  const tried = await tryLaunch(context, link, { kind: 'try', soundingId, extraCustom, signal })
  if (as === 'test_learner')
    run.testLearner = { link, lastScoreId: before?.scoreId ?? null, launched: tried.refusal === undefined }
  const who = as === 'instructor' ? link.person.fullName : 'the test learner'
  if (tried.refusal === undefined) return [passed(tried, who), ...framing(run, tried)]

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
  // The instructor got in with the same key and secret, so those are not what the tool objects to.
  if (as === 'test_learner')
    return {
      statement: 'The tool takes an instructor under the same key and secret, but refuses the test learner.',
      remedy: 'Read the tool’s own words; if it takes no test learners, let a real learner open the assignment once.',
    }
  return findCause(run, link, tried)
}

function passed({ followed, wireEntryId }: TriedLaunch, who: string): Found {
  const redirects = followed.steps.length > 1 ? ` after ${followed.steps.length - 1} redirects` : ''
  return {
    check: 'taken',
    verdict: 'pass',
    statement: `Launched as ${who}: the tool answered ${followed.status}${redirects} in ${Math.round(followed.durationMs)} ms.`,
    wireEntryId,
  }
}

function framing({ context, assignment }: Run, { followed, wireEntryId }: TriedLaunch): Found[] {
  if (assignment.documentTarget !== 'frame' || followed.returned) return []
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

async function soundScore(run: Run): Promise<Found[]> {
  const { context, assignment, tool, signal } = run
  const { link, lastScoreId } = run.testLearner!
  if (Object.keys(tool.soundingParameters).length === 0)
    return [
      skipped(
        'The tool was not told how to score without a person, so no score is expected.',
        'Enter its parameters for that under “sounding parameters”, or open it as the test learner and do the work.',
      ),
    ]
  const until = performance.now() + SCORE_WAIT_MS
  while (performance.now() < until) {
    signal.throwIfAborted()
    const refusal = await lastRefusal(context, link, lastScoreId)
    if (refusal)
      return [
        {
          check: 'received',
          verdict: 'fail',
          statement: `The tool sent a score that was refused: “${refusal.sent ?? ''}”.`,
          cause: refusal.cause,
          remedy: refusal.hint,
          wireEntryId: refusal.wireEntryId,
        },
      ]
    const standing = await context.records.scores.standing(assignment.id, link.person.id)
    if (standing && standing.scoreId !== lastScoreId)
      return [
        {
          check: 'received',
          verdict: 'pass',
          statement: `The tool sent ${standing.sent ?? 'a cleared score'} of 1 for the test learner.`,
          wireEntryId: await wireEntryOf(context, link, standing.scoreId),
        },
      ]
    await new Promise((resolve) => setTimeout(resolve, SCORE_LOOK_EVERY_MS))
  }
  return [await noScore(run)]
}

async function noScore({ context, tool, assignment, testLearner }: Run): Promise<Found> {
  const since = await context.records.wire.list(null, {
    registrationId: tool.id,
    kind: 'outcome',
    outcome: 'refused',
    limit: 1,
  })
  const refused = since.items[0]
  const fresh =
    refused &&
    context.clock.now().getTime() - refused.at.getTime() < SCORE_WAIT_MS + 2000 &&
    (refused.assignment === null || refused.assignment.id === assignment.id)
  return fresh
    ? {
        check: 'received',
        verdict: 'fail',
        statement: `A call came back, but was refused: ${refused.statement}`,
        cause: refused.statement,
        remedy: refused.code && refused.code in ERRORS ? ERRORS[refused.code as keyof typeof ERRORS].hint : null,
        wireEntryId: refused.id,
      }
    : {
        check: 'received',
        verdict: 'fail',
        statement: `No score came back for ${testLearner!.link.person.fullName} within ${SCORE_WAIT_MS / 1000} seconds.`,
        cause: 'The tool took the launch but sent no score.',
        remedy: 'Some tools send late or on demand only: check at the tool’s end, then run the sounding again.',
      }
}

async function lastRefusal(context: Context, link: Link, lastScoreId: string | null) {
  const { items } = await context.records.scores.trail(link.assignment.id, link.person.id, 1, undefined)
  const last = items[0]
  if (!last || last.outcome !== 'refused' || (lastScoreId !== null && BigInt(last.id) <= BigInt(lastScoreId)))
    return undefined
  // An older refusal without a result before it would be found again: only what came after this launch counts.
  if (context.clock.now().getTime() - last.at.getTime() > SCORE_WAIT_MS + 2000) return undefined
  const kind = ERRORS[last.code as keyof typeof ERRORS]
  return {
    sent: last.sent,
    cause: kind?.sentence ?? last.code,
    hint: kind?.hint ?? null,
    wireEntryId: last.wireEntryId,
  }
}

async function wireEntryOf(context: Context, link: Link, scoreId: string): Promise<string | null> {
  const { items } = await context.records.scores.trail(link.assignment.id, link.person.id, 20, undefined)
  return items.find((entry) => entry.id === scoreId)?.wireEntryId ?? null
}

async function soundGradebook(run: Run): Promise<Found[]> {
  const { context, assignment } = run
  const standing = await context.records.scores.standing(assignment.id, run.testLearner!.link.person.id)
  if (!standing || standing.fraction === null)
    return [
      { check: 'value', verdict: 'warn', statement: 'The tool cleared the score, so there is nothing to compare.' },
    ]
  const expected = pointsOf(standing.fraction, assignment.points)
  const agrees = standing.points !== null && sameNumber(standing.points, expected)
  return [
    agrees
      ? {
          check: 'value',
          verdict: 'pass',
          statement: `${standing.sent} of 1 × ${assignment.points} points = ${standing.points}, as the gradebook has it.`,
        }
      : {
          check: 'value',
          verdict: 'fail',
          statement: `The gradebook has ${standing.points ?? 'nothing'} where ${expected} was expected.`,
          cause: 'The gradebook value is not what was sent times points.',
          remedy: 'Open the trail of the test learner.',
        },
  ]
}

async function addFinding(run: Run, stage: StageName, durationMs: number, found: Found): Promise<void> {
  const finding: Finding = { cause: null, remedy: null, wireEntryId: null, durationMs, ...found, stage }
  run.findings.push(finding)
  await run.context.records.soundings.addFinding(run.soundingId, run.findings.length, finding)
  publish(run)
}

async function noteLaunchEvidence(run: Run): Promise<void> {
  const launches = run.findings.filter(
    (one) => one.stage === 'launch_instructor' || one.stage === 'launch_test_learner',
  )
  const failed = run.findings.find(
    (one) => one.verdict === 'fail' && one.stage !== 'score' && one.stage !== 'gradebook' && one.stage !== 'settings',
  )
  if (!failed && !launches.some((one) => one.verdict === 'pass')) return
  await run.context.records.assignments.noteLaunch(run.assignment.id, failed ? 'failure' : 'proof', {
    kind: 'sounding',
    id: run.soundingId,
    at: run.context.clock.now(),
    person: null,
    statement: failed ? (failed.cause ?? failed.statement) : '',
  })
}

function causeOf(findings: readonly Finding[]): string | null {
  const failed =
    findings.find((finding) => finding.verdict === 'fail') ?? findings.find((finding) => finding.verdict === 'warn')
  return failed ? (failed.cause ?? failed.statement) : null
}

function worstOf(run: Run, stage: StageName): Verdict {
  return worstVerdict(run.findings.filter((finding) => finding.stage === stage))
}

function skipped(statement: string, remedy: string | null = null): Found {
  return { check: 'not tried', verdict: 'skipped', statement, remedy }
}

function publish({ context, assignment }: Run): void {
  context.changes.publish({
    kind: 'sounding',
    courseId: assignment.courseId,
    assignmentId: assignment.id,
    personId: null,
  })
}
