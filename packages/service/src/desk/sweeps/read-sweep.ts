import type { Sweep, SweepDetail, SweepLink, SweepLinksQuery, SweepReport } from '@bathyscribe/contract'
import { changeInWords } from '@bathyscribe/core/checks'
import { LINK_CHANGES, sweepCsv, sweepJunit, type ReportLine } from '@bathyscribe/core/sweeps'
import type { z } from 'zod'
import type { SweepLinkRow, SweepRow } from '../../records/sweeps.js'
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
  return { ...view(sweep), causes: (await context.records.sweeps.causes(id, CAUSES_SHOWN)).map(dated) }
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
  return { ...page, items: page.items.map(dated) }
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
  const { state, verdict, change, cause, tookMs, changed } = link
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
