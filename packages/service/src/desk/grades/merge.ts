import { Refusal, type MergePreview, type Twin } from '@bathyscribe/contract'
import { twinReasons } from '@bathyscribe/core/scores'
import type { AssignmentRecord, CourseRecord } from '../../records/entities/courses.js'
import type { Records, RecordsInside } from '../../records/index.js'
import { recompute } from '../assignments/recompute.js'
import { by, type Actor, type Context } from '../context.js'
import { foresee } from './recount.js'

/** Columns that tools made beside ours for the same work, with what says so. */
export async function listTwins({ records }: Context, course: CourseRecord): Promise<Twin[]> {
  const all = await records.columns.twinFacts(course.id)
  const ours = all.filter((one) => one.state !== 'column')
  return all
    .filter((one) => one.state === 'column')
    .flatMap((made) =>
      ours.flatMap((one) => {
        const reasons = twinReasons(made, one)
        const part = ({ id, slug, title, points, scored }: typeof one) => ({
          id,
          slug,
          title,
          points,
          scored: scored.length,
        })
        return reasons.length > 0 ? [{ made: part(made), ours: part(one), tool: made.tool, reasons }] : []
      }),
    )
}

/** Says what merging would change. Nothing is lost: the trail of the result is both trails together. @throws Refusal */
export async function previewMerge(context: Context, made: AssignmentRecord, intoRef: string): Promise<MergePreview> {
  const ours = await context.records.assignments.byRef(intoRef)
  requirePair(made, ours)
  return previewOf(context.records, made, ours)
}

async function previewOf(records: Records, made: AssignmentRecord, ours: AssignmentRecord): Promise<MergePreview> {
  const { changes, stays, overridden } = await foresee(records, [made.id, ours.id], ours)
  const part = ({ id, slug, title }: AssignmentRecord) => ({ id, slug, title })
  return {
    made: part(made),
    ours: part(ours),
    kept: await records.columns.trailLength([made.id, ours.id]),
    changes,
    stays: stays + overridden,
  }
}

/** Merges a column that a tool made into one of ours: its trail counts there from now on, and so does what the tool still sends to it. @throws Refusal */
export async function mergeColumn(
  context: Context,
  actor: Actor,
  made: AssignmentRecord,
  intoRef: string,
): Promise<MergePreview> {
  const ours = await context.records.assignments.byRef(intoRef)
  const preview = await context.records.transaction(async (records) => {
    await records.assignments.lockAll([made.id, ours.id])
    const [from, into] = [await records.assignments.byRef(made.id), await records.assignments.byRef(ours.id)]
    requirePair(from, into)
    const found = await previewOf(records, from, into)
    await records.columns.setMerged(from.id, into.id)
    await recompute(records, [from.id, into.id])
    await note(context, records, actor, 'merge columns', from, into)
    return found
  })
  tell(context, made.courseId)
  return preview
}

/** Takes a merge back. What came since counts where the tool sent it to. @throws Refusal */
export async function unmergeColumn(context: Context, actor: Actor, made: AssignmentRecord): Promise<void> {
  await context.records.transaction(async (records) => {
    const now = await records.assignments.byRef(made.id)
    if (now.state !== 'merged' || now.mergedInto === null) throw new Refusal('column.not_merged', now.title)
    await records.assignments.lockAll([now.id, now.mergedInto])
    const into = await records.assignments.byRef(now.mergedInto)
    if (!(await records.columns.setUnmerged(now.id))) throw new Refusal('record.changed_meanwhile')
    await recompute(records, [now.id, into.id])
    await note(context, records, actor, 'take merge back', now, into)
  })
  tell(context, made.courseId)
}

function requirePair(made: AssignmentRecord, ours: AssignmentRecord): void {
  const good =
    made.state === 'column' &&
    (ours.state === 'draft' || ours.state === 'published') &&
    made.courseId === ours.courseId &&
    made.registrationId === ours.registrationId
  if (!good) throw new Refusal('column.not_mergeable', `“${made.title}” into “${ours.title}”`)
}

async function note(
  context: Context,
  inside: RecordsInside,
  actor: Actor,
  action: string,
  made: AssignmentRecord,
  ours: AssignmentRecord,
): Promise<void> {
  await inside.audit.add({
    at: context.clock.now(),
    ...by(actor),
    action,
    subject: `column ${made.slug}`,
    courseId: made.courseId,
    after: { made: made.title, ours: ours.title },
  })
}

function tell(context: Context, courseId: string): void {
  context.changes.publish({ kind: 'assignment', courseId })
  context.changes.publish({ kind: 'score', courseId })
}
