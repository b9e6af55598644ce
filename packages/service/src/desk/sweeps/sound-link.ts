import { headlineInWords, Refusal, refusalFacts } from '@bathyscribe/contract'
import { found, type Said } from '@bathyscribe/core/checks'
import { compareLink, needsSomebody } from '@bathyscribe/core/sweeps'
import type { ClaimedLink } from '../../records/sweep-work.js'
import type { Context } from '../context.js'
import { oneLine } from '../mail/write-digest.js'
import type { Outcome } from '../soundings/run-sounding.js'
import { startSounding } from '../soundings/start-sounding.js'

/** A link that is being sounded by somebody else is looked at again after this. */
const LOOK_AGAIN_MS = 2000

/**
 * Sounds one link of a sweep, and ends the sweep with its last one.
 * @param sound runs a started sounding to its end and never throws
 */
export async function soundLink(
  context: Context,
  link: ClaimedLink,
  sound: (soundingId: string) => Promise<Outcome | undefined>,
  stopping: AbortSignal,
): Promise<void> {
  const { records, clock } = context
  const { sweepWork } = records
  const soundingId = await begin(context, link)
  if (soundingId === undefined) return
  const outcome = (await sound(soundingId)) ?? (await records.soundings.outcome(soundingId, clock.now()))
  if (outcome.verdict === null && stopping.aborted) return sweepWork.giveBack(link, null)
  const { headline, tookMs } = outcome
  const came = { verdict: outcome.verdict ?? ('skipped' as const), tookMs }
  const before =
    link.verdictBefore === null ? undefined : { verdict: link.verdictBefore, tookMs: link.tookBeforeMs ?? tookMs }
  await finish(context, link, { state: 'done', ...came, headline, change: compareLink(came, before) })
}

/** @returns the sounding; undefined when there is none for now, or none ever */
async function begin(context: Context, link: ClaimedLink): Promise<string | undefined> {
  const { records, clock } = context
  const { sweepWork } = records
  const leftOut = async (headline: Said) => {
    await finish(context, link, { state: 'left_out', verdict: null, headline, change: null, tookMs: null })
    return undefined
  }
  if (link.personId === null) return leftOut(found('link', 'person_gone', {}))
  try {
    const assignment = { id: link.assignmentId, courseId: link.courseId }
    const soundingId = await startSounding(context, { id: link.personId }, assignment, {
      depth: link.depth,
      follower: link.follower,
      consented: false,
      waitMinutes: 0,
      sweepId: link.sweepId,
    })
    return soundingId
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    if (error.code !== 'sounding.already_running')
      return leftOut(found('link', 'refused', { refusal: refusalFacts(error) }))
    await sweepWork.giveBack(link, new Date(clock.now().getTime() + LOOK_AGAIN_MS))
    return undefined
  }
}

/** Ends a link, and its sweep where none waits any more. */
async function finish(
  context: Context,
  link: ClaimedLink,
  came: Parameters<Context['records']['sweepWork']['finish']>[1],
): Promise<void> {
  const { sweepWork } = context.records
  const { sweepId } = link
  const noneWaits = await sweepWork.finish(link, came)
  const ended = noneWaits && (await sweepWork.endWhenDone(sweepId, context.clock.now()))
  context.changes.publish({ kind: 'sweep', courseId: null })
  if (ended) await mailBroken(context, sweepId)
}

/** A scheduled sweep tells its person what is newly broken; without anything newly broken it says nothing. */
async function mailBroken(context: Context, sweepId: string): Promise<void> {
  const { records, mailer, settings, log } = context
  const news = mailer && (await records.sweepWork.toMail(sweepId))
  const broken = (news?.failed ?? []).filter((one) => needsSomebody(one.change, one.verdict))
  if (!news || broken.length === 0) return
  const person = await records.people.byId(news.personId)
  if (!person?.email || person.closedAt) return
  const lines = broken
    .slice(0, 40)
    .map((one) => `  - ${oneLine(`${one.course} ${one.title}: ${headlineInWords(one.headline) ?? ''}`)}`)
  if (broken.length > lines.length) lines.push(`  … and ${broken.length - lines.length} more`)
  try {
    await mailer.send({
      to: person.email,
      subject: `Bathyscribe: ${broken.length} newly broken`,
      text: `${oneLine(person.fullName)}, the sweep “${oneLine(news.title)}” found what was not broken before:\n\n${lines.join('\n')}\n\n${settings.publicUrl}/sweeps/${sweepId}\n`,
    })
  } catch (error) {
    log.warn({ reason: (error as Error).message, sweepId }, 'the end of a sweep could not be mailed')
  }
}
