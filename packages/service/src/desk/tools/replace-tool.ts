import { Refusal, type Replacement, type ReplacementPreview } from '@bathyscribe/contract'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { MovingRow, ReplacementRow } from '../../records/replacements.js'
import { by, type Actor, type Context } from '../context.js'
import { publishLinks } from './change-tool.js'

interface Wanted {
  with: string
  course?: string | undefined
}

/** What would move where, and what speaks against it. Nothing is changed. @throws Refusal */
export async function previewReplacement(context: Context, ref: string, wanted: Wanted): Promise<ReplacementPreview> {
  return weigh(context, await pairOf(context, ref, wanted))
}

type Pair = Awaited<ReturnType<typeof pairOf>>

async function weigh(context: Context, { tool, other, courseId }: Pair): Promise<ReplacementPreview> {
  const courses = await context.records.replacements.moving(tool.id, courseId)
  const barred = await Promise.all(
    courses.map(async ({ course }) =>
      (await context.records.tools.isUsableIn(other.id, course.id)) ? [] : [course.code],
    ),
  )
  return { courses, remarks: remarksOn(tool, other, courses, barred.flat()), retires: courseId === null }
}

function remarksOn(
  tool: RegistrationRecord,
  other: RegistrationRecord,
  courses: readonly MovingRow[],
  barred: readonly string[],
): ReplacementPreview['remarks'] {
  const sum = (of: (row: MovingRow) => number) => courses.reduce((all, row) => all + of(row), 0)
  const [from, to] = [hostOf(tool), hostOf(other)]
  const [counted, own] = [sum((row) => row.counted), sum((row) => row.ownAddresses)]
  const remarks: (false | ReplacementPreview['remarks'][number])[] = [
    other.state !== 'enabled' && { verdict: 'fail', statement: `“${other.name}” is ${other.state}.` },
    barred.length > 0 && { verdict: 'fail', statement: `“${other.name}” is not offered to ${barred.join(', ')}.` },
    from !== to && {
      verdict: 'warn',
      statement: `“${tool.name}” is at ${from ?? 'no address'}, “${other.name}” at ${to ?? 'no address'}. Another vendor’s tool knows nothing of the work that was done.`,
    },
    tool.version !== other.version && {
      verdict: 'warn',
      statement: `It goes from LTI ${tool.version} to ${other.version}: people may come to the tool as new accounts.`,
    },
    counted > 0 &&
      !other.features.includes('scores') && {
        verdict: 'warn',
        statement: `“${other.name}” returns no scores; ${counted} published assignments are counted.`,
      },
    own > 0 && {
      verdict: 'warn',
      statement: `${own} links have an address of their own, which they keep.`,
    },
  ]
  return remarks.filter((one) => one !== false)
}

function hostOf({ launchUrl, initiationUrl }: RegistrationRecord): string | undefined {
  const address = launchUrl ?? initiationUrl ?? ''
  return URL.canParse(address) ? new URL(address).hostname : undefined
}

/**
 * Moves every link of a registration to another one and retires it; with a course only that course’s links, and it stays. Links keep their identifiers, and people their
 * scores; everything has to be proven again. It can be taken back. @returns the other registration. @throws Refusal
 */
export async function replaceTool(context: Context, actor: Actor, ref: string, wanted: Wanted): Promise<string> {
  const pair = await pairOf(context, ref, wanted)
  const { tool, other, courseId } = pair
  if (tool.state === 'deleted') throw new Refusal('tool.deleted', tool.slug)
  const { remarks } = await weigh(context, pair)
  const against = remarks.find((one) => one.verdict === 'fail')
  if (against) throw new Refusal('tool.replace_mismatch', against.statement)
  const at = context.clock.now()
  await context.records.transaction(async (records) => {
    const moved = await records.replacements.move({
      id: context.ids.next(),
      from: tool.id,
      to: other.id,
      courseId,
      at,
      personId: actor.id,
      stateBefore: tool.state,
    })
    if (courseId === null)
      await records.tools.update(tool.id, tool.revision, { state: 'retired', replacedById: other.id, updatedAt: at })
    await records.audit.add({
      at,
      ...by(actor),
      action: 'replace tool',
      subject: `tool ${tool.slug}`,
      courseId: courseId ?? tool.courseId,
      before: { state: tool.state },
      after: { replacedBy: other.slug, links: moved, ...(courseId === null && { state: 'retired' }) },
    })
  })
  publishLinks(context, tool.courseId)
  return other.id
}

export async function listReplacements(context: Context, ref: string): Promise<Replacement[]> {
  const tool = await context.records.tools.byRef(ref)
  return (await context.records.replacements.list(tool.id)).map(view)
}

/** Takes a replacement back: links that still are where it moved them go back, and the registration is what it was. @throws Refusal */
export async function undoReplacement(context: Context, actor: Actor, ref: string, id: string): Promise<Replacement> {
  const tool = await context.records.tools.byRef(ref)
  const at = context.clock.now()
  const done = await context.records.transaction(async (records) => {
    const replacement = await records.replacements.lock(id, tool.id)
    if (!replacement) throw new Refusal('tool.replacement_unknown', id)
    if (replacement.undoneAt) throw new Refusal('tool.replacement_undone')
    const from = await records.tools.byId(replacement.fromId)
    if (from.state === 'deleted') throw new Refusal('tool.deleted', from.slug)
    const moved = await records.replacements.moveBack(replacement, at)
    if (replacement.course === null && from.state === 'retired' && from.replacedById === replacement.toId)
      await records.tools.update(from.id, from.revision, {
        state: replacement.stateBefore,
        replacedById: null,
        updatedAt: at,
      })
    await records.audit.add({
      at,
      ...by(actor),
      action: 'take replacement back',
      subject: `tool ${from.slug}`,
      courseId: replacement.course?.id ?? from.courseId,
      after: { from: replacement.to.slug, links: moved },
    })
    return (await records.replacements.lock(id, tool.id))!
  })
  publishLinks(context, tool.courseId)
  return view(done)
}

async function pairOf(context: Context, ref: string, wanted: Wanted) {
  const { records } = context
  const [tool, other] = [await records.tools.byRef(ref), await records.tools.byRef(wanted.with)]
  if (tool.id === other.id) throw new Refusal('tool.replace_itself')
  return {
    tool,
    other,
    courseId: wanted.course === undefined ? null : (await records.courses.byRef(wanted.course)).id,
  }
}

function view({ fromId: _from, toId: _to, stateBefore: _before, ...row }: ReplacementRow): Replacement {
  return { ...row, at: row.at.toISOString(), undoneAt: row.undoneAt?.toISOString() ?? null }
}
