import { found, type Found } from '@bathyscribe/core/checks'
import { fractionOf, isWithin, pointsOf, sameNumber } from '@bathyscribe/core/scores'
import type { Link } from '../../../records/statements/links.js'
import { toldOf } from '../../diagnosis/explained-entry.js'
import type { SentScore } from '../../../records/scores.js'
import { learnerName, type Run } from './run.js'

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
  if (!entry && sounding.waitMinutes > 0) {
    // What was refused, or went elsewhere, is found already: nobody has to work for it.
    const gone = byItself ? await wentWrong(run) : undefined
    if (gone) return [gone]
    const waited = await waitForPerson(run)
    if (waited === 'let go') return [untried(run)]
    entry = waited
  }
  if (!entry) return [await noScore(run)]
  if (entry.outcome === 'refused') return [refusedScore(entry)]
  run.scored = entry
  const { sent, sentOutOf: outOf, wireEntryId } = entry
  return [
    found('received', 'score', { who: learnerName(run, link), sent, outOf }, { wireEntryId }),
    ...(await elsewhere(run)),
    ...(await readBack(run, link, entry)),
    ...expectedScore(run, entry),
  ]
}

/** A registration that returns no scores: right for what is not counted, and wrong for what is. */
function withoutScores(counted: boolean): Found {
  return counted ? found('score back', 'none_returned', {}) : found('not tried', 'no_scores_returned', {})
}

/** Nobody did the work, and the tool does not do it by itself: whether a score would come back is not known. */
function untried({ assignment, tool }: Run): Found {
  const facts = { assignment: assignment.id, tool: tool.slug }
  return assignment.counted
    ? found('score back', 'not_proven', facts)
    : found('not tried', 'score_not_waited_for', facts)
}

/** Says what a person is to do, and goes on by itself when the score comes, the time is up, or somebody lets it go on without the work. */
async function waitForPerson(run: Run): Promise<SentScore | 'let go' | undefined> {
  const { context, sounding, assignment, learner } = run
  const until = new Date(context.clock.now().getTime() + sounding.waitMinutes * 60_000)
  const who = learnerName(run, learner!.link)
  await context.records.soundings.setWaiting(sounding.id, {
    for: sounding.pilot
      ? `Have ${who} open “${assignment.title}”, do the work and hand it in.`
      : `Open “${assignment.title}” as the test learner (Rehearse), do the work and hand it in; if the tool wants it, grade it there.`,
    until,
  })
  context.changes.publish({ kind: 'sounding', courseId: assignment.courseId, assignmentId: assignment.id })
  run.onWait()
  try {
    let isLetGo = false
    const look = async () => (isLetGo = !(await context.records.soundings.isWaiting(sounding.id)))
    const forMs = sounding.waitMinutes * 60_000
    const entry = await awaitScore(run, learner!.lastScoreId, forMs, PERSON_LOOK_EVERY_MS, look)
    return entry ?? (isLetGo ? 'let go' : undefined)
  } finally {
    await context.records.soundings.setWaiting(sounding.id, null)
  }
}

/** What came for the learner since an entry of the trail: a score, or one that was refused; words on progress are not waited for. @param isOver ends the wait before its time */
export async function awaitScore(
  run: Run,
  since: string | null,
  forMs: number,
  everyMs: number,
  isOver: () => Promise<boolean> = () => Promise.resolve(false),
): Promise<SentScore | undefined> {
  const { context, learner, signal } = run
  const { link } = learner!
  const until = performance.now() + forMs
  let lookAsideAt = performance.now() + REFUSED_LOOK_EVERY_MS
  for (;;) {
    signal.throwIfAborted()
    const found = await context.records.scores.newestSince(link.resource.id, link.person.id, since)
    if (found || performance.now() >= until || (await isOver())) return found
    if (performance.now() >= lookAsideAt) {
      // What was refused, or went elsewhere, a moment ago is not going to come any more.
      if (forMs <= SCORE_WAIT_MS && (await wentWrong(run))) return undefined
      lookAsideAt = performance.now() + REFUSED_LOOK_EVERY_MS
    }
    await new Promise((resolve) => setTimeout(resolve, everyMs))
  }
}

function refusedScore({ sent, code, wireEntryId }: SentScore): Found {
  return found('received', 'refused', { sent, refusal: code === null ? null : { code, detail: null } }, { wireEntryId })
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
  if (!stray) return []
  const { title, sent, sentOutOf: outOf, wireEntryId } = stray
  return [found('line item', 'own_column', { title, sent, outOf }, { wireEntryId })]
}

/** What the tool would be told if it asked for the result, and whether its comment was kept. */
async function readBack(run: Run, link: Link, entry: SentScore): Promise<Found[]> {
  const { context } = run
  const [now, standing] = [
    await context.statements.findLink({ linkId: link.resource.id, personId: link.person.id }),
    await context.records.scores.standing(link.resource.id, link.person.id),
  ]
  run.standing = standing
  const all: Found[] = []
  const stands = standing?.fraction ?? null
  const told = now?.result?.fraction ?? null
  if (entry.sent !== null)
    all.push(
      stands !== null && told !== null && sameNumber(stands, told)
        ? found('read back', 'as_it_stands', { told })
        : found('read back', 'other', { told, stands }),
    )
  if (entry.comment !== null) {
    const [cell] = await context.records.scores.cells([link.resource.id], [link.person.id])
    all.push(found('comment', cell?.comment === entry.comment ? 'kept' : 'lost', {}))
  }
  return all
}

function expectedScore({ sounding: { expected } }: Run, { sent, sentOutOf, wireEntryId }: SentScore): Found[] {
  if (expected?.scoreFrom == null && expected?.scoreTo == null) return []
  const [from, to] = [expected.scoreFrom ?? '0', expected.scoreTo ?? '1']
  const fraction = sent === null ? null : fractionOf(sent, sentOutOf ?? '1')
  return [
    fraction !== null && isWithin(fraction, from, to)
      ? found('expected score', 'within', { from, to })
      : found('expected score', 'outside', { fraction, from, to }, { wireEntryId }),
  ]
}

/** What became of a score that did not come: it was sent elsewhere, or refused before it could be told whose it was. */
async function wentWrong(run: Run): Promise<Found | undefined> {
  const [stray] = await elsewhere(run)
  return stray ?? (await refusedCall(run, 'received', run.startedAt))
}

/** Nothing came: it went wrong on its way, or was never sent. */
async function noScore(run: Run): Promise<Found> {
  const gone = await wentWrong(run)
  if (gone) return gone
  const minutes = run.sounding.waitMinutes
  const waited = minutes > 0 ? { minutes } : { seconds: SCORE_WAIT_MS / 1000 }
  return found('received', 'none', { who: run.learner!.link.person.fullName, waited })
}

/** The newest call of the tool since then that may have been about this score, and was refused; with what was found to be its cause. */
export async function refusedCall(
  { context, tool, assignment }: Run,
  check: 'received' | 'second score',
  since: Date,
): Promise<Found | undefined> {
  const refused = await context.records.wire.lastRefusal({
    registrationId: tool.id,
    assignmentId: assignment.id,
    kinds: ['outcome', 'score', 'token'],
    since,
  })
  if (!refused) return undefined
  const { id: wireEntryId, statement: entry, code, otherTool } = refused
  if (otherTool !== null) return found(check, 'other_registration', { name: otherTool, entry }, { wireEntryId })
  const diagnosis = await toldOf(context, wireEntryId)
  const causeIf = (certainty: 'proven' | 'likely') => {
    const cause = diagnosis?.certainty === certainty ? diagnosis.causes[0] : undefined
    return cause ? { sentence: cause.sentence, remedy: cause.theirs ?? cause.ours } : null
  }
  const [proven, likely] = [causeIf('proven'), causeIf('likely')]
  return found(check, 'call_refused', { entry, code, proven, ...(likely && { likely }) }, { wireEntryId })
}

/** What the score stage read of the gradebook, against what was sent. */
export async function soundGradebook(run: Run): Promise<Found[]> {
  const { assignment, standing } = run
  if (!run.scored) return [found('not tried', 'no_score_to_compare', {})]
  if (!standing || standing.fraction === null) return [found('value', 'cleared', {})]
  const { points } = assignment
  const { points: value, fraction } = standing
  const expected = pointsOf(fraction, points)
  const [sent, outOf] = [standing.sent ?? fraction, standing.sent === null ? '1' : (standing.sentOutOf ?? '1')]
  return [
    value !== null && sameNumber(value, expected)
      ? found('value', 'agrees', { sent, outOf, points, value })
      : found('value', 'other', { value, expected }),
  ]
}
