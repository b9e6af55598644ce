import { accountDifference, remarksOfPage } from '@bathyscribe/core/checks'
import { derive } from '@bathyscribe/core/scores'
import { tryLaunch, type TriedLaunch } from '../../launches/try-launch.js'
import { passed, skipped, type Found, type Run } from './run.js'
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
  if (tried.refusal !== undefined)
    return [
      ...reloaded,
      {
        check: 'second visit',
        verdict: 'fail',
        statement: `The tool let ${link.person.fullName} in once, but not a second time. ${tried.refusal}`,
        cause: 'The tool takes a person’s first visit only.',
        remedy: 'Read the tool’s own words; its support has to say what a second launch of one person meets there.',
        wireEntryId: tried.wireEntryId,
      },
    ]
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
  if (answer.status < 400 && !remark)
    return [passed('reload', `The page is still there after a reload: ${answer.status}.`)]
  return [
    {
      check: 'reload',
      verdict: 'fail',
      statement: remark?.statement ?? `After a reload the tool answers ${answer.status}.`,
      cause: 'The tool loses its session: a reload leads out of the work.',
      remedy: 'Tell the tool’s support; until it is mended, work that is reloaded may be lost.',
    },
  ]
}

function sameAccount({ learner }: Run, first: TriedLaunch, second: TriedLaunch): Found {
  const { fullName } = learner!.link.person
  const differs = accountDifference(first.seen?.seen.html ?? first.followed.body, second.followed.body, fullName)
  if (!differs) return passed('second visit', 'The tool let the same person in again, to the same account as far as its page tells.', { wireEntryId: second.wireEntryId }) // oxfmt-ignore
  return {
    check: 'second visit',
    verdict: 'warn',
    statement: `The tool greets the same person differently the second time: first “${differs.was}”, then “${differs.is}”.`,
    cause: 'The tool seems to take one person for two: each launch may make another account.',
    remedy:
      'Ask its support by which parameter it knows people again; ours is user_id or sub, which is the same each time.',
    wireEntryId: second.wireEntryId,
  }
}

async function secondScore(run: Run, launchedAt: Date): Promise<Found> {
  const { context, assignment, learner, scored } = run
  const { person } = learner!.link
  const entry = await awaitScore(run, scored!.id, SECOND_SCORE_WAIT_MS, 150)
  const call = entry ? undefined : await refusedCall(run, launchedAt)
  if (call)
    return { ...call, check: 'second score', cause: `The first score was taken, the second refused: ${call.cause}` }
  if (!entry) return skipped('No second score came, so nothing shows what would stand after one.')
  if (entry.outcome === 'refused')
    return {
      check: 'second score',
      verdict: 'fail',
      statement: `The second score was refused: ${entry.code ?? ''}.`,
      cause: `The first score was taken, the second refused: ${entry.code ?? ''}.`,
      remedy: 'Look at the wire entry: does the tool send each score with a time of its own?',
      wireEntryId: entry.wireEntryId,
    }
  const [steps, standing] = [
    await context.records.scores.steps([assignment.id], person.id),
    await context.records.scores.standing(assignment.id, person.id),
  ]
  const derived = derive(steps, assignment.counting)
  const agrees = standing !== undefined && derived.scoreId === standing.scoreId
  return {
    check: 'second score',
    verdict: agrees ? 'pass' : 'fail',
    statement: agrees
      ? `A second score came, and the result stands as “${assignment.counting}” has it.`
      : `After the second score the gradebook stands by entry ${standing?.scoreId ?? 'none'}, where “${assignment.counting}” gives ${derived.scoreId ?? 'none'}.`,
    ...(!agrees && { cause: 'The gradebook does not follow the second score.', remedy: 'Open the trail.' }),
    wireEntryId: entry.wireEntryId,
  }
}
