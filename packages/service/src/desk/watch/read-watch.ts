import { ERRORS, type ErrorCode } from '@bathyscribe/contract'
import { MOST_WRONG } from '@bathyscribe/core/diagnosis'
import { changeInWords, proofOf, type Mark } from '@bathyscribe/core/checks'
import { requireTeaching, type Seer } from '../identity/access.js'
import type { Context } from '../context.js'

const HOUR_MS = 3600_000
const UNPROVEN_SHOWN = 12
/** How far back work without a score is looked for. */
const UNSCORED_DAYS = 60
/** How long a tool may say nothing while people enter it. */
const SILENT_DAYS = 7
/** How long it is said that our own address was changed. */
const MOVED_DAYS = 60
/** How far back refusals are told, and who became an administrator without anybody’s act here. */
const REFUSALS_SINCE_MS = 7 * 24 * HOUR_MS

/** What needs someone now. */
export type FoundWatch = Awaited<ReturnType<typeof readWatch>>

/** What needs someone now, as far as the person may see it: administrators everything, teachers their own courses. @throws Refusal */
export async function readWatch(context: Context, actor: Seer) {
  const { records, clock } = context
  const courses = await requireTeaching(records, actor)
  const now = clock.now()
  const [
    proof,
    refusals,
    soundings,
    perHour,
    approvals,
    entries,
    scores,
    ownAddress,
    openCases,
    waitingWork,
    doubted,
    newAdministrators,
  ] = await Promise.all([
    records.assignments.proofOfPublished(courses, UNPROVEN_SHOWN),
    records.wire.refusals(new Date(now.getTime() - REFUSALS_SINCE_MS), courses, 20),
    records.soundings.lastFailing(courses, 8),
    records.scores.perHour(new Date(now.getTime() - 24 * HOUR_MS), courses),
    courses === null ? records.tools.waiting() : [],
    records.menus.waitingForEntry(courses),
    scoreTrouble(context, courses, now),
    courses === null ? movedTo(context, now) : null,
    records.cases.countOpen(courses),
    records.scoreHistory.countWaiting(courses),
    courses === null ? records.verdicts.doubted(MOST_WRONG) : new Map<string, number>(),
    courses === null ? records.identities.newAdministrators(new Date(now.getTime() - REFUSALS_SINCE_MS)) : [],
  ])
  return {
    unproven: proof.first.map((assignment) => {
      const marks = proofOf(assignment.facts)
      const { id, slug, title, course, tool } = assignment
      return { id, slug, title, course, tool, proof: marks, nextAct: nextAct(marks) }
    }),
    unprovenCount: proof.unproven,
    publishedCount: proof.published,
    refusals: refusals.map((group) => ({ ...group, ...explainCode(group.code) })),
    approvals: approvals.map(({ id, slug, name, state, course, what, since }) => ({
      tool: { id, slug, name, state },
      course,
      what,
      since,
    })),
    firstEntries: entries.map(({ tool, course, label, linkId, kind }) => ({
      tool,
      course,
      label,
      openAt:
        kind === 'menu' ? `/courses/${course.id}/menu/${linkId}` : `/courses/${course.id}/assignments/${linkId}/work`,
    })),
    scores,
    ownAddress,
    newAdministrators,
    doubtedCauses: [...doubted].map(([code, wrong]) => ({ code, wrong })),
    openCases,
    waitingWork,
    soundings,
    scoresPerHour: fillHours(perHour, now),
  }
}

/** Whether our public address was changed lately, so that tools may still know the earlier one. */
async function movedTo({ records, settings }: Context, now: Date) {
  const { publicUrl } = settings
  const changed = await records.ownAddresses.changed(publicUrl)
  if (!changed || now.getTime() - changed.since.getTime() >= MOVED_DAYS * 24 * HOUR_MS) return null
  return { now: publicUrl, before: changed.before, since: changed.since }
}

/** What about scores needs somebody: as far as the courses go, and the records office for who runs it. */
async function scoreTrouble({ records }: Context, courses: string[] | null, now: Date) {
  const ago = (days: number) => new Date(now.getTime() - days * 24 * HOUR_MS)
  const [refused, unscored, silent, behind] = await Promise.all([
    records.scoreWatch.refused(ago(1), courses),
    records.scoreWatch.unscored(now, ago(UNSCORED_DAYS), courses),
    records.scoreWatch.silent(ago(SILENT_DAYS), ago(SILENT_DAYS), courses),
    courses === null ? records.handedOn.behind(new Date(now.getTime() - HOUR_MS)) : null,
  ])
  return {
    refused: refused.map((one) => ({ ...one, sentence: explainCode(one.code).sentence })),
    unscored,
    silent,
    office: behind,
  }
}

/** The one thing to do about an assignment, read off its first mark that is not proven. */
export function nextAct(proof: readonly Mark[]): string {
  const open =
    proof.find((mark) => mark.state === 'broken' || mark.state === 'look') ??
    proof.find((mark) => mark.state === 'changed') ??
    proof.find((mark) => mark.state === 'not_yet')
  if (!open) return 'Nothing to do: proven all the way.'
  if (open.change) return `${changeInWords(open.change)} Run a sounding.`
  if (open.state !== 'not_yet') return open.statement
  return NEXT[open.name]
}

const NEXT: Record<Mark['name'], string> = {
  registered: 'Enable the tool’s registration.',
  linked: 'Give it a launch address.',
  published: 'Publish it.',
  launched: 'Run a sounding, or open it once.',
  scored: 'Run a sounding, or wait for the first score.',
  recorded: 'Wait for the first score to be recorded.',
}

function explainCode(code: string): { sentence: string; hint: string } {
  const kind = ERRORS[code as ErrorCode] as { sentence: string; hint: string } | undefined
  return kind
    ? { sentence: kind.sentence, hint: kind.hint }
    : {
        sentence: 'The tool did not take the launch.',
        hint: 'Open the wire entry to read what the tool said; a sounding names the cause.',
      }
}

function fillHours(perHour: readonly { hour: Date; scores: number }[], now: Date): { hour: Date; scores: number }[] {
  const last = Math.floor(now.getTime() / HOUR_MS) * HOUR_MS
  const counted = new Map(perHour.map(({ hour, scores }) => [hour.getTime(), scores]))
  return Array.from({ length: 24 }, (_, i) => {
    const hour = last - (23 - i) * HOUR_MS
    return { hour: new Date(hour), scores: counted.get(hour) ?? 0 }
  })
}
