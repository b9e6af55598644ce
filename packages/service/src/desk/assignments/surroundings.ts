import { isDeepStrictEqual } from 'node:util'
import { plainOf } from '@bathyscribe/core/rich-text'
import { twinReasons } from '@bathyscribe/core/scores'
import { remarkInWords, type PreflightRemark as RemarkView } from '@bathyscribe/contract'
import { preflight, type PreflightFacts, type PreflightRemark, type ToolFacts } from '@bathyscribe/core/checks'
import type { TwinRow } from '../../records/columns.js'
import type { AssignmentRecord } from '../../records/entities/courses.js'
import type { Records } from '../../records/index.js'
import type { AcceptanceRow, CourseAround, Doubles, NeighbourRow, ToolAroundRow } from '../../records/preflight.js'
import type { Context } from '../context.js'

/** An assignment as far as preflight looks at it, made already or only asked for. */
export type Looked = Pick<
  AssignmentRecord,
  | 'title' | 'points' | 'counted' | 'categoryId' | 'opensAt' | 'dueAt' | 'closesAt' | 'documentTarget' | 'launchUrl' | 'customParameters' | 'instructions'
  | 'content' | 'contentToolId' | 'registrationId' | 'state'
> & {
  /** Undefined for one that is not made yet. */
  id?: string | undefined
  unit: PreflightFacts['unit']
  audience: PreflightFacts['audience']
} // oxfmt-ignore

/** What stands around the assignments of one course: read once, for one of them or for all. */
export class Surroundings {
  private constructor(
    private readonly context: Pick<Context, 'settings' | 'clock'>,
    private readonly course: CourseAround,
    private readonly tools: ReadonlyMap<string, ToolAroundRow>,
    private readonly doublesOf: (one: Looked) => Doubles,
    private readonly columns: readonly TwinRow[],
  ) {}

  /**
   * Around whatever is going to be looked at.
   * @param toolIds registrations that the course may not use yet
   */
  static async read(
    context: Pick<Context, 'settings' | 'clock'>,
    records: Records,
    courseId: string,
    toolIds: readonly string[] = [],
  ): Promise<Surroundings> {
    const course = await records.preflight.course(courseId)
    const tools = await records.preflight.tools(courseId, toolIds)
    const doublesOf = doublesAmong(await records.preflight.neighbours(courseId))
    const columns = await records.columns.twinFacts(courseId)
    return new Surroundings(context, course, byId(tools), doublesOf, columns)
  }

  /** What preflight says of one assignment, read around it and nothing else: as many rows however large its course is. */
  static async remarksOn(
    context: Pick<Context, 'settings' | 'clock'>,
    records: Records,
    courseId: string,
    one: Looked,
  ): Promise<PreflightRemark[]> {
    const resourceId = contentKey(one) === undefined ? null : resourceOf(one)
    const around = await records.preflight.around(courseId, { ...one, id: one.id ?? null, resourceId })
    const { sameTitle, sameContent, toolMakesColumns } = around
    const tools = await records.preflight.toolAndAlike(courseId, one.registrationId)
    const columns = toolMakesColumns ? await records.columns.twinFacts(courseId) : []
    return new Surroundings(context, around, byId(tools), () => ({ sameTitle, sameContent }), columns).remarks(one)
  }

  /** What preflight says of one assignment. */
  remarks(one: Looked): PreflightRemark[] {
    const tool = this.tools.get(one.registrationId)
    return tool ? preflight(this.facts(one, tool)) : []
  }

  /** Titles of columns that the tool made by itself for the same work. */
  private columnsBeside(one: Looked): string[] {
    const made = this.columns.filter((each) => each.state === 'column' && each.registrationId === one.registrationId)
    if (made.length === 0 || !/^\d+(\.\d+)?$/.test(one.points)) return []
    const ours = this.columns.find((each) => each.id === one.id) ?? {
      id: one.id ?? '',
      registrationId: one.registrationId,
      resourceId: one.content?.column?.resourceId ?? null,
      linkId: null,
      scored: [],
    }
    const now = { ...ours, title: one.title, points: one.points }
    return made.filter((each) => twinReasons(each, now).length > 0).map((each) => each.title)
  }

  private facts(one: Looked, tool: ToolAroundRow): PreflightFacts {
    const { settings, clock } = this.context
    const twin = [...this.tools.values()].find(
      (other) => other.id !== tool.id && other.likeness !== '' && other.likeness === tool.likeness && other.uses > 0,
    )
    return {
      now: clock.now(),
      platformIsSecure: settings.publicUrl.startsWith('https:'),
      assignment: {
        title: one.title,
        points: one.points,
        counted: one.counted,
        hasCategory: one.categoryId !== null,
        published: one.state === 'published',
        opensAt: one.opensAt?.toISOString() ?? null,
        dueAt: one.dueAt?.toISOString() ?? null,
        closesAt: one.closesAt?.toISOString() ?? null,
        documentTarget: one.documentTarget,
        ownUrl: one.launchUrl,
        launchUrl: one.launchUrl ?? tool.launchUrl,
        custom: one.customParameters,
        instructions: plainOf(one.instructions),
        content: one.content,
        contentToolId: one.contentToolId,
      },
      unit: one.unit,
      course: {
        startsAt: this.course.startsAt?.toISOString() ?? null,
        endsAt: this.course.endsAt?.toISOString() ?? null,
        learners: this.course.learners,
      },
      audience: one.audience,
      tool: toolFacts(tool, one.customParameters),
      entered: tool.entered.includes(tool.firstEntry === 'link' ? (one.id ?? 'not made yet') : ''),
      ...this.doublesOf(one),
      lookAlike: twin ? { name: twin.name, used: twin.uses } : null,
      toolColumns: this.columnsBeside(one),
    }
  }
}

const byId = (tools: readonly ToolAroundRow[]) => new Map(tools.map((tool) => [tool.id, tool]))

/** Finds doubles among the assignments of a whole course. */
function doublesAmong(neighbours: readonly NeighbourRow[]): (one: Looked) => Doubles {
  const byContent = new Map<string, NeighbourRow[]>()
  const byTitle = new Map<string, NeighbourRow[]>()
  const keep = (among: Map<string, NeighbourRow[]>, key: string, one: NeighbourRow) => {
    const same = among.get(key)
    if (same) same.push(one)
    else among.set(key, [one])
  }
  for (const one of neighbours) {
    keep(byTitle, one.title.toLowerCase(), one)
    const key = contentKey(one)
    if (key !== undefined) keep(byContent, key, one)
  }
  return (one) => {
    const others = (same: readonly NeighbourRow[] = []) => same.filter((other) => other.id !== one.id)
    const key = contentKey(one)
    return {
      sameTitle: others(byTitle.get(one.title.toLowerCase())).length,
      sameContent: key === undefined ? [] : others(byContent.get(key)).map((other) => other.title),
    }
  }
}

function toolFacts(tool: ToolAroundRow, custom: Readonly<Record<string, string>>): ToolFacts {
  const claims = tool.metadata?.claims ?? []
  const variables = [...Object.values(tool.customParameters), ...Object.values(custom)]
  const asks: ToolFacts['asks'][number][] = []
  if (
    claims.some((one) => /name$/.test(one)) ||
    variables.some((one) => /^\$(Person\.name\.|User\.username)/.test(one))
  )
    asks.push('name')
  if (claims.includes('email') || variables.includes('$Person.email.primary')) asks.push('email')
  return {
    id: tool.id,
    name: tool.name,
    state: tool.state,
    version: tool.version,
    returnsScores: tool.features.includes('scores'),
    hasPicker: tool.features.includes('picker'),
    addresses: addressesOf(tool),
    framing: tool.framing,
    exactTitles: tool.exactTitles,
    disclosure: tool.disclosure,
    asks,
    firstEntry: tool.firstEntry,
    used: tool.used,
    menuLabel: tool.menuLabel,
  }
}

/** Addresses by which a tool is known. */
export function addressesOf(
  tool: Pick<ToolAroundRow, 'launchUrl' | 'pickerUrl' | 'initiationUrl' | 'redirectUris' | 'configurationUrl'>,
): string[] {
  return [tool.launchUrl, tool.pickerUrl, tool.initiationUrl, tool.configurationUrl, ...tool.redirectUris].filter(
    (one) => one !== null,
  )
}

const resourceOf = ({ content }: Pick<NeighbourRow, 'content'>) => content?.column?.resourceId ?? ''

/** What makes two links lead to the same content; undefined for a link that says nothing of it. */
function contentKey(
  one: Pick<NeighbourRow, 'registrationId' | 'launchUrl' | 'customParameters' | 'content'>,
): string | undefined {
  const custom = Object.entries(one.customParameters).sort(([a], [b]) => (a < b ? -1 : 1))
  const resource = resourceOf(one)
  if (one.launchUrl === null && custom.length === 0 && resource === '') return undefined
  return JSON.stringify([one.registrationId, one.launchUrl, custom, resource])
}

/** Remarks as they are shown: a warning that somebody let stand says so, until it finds something else. */
export function withAcceptances(remarks: readonly PreflightRemark[], accepted: readonly AcceptanceRow[]): RemarkView[] {
  return remarks.map((remark) => {
    const one = accepted.find(({ rule, facts }) => rule === remark.rule && isDeepStrictEqual(facts, remark.facts))
    return {
      ...remarkInWords(remark),
      accepted: one ? { reason: one.reason, by: one.by, at: one.at.toISOString() } : null,
    }
  })
}
