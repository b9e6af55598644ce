import { ERRORS, type ErrorCode } from '@bathyscribe/contract'
import { fractionOf, isWithin, pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { Link } from '../../../records/statements/links.js'
import type { TrailRow } from '../../../records/scores.js'
import type { Context } from '../../context.js'
import { passed, skipped, type Found, type Run } from './run.js'

/** Whether the score of a counted assignment came back at all: what its proof stands and falls with. */
const SCORE_BACK = 'score back'
/** How long the score of a launch is waited for when no person has to act. */
const SCORE_WAIT_MS = 8000
const SCORE_LOOK_EVERY_MS = 150
const PERSON_LOOK_EVERY_MS = 1000
/** A tool that was refused tries again at once, or not at all for a long time. */
const REFUSED_LOOK_EVERY_MS = 1200

export async function soundScore(run: Run): Promise<Found[]> {
  const { tool, sounding, assignment } = run
  const { link, lastScoreId } = run.learner!
  if (!tool.features.includes('scores')) return [withoutScores(assignment.counted)]
  const byItself = Object.keys(tool.soundingParameters).length > 0
  if (!byItself && sounding.waitMinutes === 0) return [untried(run)]
  let entry = byItself ? await awaitScore(run, lastScoreId, SCORE_WAIT_MS, SCORE_LOOK_EVERY_MS) : undefined
  if (!entry && sounding.waitMinutes > 0) entry = await waitForPerson(run)
  if (!entry) return [await noScore(run)]
  if (entry.outcome === 'refused') return [refusedScore(entry)]
  run.scored = entry
  const sent = entry.sent === null ? 'a cleared score' : `${entry.sent} of ${entry.sentOutOf}`
  return [
    passed('received', `The tool sent ${sent} for ${nameOf(run, link)}.`, { wireEntryId: entry.wireEntryId }),
    ...(await elsewhere(run)),
    ...(await readBack(run.context, link, entry)),
    ...expectedScore(run, entry),
  ]
}

/** A registration that returns no scores: right for what is not counted, and wrong for what is. */
function withoutScores(counted: boolean): Found {
  const remedy = 'Use a registration that returns scores if the work is to be graded.'
  if (!counted) return skipped('The registration is for content that returns no scores, so none is expected.', remedy)
  return {
    check: SCORE_BACK,
    verdict: 'fail',
    statement: 'The assignment is counted, but its registration is for content that returns no scores.',
    cause: 'No score of this assignment can come back: its registration returns none.',
    remedy: `${remedy} Otherwise take it out of the totals.`,
  }
}

/** Nobody did the work, and the tool does not do it by itself: whether a score would come back is not known. */
function untried({ assignment, tool }: Run): Found {
  const statement = 'No score was waited for: nobody does the work, and the tool was not told how to score by itself.'
  const remedy = `Do the work yourself while it waits (\`bathyscribe sounding run ${assignment.id} --wait 10\`, or “wait for me” on its page). If the tool can score by itself, say how: \`bathyscribe tool change ${tool.slug} --sounding NAME=VALUE\`.`
  if (!assignment.counted) return skipped(statement, remedy)
  return {
    check: SCORE_BACK,
    verdict: 'warn',
    statement,
    cause: 'Whether its score comes back is not proven.',
    remedy,
  }
}

function nameOf({ sounding }: Run, link: Link): string {
  return sounding.pilot ? link.person.fullName : 'the test learner'
}

/** Says what a person is to do, and goes on by itself when the score comes or the time is up. */
async function waitForPerson(run: Run): Promise<TrailRow | undefined> {
  const { context, sounding, assignment, learner } = run
  const until = new Date(context.clock.now().getTime() + sounding.waitMinutes * 60_000)
  const who = nameOf(run, learner!.link)
  await context.records.soundings.setWaiting(sounding.id, {
    for: sounding.pilot
      ? `Have ${who} open “${assignment.title}”, do the work and hand it in.`
      : `Open “${assignment.title}” as the test learner (Rehearse), do the work and hand it in; if the tool wants it, grade it there.`,
    until,
  })
  context.changes.publish({ kind: 'sounding', courseId: assignment.courseId, assignmentId: assignment.id })
  run.onWait()
  try {
    return await awaitScore(run, learner!.lastScoreId, sounding.waitMinutes * 60_000, PERSON_LOOK_EVERY_MS)
  } finally {
    await context.records.soundings.setWaiting(sounding.id, null)
  }
}

/** What came for the learner since an entry of the trail: a score, or one that was refused; words on progress are not waited for. */
export async function awaitScore(
  run: Run,
  since: string | null,
  forMs: number,
  everyMs: number,
): Promise<TrailRow | undefined> {
  const { context, learner, signal } = run
  const { link } = learner!
  const until = performance.now() + forMs
  let lookAsideAt = performance.now() + REFUSED_LOOK_EVERY_MS
  for (;;) {
    signal.throwIfAborted()
    const { items } = await context.records.scores.trail(link.resource.id, link.person.id, 5, undefined)
    const found = items.find(
      (one) => one.operation !== 'progress' && one.by === null && (since === null || BigInt(one.id) > BigInt(since)),
    )
    if (found || performance.now() >= until) return found
    if (performance.now() >= lookAsideAt) {
      // What was refused, or went elsewhere, a moment ago is not going to come any more.
      if (forMs <= SCORE_WAIT_MS && ((await refusedCall(run, run.startedAt)) ?? (await elsewhere(run))[0]))
        return undefined
      lookAsideAt = performance.now() + REFUSED_LOOK_EVERY_MS
    }
    await new Promise((resolve) => setTimeout(resolve, everyMs))
  }
}

function refusedScore(entry: TrailRow): Found {
  const known = ERRORS[entry.code as ErrorCode] as { sentence: string; hint: string } | undefined
  return {
    check: 'received',
    verdict: 'fail',
    statement: `The tool sent a score that was refused: “${entry.sent ?? ''}”.`,
    cause: known?.sentence ?? entry.code,
    remedy: known?.hint ?? null,
    wireEntryId: entry.wireEntryId,
  }
}

/** A score that came to the right place may have come to a wrong one as well. */
async function elsewhere({ context, tool, assignment, learner, startedAt }: Run): Promise<Found[]> {
  const [stray] = await context.records.scores.elsewhere({
    courseId: assignment.courseId,
    resourceLinkId: assignment.resourceLinkId,
    registrationId: tool.id,
    personId: learner!.link.person.id,
    since: startedAt,
  })
  return stray ? [strayed(stray)] : []
}

function strayed(stray: {
  title: string
  sent: string | null
  sentOutOf: string | null
  wireEntryId: string | null
}): Found {
  return {
    check: 'line item',
    verdict: 'fail',
    statement: `The tool sent ${stray.sent ?? 'nothing'} of ${stray.sentOutOf ?? '1'} to a column of its own, “${stray.title}”, instead of the one that the launch named.`,
    cause: 'The tool sends scores to a column of its own beside the assignment.',
    remedy: 'Have its support use the line item of the launch; until then merge the two columns in the gradebook.',
    wireEntryId: stray.wireEntryId,
  }
}

/** What the tool would be told if it asked for the result, and whether its comment was kept. */
async function readBack(context: Context, link: Link, entry: TrailRow): Promise<Found[]> {
  const [now, standing] = [
    await context.statements.findLink({ linkId: link.resource.id, personId: link.person.id }),
    await context.records.scores.standing(link.resource.id, link.person.id),
  ]
  const found: Found[] = []
  const fraction = standing?.fraction ?? null
  const told = now?.result?.fraction ?? null
  if (entry.sent !== null)
    found.push(
      fraction !== null && told !== null && sameNumber(fraction, told)
        ? passed('read back', `Asked for it, we would tell the tool ${told} of 1.`)
        : {
            check: 'read back',
            verdict: 'fail',
            statement: `Asked for the result, we would tell the tool ${told ?? 'nothing'}, where ${fraction ?? 'nothing'} stands.`,
            cause: 'What the tool would read back is not what stands.',
            remedy: 'Open the trail of the test learner.',
          },
    )
  if (entry.comment !== null) {
    const cells = await context.records.scores.cells([link.resource.id], [link.person.id])
    const kept = cells[0]?.comment === entry.comment
    found.push({
      check: 'comment',
      verdict: kept ? 'pass' : 'fail',
      statement: kept
        ? 'The comment that came with it is kept.'
        : 'The comment that came with it does not stand beside the result.',
      ...(!kept && { cause: 'The comment of the score was lost.' }),
    })
  }
  return found
}

function expectedScore({ expected }: Run, entry: TrailRow): Found[] {
  if (expected?.scoreFrom == null && expected?.scoreTo == null) return []
  const [from, to] = [expected.scoreFrom ?? '0', expected.scoreTo ?? '1']
  const fraction = entry.sent === null ? null : fractionOf(entry.sent, entry.sentOutOf ?? '1')
  const within = fraction !== null && isWithin(fraction, from, to)
  return [
    within
      ? passed('expected score', `The score lies between ${from} and ${to}, as expected.`)
      : {
          check: 'expected score',
          verdict: 'fail',
          statement: `The score is ${fraction ?? 'cleared'} of 1; from ${from} to ${to} was expected.`,
          cause: 'The score is not what is expected of it.',
          remedy: 'Was the content changed at the tool’s end? If it is meant, change what is expected.',
          wireEntryId: entry.wireEntryId,
        },
  ]
}

/** Nothing came: refused before it could be told whose it was, sent elsewhere, or never sent. */
async function noScore(run: Run): Promise<Found> {
  const [stray] = await elsewhere(run)
  return (
    stray ??
    (await refusedCall(run, run.startedAt)) ?? {
      check: 'received',
      verdict: 'fail',
      statement: `No score came back for ${run.learner!.link.person.fullName} within ${run.sounding.waitMinutes > 0 ? `${run.sounding.waitMinutes} minutes` : `${SCORE_WAIT_MS / 1000} seconds`}.`,
      cause: 'The tool took the launch but sent no score.',
      remedy: 'Some tools send late or on demand only: check at the tool’s end, then run the sounding again.',
    }
  )
}

/** The newest call of the tool since then that may have been about this score, and was refused; with what was found to be its cause. */
export async function refusedCall({ context, tool, assignment }: Run, since: Date): Promise<Found | undefined> {
  const refused = await context.records.wire.lastRefusal({
    registrationId: tool.id,
    assignmentId: assignment.id,
    kinds: ['outcome', 'score', 'token'],
    since,
  })
  if (!refused) return undefined
  if (refused.otherTool !== null)
    return {
      check: 'received',
      verdict: 'fail',
      statement: `A call for this assignment came under another registration, “${refused.otherTool}”, and was refused: ${refused.statement}`,
      cause: `The tool sends this assignment’s scores under another registration, “${refused.otherTool}”.`,
      remedy: 'Have the tool’s end use the client ID that the launch came with; it knows us under more than one.',
      wireEntryId: refused.id,
    }
  const diagnosis = (await context.records.diagnoses.of([refused.id])).get(refused.id)
  const cause = diagnosis?.certainty === 'proven' ? diagnosis.causes[0] : undefined
  return {
    check: 'received',
    verdict: 'fail',
    statement: `A call came back, but was refused: ${refused.statement}`,
    cause: cause?.sentence ?? refused.statement,
    remedy:
      cause?.theirs ??
      cause?.ours ??
      (refused.code && refused.code in ERRORS ? ERRORS[refused.code as ErrorCode].hint : null),
    wireEntryId: refused.id,
  }
}

export async function soundGradebook(run: Run): Promise<Found[]> {
  const { context, assignment } = run
  if (!run.scored) return [skipped('No score came back, so there is nothing to compare.')]
  const standing = await context.records.scores.standing(assignment.id, run.learner!.link.person.id)
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
          statement: `${standing.sent} of ${standing.sentOutOf} × ${assignment.points} points = ${standing.points}, as the gradebook has it.`,
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
