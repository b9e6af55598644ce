import { ERRORS, Refusal, sentenceOf } from '@bathyscribe/contract'
import { worstVerdict, type Finding, type StageName, type Verdict } from '@bathyscribe/core/checks'
import type { AssignmentRecord } from '../records/entities/courses.js'
import type { Actor, Context } from './context.js'
import { soundLaunch } from './sounding-stages/launch.js'
import { skipped, type Found, type Run } from './sounding-stages/run.js'
import { soundGradebook, soundScore } from './sounding-stages/score.js'
import { soundReachability, soundSettings } from './sounding-stages/settings.js'

/** A sounding that takes longer is ended. */
export const SOUNDING_LIMIT_MS = 120_000

const STALE_AFTER_MS = SOUNDING_LIMIT_MS + 30_000

/** Ends soundings that a stopped service left behind: older than any sounding can last. */
export async function interruptStale({ records, clock }: Pick<Context, 'records' | 'clock'>): Promise<void> {
  const now = clock.now()
  await records.soundings.interruptOlderThan(new Date(now.getTime() - STALE_AFTER_MS), now)
}

/** Starts a sounding in the records. @throws Refusal when one of the same assignment is running. */
export async function startSounding(
  context: Context,
  actor: Pick<Actor, 'id'>,
  assignment: AssignmentRecord,
): Promise<string> {
  const id = context.ids.next()
  // One that a killed service left behind does not stand in the way of a new one for long.
  await interruptStale(context)
  await context.records.soundings.start({
    id,
    assignmentId: assignment.id,
    personId: actor.id,
    state: 'running',
    verdict: null,
    cause: null,
    startedAt: context.clock.now(),
    endedAt: null,
  })
  context.changes.publish({
    kind: 'sounding',
    courseId: assignment.courseId,
    assignmentId: assignment.id,
  })
  return id
}

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
        statement: sentenceOf(error),
        cause: sentence,
        remedy: hint,
      },
    ]
  }
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

function publish({ context, assignment }: Run): void {
  context.changes.publish({
    kind: 'sounding',
    courseId: assignment.courseId,
    assignmentId: assignment.id,
  })
}
