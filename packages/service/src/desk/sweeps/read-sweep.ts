import {
  headlineInWords,
  type Sweep,
  type SweepDetail,
  type SweepLink,
  type SweepLinksQuery,
  type SweepReport,
} from '@bathyscribe/contract'
import { changeInWords } from '@bathyscribe/core/checks'
import { LINK_CHANGES, sweepCsv, sweepJunit, type ReportLine } from '@bathyscribe/core/sweeps'
import type { z } from 'zod'
import type { SweepCauseRow, SweepLinkRow, SweepRow } from '../../records/sweeps.js'
import { requireTeaching, visibleTool } from '../identity/access.js'
import type { Actor, Context } from '../context.js'

const CAUSES_SHOWN = 100
const REPORT_PAGE = 500
const SINCE = 'the sweep before'

export async function listSweeps(context: Context, actor: Actor, page: { limit: number; cursor?: string | undefined }) {
  const found = await context.records.sweeps.list(await requireTeaching(context.records, actor), page)
  return { ...found, items: found.items.map(view) }
}

/** @throws Refusal for a sweep over links that the person may not see */
export async function showSweep(context: Context, actor: Actor, id: string): Promise<SweepDetail> {
  const sweep = await context.records.sweeps.show(id, await requireTeaching(context.records, actor))
  return { ...view(sweep), causes: causesOf(await context.records.sweeps.causes(id)) }
}

export async function listSweepLinks(
  context: Context,
  actor: Actor,
  id: string,
  { tool, ...query }: z.output<typeof SweepLinksQuery>,
): Promise<{ items: SweepLink[]; next: string | null }> {
  await context.records.sweeps.show(id, await requireTeaching(context.records, actor))
  const registrationId = tool === undefined ? undefined : (await visibleTool(context.records, actor, tool)).id
  const page = await context.records.sweeps.linksOf(id, { ...query, registrationId })
  return { ...page, items: page.items.map(linkView) }
}

/** All links of a sweep as a file for a spreadsheet or a scheduler. */
export async function reportSweep(
  context: Context,
  actor: Actor,
  id: string,
  form: 'csv' | 'junit',
): Promise<SweepReport> {
  const sweep = await context.records.sweeps.show(id, await requireTeaching(context.records, actor))
  const lines: ReportLine[] = []
  let cursor: string | undefined
  do {
    const page = await context.records.sweeps.linksOf(id, { limit: REPORT_PAGE, cursor })
    lines.push(...page.items.map((link) => toLine(context, link)))
    cursor = page.next ?? undefined
  } while (cursor !== undefined)
  const name = `sweep-${sweep.startedAt.toISOString().slice(0, 10)}-${id}`
  return form === 'csv'
    ? { name: `${name}.csv`, mediaType: 'text/csv', text: sweepCsv(lines) }
    : {
        name: `${name}.xml`,
        mediaType: 'application/xml',
        text: sweepJunit(lines, { title: sweep.title, at: sweep.startedAt.toISOString() }),
      }
}

function toLine({ settings }: Context, { course, assignment, tool, soundingId, ...link }: SweepLinkRow): ReportLine {
  const { state, verdict, change, headline, tookMs, changed } = link
  const cause = headlineInWords(headline)
  return {
    course: course.code,
    assignment: assignment.title,
    tool: tool.name,
    state,
    verdict,
    change,
    cause: changed === null ? cause : [cause, changeInWords(changed, SINCE)].filter(Boolean).join(' '),
    tookMs,
    soundingAt: soundingId && `${settings.publicUrl}/soundings/${soundingId}`,
  }
}

function linkView({ headline, ...link }: SweepLinkRow): SweepLink {
  return { ...dated(link), cause: headlineInWords(headline) }
}

/** What is wrong, the most frequent first. What differs in figures only is one line, if it is told in one sentence. */
function causesOf(rows: readonly SweepCauseRow[]): SweepDetail['causes'] {
  const lines = new Map<string, SweepDetail['causes'][number]>()
  for (const { headline, ...row } of rows) {
    const cause = headlineInWords(headline)!
    const key = JSON.stringify([row.tool.id, cause])
    const line = lines.get(key)
    if (!line) lines.set(key, { ...dated(row), cause })
    else {
      line.links += row.links
      line.newly += row.newly
    }
  }
  return [...lines.values()].sort((a, b) => b.links - a.links || (a.cause < b.cause ? -1 : 1)).slice(0, CAUSES_SHOWN)
}

/** Moments inside of JSON come as the database writes them. */
function dated<R extends Pick<SweepLinkRow, 'changed'>>(row: R): R {
  return { ...row, changed: row.changed && { ...row.changed, at: new Date(row.changed.at).toISOString() } }
}

function view(sweep: SweepRow): Sweep {
  return {
    ...sweep,
    startedAt: sweep.startedAt.toISOString(),
    endedAt: sweep.endedAt?.toISOString() ?? null,
    changes: Object.fromEntries(LINK_CHANGES.map((name) => [name, sweep.changes[name] ?? 0])) as Sweep['changes'],
  }
}
