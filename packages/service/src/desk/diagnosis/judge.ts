import { Refusal, type CauseRecords, type NewVerdict } from '@bathyscribe/contract'
import {
  asDoubted,
  CAUSE_CODES,
  MOST_WRONG,
  partsOfCode,
  trackRecord,
  type Cause,
  type CountedCause,
  type Diagnosis,
} from '@bathyscribe/core/diagnosis'
import type { z } from 'zod'
import type { CauseRow, VerdictRow } from '../../records/verdicts.js'
import { act, type Actor, type Context } from '../context.js'
import { visibleEntry } from './visible-entry.js'

/** What a cause is called that none was told for. */
const NONE = 'none'
type Said = z.output<typeof NewVerdict>

/**
 * Keeps what a person says of what was told of an entry. It holds until the same is judged anew or taken back.
 * @returns what is said of the entry now, and which of its causes are in doubt
 * @throws Refusal
 */
export async function judgeDiagnosis(
  context: Context,
  actor: Actor,
  entryId: string,
  said: Said,
): Promise<{ items: VerdictRow[]; doubted: string[] }> {
  const { entry } = await visibleEntry(context, actor, entryId)
  const found = (await context.records.diagnoses.of([entryId])).get(entryId)
  if (!found) throw new Refusal('diagnosis.not_explained', `wire entry ${entryId}`)
  const causes = judged(found, said)
  const { verdict, was = null } = said
  await act(
    context,
    { doer: actor, action: 'judge diagnosis', subject: `wire entry ${entryId}`, courseId: entry.courseId },
    async ({ verdicts }, at) => {
      for (const { code, sentence } of causes)
        await verdicts.put({ wireEntryId: entryId, code, sentence, verdict, was, personId: actor.id, at })
    },
    () => ({ after: { verdict, causes: causes.map(({ code }) => code), ...(was && { was }) } }),
  )
  context.changes.publish({ kind: 'refusal', courseId: entry.courseId })
  return {
    items: await context.records.verdicts.of(entryId),
    doubted: asDoubted(found, await context.records.verdicts.doubted(MOST_WRONG)).doubts,
  }
}

/** The causes that something is said of. @throws Refusal where nothing can be said, or where it has to be said of which */
function judged(
  { causes, certainty }: Diagnosis,
  { verdict, cause, was }: Said,
): (Pick<Cause, 'code'> & { sentence: string | null })[] {
  if (was !== undefined && verdict === 'right') throw new Refusal('diagnosis.right_as_it_was', was)
  if (was !== undefined && !partsOfCode(was).every((code) => CAUSE_CODES.includes(code)))
    throw new Refusal('diagnosis.cause_unknown', was)
  const asked = cause === undefined ? causes : causes.filter(({ code }) => code === cause)
  if (cause !== undefined && asked.length === 0)
    throw new Refusal('diagnosis.cause_unknown', `${cause} was not told for this entry`)
  if (asked.length === 0) {
    if (was === undefined) throw new Refusal('diagnosis.nothing_told')
    return [{ code: NONE, sentence: null }]
  }
  if (verdict === 'right' && certainty === 'several' && cause === undefined)
    throw new Refusal('diagnosis.which_cause', causes.map(({ code }) => code).join(', '))
  return asked
}

/** What people said of an entry goes; what showed by itself stays. @throws Refusal */
export async function takeVerdictBack(context: Context, actor: Actor, entryId: string): Promise<void> {
  const { entry } = await visibleEntry(context, actor, entryId)
  await act(
    context,
    { doer: actor, action: 'take back verdict', subject: `wire entry ${entryId}`, courseId: entry.courseId },
    async ({ verdicts }) => {
      const gone = await verdicts.takeBack(entryId)
      if (gone.length === 0) throw new Refusal('diagnosis.not_judged', `wire entry ${entryId}`)
      return gone
    },
    (before) => ({ before }),
  )
  context.changes.publish({ kind: 'refusal', courseId: entry.courseId })
}

/** From now on it is told as proven again where computing shows it. @throws Refusal for causes that are not known */
export async function lookAtCause(context: Context, actor: Actor, code: string): Promise<void> {
  if (!CAUSE_CODES.includes(code)) throw new Refusal('diagnosis.cause_unknown', code)
  await act(
    context,
    { doer: actor, action: 'look at cause', subject: `cause ${code}` },
    async ({ verdicts }, at) => {
      const wrong = (await verdicts.doubted(1)).get(code) ?? 0
      await verdicts.look(code, actor.id, at)
      return wrong
    },
    (wrong) => ({ before: { wrong } }),
  )
  context.changes.publish({ kind: 'refusal', courseId: null })
}

/** Takes what was told for right where the next message of the link passed. */
export async function settleVerdicts(context: Context): Promise<void> {
  const settled = await context.records.verdicts.settle(context.clock.now())
  if (settled > 0) context.changes.publish({ kind: 'refusal', courseId: null })
}

/** How often each cause was right, those in doubt first, then those judged most often. */
export async function causeRecords({
  records,
}: Context): Promise<{ items: FoundCause[]; months: CauseRecords['months'] }> {
  const [rows, counted] = await Promise.all([records.verdicts.causes(), records.verdicts.counted()])
  const items = rows.map((row): FoundCause => {
    const own = counted.filter(({ code }) => code === row.code)
    return { ...row, inDoubt: row.wrongSince >= MOST_WRONG, ...trackRecord(own), months: byMonth(own) }
  })
  const often = (one: FoundCause) => one.right + one.rightByItself + one.wrong + one.missed
  items.sort((a, b) => Number(b.inDoubt) - Number(a.inDoubt) || often(b) - often(a))
  return { items, months: byMonth(counted) }
}
export type FoundCause = CauseRow & Omit<CauseRecords['items'][number], keyof CauseRow>

function byMonth(counted: readonly CountedCause[]): CauseRecords['months'] {
  const months = [...new Set(counted.map(({ month }) => month))].sort()
  return months.map((month) => ({ month, ...trackRecord(counted.filter((one) => one.month === month)) }))
}
