import { Refusal, refusalFacts } from '@bathyscribe/contract'
import {
  found,
  headlineOf,
  stagesOf,
  worstVerdict,
  type CheckName,
  type Finding,
  type Found,
  type Said,
  type StageName,
  type Verdict,
} from '@bathyscribe/core/checks'
import type { Sign } from '../../records/evidence.js'
import type { Context } from '../context.js'
import { soundAgain } from './stages/again.js'
import { soundCleanup } from './stages/cleanup.js'
import { soundLaunch } from './stages/launch.js'
import { soundPicker, soundReview, soundRoster } from './stages/offers.js'
import { soundRegistration } from './stages/registration.js'
import type { Run } from './stages/run.js'
import { soundGradebook, soundScore } from './stages/score.js'
import { soundReachability, soundSettings } from './stages/settings.js'
import { SOUNDING_LIMIT_MS } from './start-sounding.js'

/** What a sounding came to that went all the way. */
export interface Outcome {
  verdict: Verdict
  /** What is wrong; null when nothing is. */
  headline: Said | null
  tookMs: number
}

interface Stage {
  /** Earlier stages that must not have failed. */
  needs: readonly StageName[]
  run: (run: Run) => Promise<Found[]>
}

const WAY: Record<StageName, Stage> = {
  settings: { needs: [], run: soundSettings },
  registration: { needs: [], run: soundRegistration },
  reachability: { needs: ['settings'], run: soundReachability },
  launch_instructor: { needs: ['settings', 'reachability'], run: (run) => soundLaunch(run, 'instructor') },
  launch_test_learner: {
    needs: ['settings', 'reachability', 'launch_instructor'],
    run: (run) => soundLaunch(run, 'learner'),
  },
  score: { needs: ['launch_test_learner'], run: soundScore },
  gradebook: { needs: ['score'], run: soundGradebook },
  again: { needs: ['launch_test_learner'], run: soundAgain },
  roster: { needs: ['launch_instructor'], run: soundRoster },
  picker: { needs: ['launch_instructor'], run: soundPicker },
  review: { needs: ['launch_test_learner'], run: soundReview },
  cleanup: { needs: [], run: soundCleanup },
}

/**
 * Takes one assignment down its whole way. What the tool's end does never throws. What a stage finds is stored when it ends, where somebody may be watching; one of a sweep is
 * over in a moment, and stores everything at once.
 * @param stopping ends it before its time
 * @param onWait called when it begins to wait for a person; absent where nobody watches
 * @returns what it came to; undefined when somebody else has ended it meanwhile
 */
export async function runSounding(
  context: Context,
  soundingId: string,
  stopping: AbortSignal,
  onWait?: () => void,
): Promise<Outcome | undefined> {
  const sounding = await context.records.soundings.started(soundingId)
  const assignment = await context.records.assignments.summary(sounding.assignmentId)
  const tool = await context.records.tools.byId(assignment.registrationId)
  const signal = AbortSignal.any([stopping, AbortSignal.timeout(SOUNDING_LIMIT_MS + sounding.waitMinutes * 60_000)])
  const run: Run = { context, sounding, assignment, tool, signal, findings: [], startedAt: context.clock.now(), onWait: onWait ?? (() => undefined) } // oxfmt-ignore
  let stored = 0
  const store = async () => {
    const after = stored
    stored = run.findings.length
    await context.records.soundings.addFindings(soundingId, after, run.findings.slice(after))
  }
  const take = async (stage: StageName) => {
    await takeStage(run, stage)
    if (!onWait) return
    await store()
    publish(run)
  }
  try {
    for (const stage of stagesOf(sounding.depth)) {
      if (stage === 'cleanup') break
      signal.throwIfAborted()
      await take(stage)
    }
  } catch (error) {
    // Whatever happened on the way, nothing of it stays in anybody's numbers.
    await take('cleanup')
    await store()
    throw error
  }
  await take('cleanup')
  const verdict = worstVerdict(run.findings)
  const headline = headlineOf(run.findings)
  const endedAt = context.clock.now()
  const last = {
    after: stored,
    findings: run.findings.slice(stored),
    verdict,
    headline,
    at: endedAt,
    assignmentId: assignment.id,
    signs: signsOf(run),
  }
  const isEnded = await context.records.soundings.end(soundingId, last)
  publish(run)
  return isEnded ? { verdict, headline, tookMs: endedAt.getTime() - sounding.startedAt.getTime() } : undefined
}

async function takeStage(run: Run, stage: StageName): Promise<void> {
  const { needs, run: sound } = WAY[stage]
  const missing = needs.find((need) => ['fail', 'skipped'].includes(worstOf(run, need, isOfTheWay)))
  const started = performance.now()
  const all = missing ? [found('not tried', 'stage_before', { stage: missing })] : await soundStage(run, sound)
  const durationMs = performance.now() - started
  run.findings.push(...all.map((one) => ({ wireEntryId: null, pictureId: null, ...one, stage, durationMs })))
}

async function soundStage(run: Run, sound: (run: Run) => Promise<Found[]>): Promise<Found[]> {
  try {
    return await sound(run)
  } catch (error) {
    if (!(error instanceof Refusal) || error.status === 503) throw error
    return [found('launch', 'refused_here', { refusal: refusalFacts(error) })]
  }
}

/** What a sounding saw is proof or failure of its marks, although nothing of it stays. */
function signsOf(run: Run): Sign[] {
  const { findings } = run
  const failed = findings.find(
    (one) =>
      one.verdict === 'fail' &&
      ['reachability', 'launch_instructor', 'launch_test_learner', 'again'].includes(one.stage),
  )
  const launched = findings.some((one) => one.stage.startsWith('launch_') && one.verdict === 'pass')
  const value = findings.find(({ check, code }) => check === 'value' && code === 'agrees')
  const score = findings.find(({ check, code }) => check === 'received' && code === 'score')
  return [
    ...(failed ? [['failure', failed] as const] : launched ? [['proof', null] as const] : []),
    ...(score && worstOf(run, 'score') === 'pass' ? [['scored', score] as const] : []),
    ...(value ? [['recorded', value] as const] : []),
  ]
}

const EXPECTED = new Set<string>([
  'expected time',
  'expected words',
  'expected score',
  'expected members',
] satisfies CheckName[])

/** What is only expected of a link bars nothing that comes after it. */
const isOfTheWay = ({ check }: Finding) => !EXPECTED.has(check)

function worstOf(run: Run, stage: StageName, counts: (finding: Finding) => boolean = () => true): Verdict {
  return worstVerdict(run.findings.filter((finding) => finding.stage === stage && counts(finding)))
}

function publish({ context, assignment }: Run): void {
  context.changes.publish({ kind: 'sounding', courseId: assignment.courseId, assignmentId: assignment.id })
}
