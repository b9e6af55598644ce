import { accountDifference, found, remarksOfPage, saidOf, type Found } from '@bathyscribe/core/checks'
import { derive } from '@bathyscribe/core/scores'
import { tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import type { Run } from './run.js'
import { awaitScore, refusedCall } from './score.js'

/** A tool that scored once does so as fast the second time; one that does not is not waited for long. */
const SECOND_SCORE_WAIT_MS = 3000

/** The same person once more: still let in, still the same account, and a second score that stands as the column counts. */
export async function soundAgain(run: Run): Promise<Found[]> {
  const { context, sounding, signal, learner, scored } = run
  const { link, tried: first } = learner!
  const reloaded = await reload(run, first!)
  const launchedAt = context.clock.now()
  const tried = await tryLaunch(context, link, {
    kind: 'try',
    soundingId: sounding.id,
    extraCustom: link.registration.soundingParameters,
    signal,
  })
  if (tried.refusal !== undefined) {
    const facts = { who: link.person.fullName, said: tried.refusal }
    return [...reloaded, found('second visit', 'refused', facts, { wireEntryId: tried.wireEntryId })]
  }
  return [...reloaded, sameAccount(run, first!, tried), ...(scored ? [await secondScore(run, launchedAt)] : [])]
}

/** The page that the launch ended on, asked for once more with its cookies, as by a reload. */
async function reload({ context, signal }: Run, { followed, jar, seen }: TriedLaunch): Promise<Found[]> {
  const last = followed.steps.at(-1)
  // A page that answered a post is reloaded by posting again, which a tool has to refuse: a nonce is good once.
  if (seen || followed.returned || last?.method !== 'GET') return []
  const cookie = await jar.getCookieString(followed.url)
  const answer = await context.outgoing.send({ method: 'GET', url: new URL(followed.url), headers: { cookie }, signal })
  const [remark] = remarksOfPage(answer)
  const page = remark ? saidOf(remark) : null
  const { status } = answer
  return [
    status < 400 && !page ? found('reload', 'still_there', { status }) : found('reload', 'lost', { status, page }),
  ]
}

function sameAccount({ learner }: Run, first: TriedLaunch, { followed, wireEntryId }: TriedLaunch): Found {
  const { fullName } = learner!.link.person
  const differs = accountDifference(first.seen?.seen.html ?? first.followed.body, followed.body, fullName)
  return differs
    ? found('second visit', 'another_account', differs, { wireEntryId })
    : found('second visit', 'same_account', {}, { wireEntryId })
}

async function secondScore(run: Run, launchedAt: Date): Promise<Found> {
  const { context, assignment, learner, scored } = run
  const { person } = learner!.link
  const entry = await awaitScore(run, scored!.id, SECOND_SCORE_WAIT_MS, 150)
  if (!entry) return (await refusedCall(run, 'second score', launchedAt)) ?? found('not tried', 'no_second_score', {})
  const { wireEntryId } = entry
  if (entry.outcome === 'refused') return found('second score', 'refused', { code: entry.code ?? '' }, { wireEntryId })
  const [steps, standing] = [
    await context.records.scores.steps([assignment.id], person.id),
    await context.records.scores.standing(assignment.id, person.id),
  ]
  const { counting } = assignment
  const expected = derive(steps, counting).scoreId
  return standing !== undefined && expected === standing.scoreId
    ? found('second score', 'as_it_counts', { counting }, { wireEntryId })
    : found(
        'second score',
        'not_as_it_counts',
        { standsBy: standing?.scoreId ?? null, expected, counting },
        { wireEntryId },
      )
}
