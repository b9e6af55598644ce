import { titleFault } from '@bathyscribe/core/checks'
import { toRichText } from '@bathyscribe/core/rich-text'
import { upTo } from '@bathyscribe/core/text'
import { Refusal, type NewUnitItem, type UnitItemChange } from '@bathyscribe/contract'
import type { z } from 'zod'
import { checkAddress } from '../tools/address.js'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { UnitItemRecord } from '../../records/entities/content.js'
import type { Actor, Context } from '../context.js'
import { actInCourse } from '../courses/act-in-course.js'
import { pickedItem } from '../pickers/picked.js'
import { toolForCourse } from '../places/usable-tool.js'
import { unitItem } from './unit-item.js'

type Wanted = z.output<typeof NewUnitItem>
type Given = Partial<UnitItemRecord>

/** What each kind of item is made of. @throws Refusal for what is missing or wrong */
const MAKERS: Record<Wanted['kind'], (context: Context, course: CourseRecord, wanted: Wanted) => Promise<Given>> = {
  heading: async (_, __, wanted) => ({ title: requireTitle(wanted) }),
  page: async (_, __, wanted) => ({ title: requireTitle(wanted), body: toRichText(wanted.body ?? '') }),
  address: async (_, __, wanted) => {
    if (!wanted.address) throw new Refusal('item.no_url')
    checkAddress(upTo(wanted.address, '#'), 'address')
    return { title: requireTitle(wanted), address: wanted.address, documentTarget: wanted.documentTarget ?? 'window' }
  },
  file: async ({ records }, course, wanted) => {
    const file = await records.files.show(course.id, wanted.file ?? '')
    return { title: wanted.title || file.name, fileId: file.id }
  },
  assignment: async ({ records }, course, wanted) => {
    const assignment = await records.assignments.byRef(wanted.assignment ?? '')
    if (assignment.courseId !== course.id) throw new Refusal('assignment.not_found', wanted.assignment)
    return { assignmentId: assignment.id }
  },
  tool_link: async (context, course, wanted) => {
    const tool = await toolForCourse(context, course.id, wanted.tool ?? '')
    if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
    const placement = tool.placements.find((one) => one.place === (wanted.unit === null ? 'running_text' : 'unit_item'))
    const launchUrl = wanted.launchUrl || placement?.launchUrl || null
    if (launchUrl === null && tool.launchUrl === null) throw new Refusal('launch.no_address')
    const title = wanted.title || placement?.label || tool.name
    checkTitle(title, tool)
    return {
      title,
      registrationId: tool.id,
      launchUrl,
      customParameters: wanted.customParameters ?? {},
      documentTarget: wanted.documentTarget ?? placement?.target ?? tool.documentTarget,
    }
  },
}

/** A tool that opens under certain titles only would open under this one for nobody. @throws Refusal */
function checkTitle(title: string, tool: { exactTitles: string[]; name: string }): void {
  const fault = titleFault(title, tool)
  if (fault) throw new Refusal('item.title_of_tool', `${fault.statement} ${fault.remedy}`)
}

function requireTitle({ title }: Wanted): string {
  if (!title) throw new Refusal('request.invalid', 'title', [{ path: 'title', message: 'is empty' }])
  return title
}

/** Puts something into a unit, or a tool link into running text; with `content`, what a picker handed over. @throws Refusal */
export async function addUnitItem(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  asked: Wanted,
): Promise<string> {
  const { wanted, picked } = asked.content
    ? await fromPicked(context, actor, course, asked)
    : { wanted: asked, picked: null }
  if (wanted.unit === null && wanted.kind !== 'tool_link') throw new Refusal('item.wrong_kind', 'unit')
  const unit = wanted.unit === null ? null : await context.records.outline.unit(course.id, wanted.unit)
  const given = await MAKERS[wanted.kind](context, course, wanted)
  const item = unitItem(context, {
    courseId: course.id,
    unitId: unit?.id ?? null,
    kind: wanted.kind,
    published: wanted.published ?? unit === null,
    pinned: wanted.pinned ?? false,
    ...given,
    content: picked,
  })
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'add unit item',
    `unit item ${item.title || item.kind}`,
    async (records) => {
      if (item.assignmentId !== null && unit) {
        await records.outline.placeAssignment({ ...item, assignmentId: item.assignmentId }, unit.id)
        return
      }
      await records.outline.addItems(course.id, [item])
      if (item.registrationId !== null)
        await records.menus.addTool(course.id, item.registrationId, actor.id, item.createdAt)
    },
  )
  return item.assignmentId === null ? item.id : (await context.records.outline.ofAssignment(item.assignmentId))!.id
}

/** What was picked, as the kind of item that it belongs to. */
async function fromPicked(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  asked: Wanted,
): Promise<{ wanted: Wanted; picked: UnitItemRecord['content'] }> {
  const { registrationId, ...item } = await pickedItem(context, actor, course.id, asked.content!)
  const title = asked.title || item.title
  const common = { unit: asked.unit, title, published: asked.published, pinned: asked.pinned }
  const by: Record<typeof item.kind, () => Wanted> = {
    tool_link: () => ({
      ...common,
      kind: 'tool_link',
      tool: registrationId,
      launchUrl: item.url,
      customParameters: item.custom,
      documentTarget: asked.documentTarget ?? item.target ?? undefined,
    }),
    address: () => ({ ...common, kind: 'address', title: title || item.url!, address: item.url! }),
    html: () => ({ ...common, kind: 'page', title: title || 'Page', body: item.html }),
    file: () => ({ ...common, kind: 'file', file: item.fileId ?? '' }),
    image: () => ({ ...common, kind: 'file', file: item.fileId ?? '' }),
  }
  return { wanted: by[item.kind](), picked: item.kind === 'tool_link' ? item : null }
}

/** Which fields a kind has beside title, state and pin. */
const OWN_FIELDS: Record<Wanted['kind'], readonly (keyof z.output<typeof UnitItemChange>)[]> = {
  heading: [],
  page: ['body'],
  address: ['address', 'documentTarget'],
  file: [],
  assignment: [],
  tool_link: ['documentTarget', 'launchUrl', 'customParameters'],
}

/** Changes, publishes or pins an item. An assignment is published and renamed by itself. @throws Refusal */
export async function changeUnitItem(
  context: Context,
  actor: Actor,
  course: CourseRecord,
  id: string,
  wanted: z.output<typeof UnitItemChange>,
): Promise<void> {
  const item = await context.records.outline.item(course.id, id)
  const { revision, ...fields } = wanted
  const given = Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined)) as Given
  const allowed = [
    ...(item.kind === 'assignment' ? ['pinned'] : ['title', 'published', 'pinned']),
    ...OWN_FIELDS[item.kind],
  ]
  const foreign = Object.keys(given).find((name) => !allowed.includes(name))
  if (foreign !== undefined) throw new Refusal('item.wrong_kind', foreign)
  if (given.title === '' && item.kind !== 'file')
    throw new Refusal('request.invalid', 'title', [{ path: 'title', message: 'is empty' }])
  if (given.title !== undefined && item.registrationId !== null)
    checkTitle(given.title, await context.records.tools.byId(item.registrationId))
  if (given.address) checkAddress(upTo(given.address, '#'), 'address')
  if (given.launchUrl) checkAddress(given.launchUrl, 'launchUrl')
  if (given.launchUrl === '') given.launchUrl = null
  if (given.body !== undefined) given.body = toRichText(given.body)
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'change unit item',
    `unit item ${item.title || item.kind}`,
    (records) => records.outline.updateItem(id, revision, { ...given, updatedAt: context.clock.now() }),
  )
}

export async function removeUnitItem(context: Context, actor: Actor, course: CourseRecord, id: string): Promise<void> {
  const item = await context.records.outline.item(course.id, id)
  await actInCourse(
    context,
    { actor, course, kind: 'outline' },
    'remove unit item',
    `unit item ${item.title || item.kind}`,
    (records) => records.outline.removeItem(id),
  )
}
