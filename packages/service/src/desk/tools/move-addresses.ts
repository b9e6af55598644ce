import { Refusal, type AddressMovePreview, type MovedAddresses } from '@bathyscribe/contract'
import { movedAddress, travelsOpenly, type AddressMove } from '@bathyscribe/core/links'
import { checkAddress } from './address.js'
import type { AddressMoveRow } from '../../records/address-moves.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Records } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'
import { publishLinks, refuseEnded } from './change-tool.js'

interface Wanted extends AddressMove {
  course?: string | undefined
}

const SHOWN = 50
const SINGLE = ['launchUrl', 'initiationUrl', 'keysetUrl', 'pickerUrl', 'configurationUrl'] as const
/** What a registration may have at its tool's addresses. */
type Addresses = Pick<RegistrationRecord, (typeof SINGLE)[number] | 'redirectUris' | 'placements'>

/** Which addresses would move, and which links have others. Nothing is changed. @throws Refusal */
export async function previewAddressMove(context: Context, ref: string, wanted: Wanted): Promise<AddressMovePreview> {
  const { tool, courseId } = await subjectOf(context, ref, wanted)
  const { own, links, change } = await plan(context.records, tool, courseId, wanted)
  const registration = differences(tool, change)
  const byCourse = new Map<string, AddressMovePreview['courses'][number]>()
  for (const { course } of links) {
    const row = byCourse.get(course.id) ?? { course, addresses: 0 }
    byCourse.set(course.id, { ...row, addresses: row.addresses + 1 })
  }
  return {
    registration,
    courses: [...byCourse.values()],
    addresses: links.length,
    links: links
      .slice(0, SHOWN)
      .map(({ course, kind, title, before, after }) => ({ course, kind, title, before, after })),
    staying: own.length - links.length,
    remarks: remarksOn(wanted, links.length + registration.length),
  }
}

function remarksOn({ from, to }: AddressMove, n: number): AddressMovePreview['remarks'] {
  const remarks: (false | AddressMovePreview['remarks'][number])[] = [
    n === 0 && { verdict: 'fail', statement: `No address begins with ${from}.` },
    travelsOpenly(to) &&
      !travelsOpenly(from) && {
        verdict: 'warn',
        statement: 'The new address begins with http: what is sent there can be read on the way.',
      },
  ]
  return remarks.filter((one) => one !== false)
}

/**
 * Moves the addresses of a registration and of its links when the tool's domain moves; with a course only the addresses of its links. Links keep their identifiers, and
 * people their scores; what was proven at an address is to be proven at the new one. It can be taken back. @throws Refusal
 */
export async function moveAddresses(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: Wanted,
): Promise<MovedAddresses> {
  const { tool: found, courseId } = await subjectOf(context, ref, wanted)
  refuseEnded(found)
  const [id, at] = [context.ids.next(), context.clock.now()]
  const moved = await context.records.transaction(async (records) => {
    const tool = await records.tools.lock(found.id)
    const { links, change } = await plan(records, tool, courseId, wanted)
    if (links.length === 0 && Object.keys(change).length === 0) throw new Refusal('tool.nothing_to_move', wanted.from)
    const before = Object.fromEntries(Object.keys(change).map((field) => [field, tool[field as keyof Addresses]]))
    await records.addressMoves.insert({
      id,
      registrationId: tool.id,
      courseId,
      from: wanted.from,
      to: wanted.to,
      at,
      personId: actor.id,
      before,
      after: change,
      links,
    })
    if (Object.keys(change).length > 0) await records.tools.update(tool.id, tool.revision, { ...change, updatedAt: at })
    await records.audit.add({
      at,
      ...by(actor),
      action: 'move addresses',
      subject: `tool ${tool.slug}`,
      courseId: courseId ?? tool.courseId,
      before: { from: wanted.from, ...before },
      after: { to: wanted.to, links: links.length, ...change },
    })
    return (await records.addressMoves.lock(id, tool.id))!
  })
  publishLinks(context, found.courseId)
  return view(moved)
}

export async function listAddressMoves(context: Context, ref: string): Promise<MovedAddresses[]> {
  const tool = await context.records.tools.byRef(ref)
  return (await context.records.addressMoves.list(tool.id)).map(view)
}

/** Takes a move back: what was changed by hand since stays. @throws Refusal */
export async function undoAddressMove(
  context: Context,
  actor: Actor,
  ref: string,
  id: string,
): Promise<MovedAddresses> {
  const found = await context.records.tools.byRef(ref)
  const at = context.clock.now()
  const done = await context.records.transaction(async (records) => {
    const tool = await records.tools.lock(found.id)
    const move = await records.addressMoves.lock(id, tool.id)
    if (!move) throw new Refusal('tool.address_move_unknown', id)
    if (move.undoneAt) throw new Refusal('tool.address_move_undone')
    refuseEnded(tool)
    await records.addressMoves.moveBack(id, at)
    const back = Object.fromEntries(
      Object.entries(move.registrationBefore).filter(
        ([field]) => JSON.stringify(tool[field as keyof Addresses]) === JSON.stringify(move.registrationAfter[field]),
      ),
    ) as Partial<Addresses>
    if (Object.keys(back).length > 0) await records.tools.update(tool.id, tool.revision, { ...back, updatedAt: at })
    await records.audit.add({
      at,
      ...by(actor),
      action: 'take address move back',
      subject: `tool ${tool.slug}`,
      courseId: move.course?.id ?? tool.courseId,
      before: { from: move.to },
      after: { to: move.from, links: move.still, ...back },
    })
    return (await records.addressMoves.lock(id, tool.id))!
  })
  publishLinks(context, found.courseId)
  return view(done)
}

async function subjectOf(context: Context, ref: string, wanted: Wanted) {
  checkAddress(wanted.from, 'from')
  checkAddress(wanted.to, 'to')
  const tool = await context.records.tools.byRef(ref)
  const courseId = wanted.course === undefined ? null : (await context.records.courses.byRef(wanted.course)).id
  return { tool, courseId }
}

/** What a move would change. @throws Refusal when an address would become one that cannot be launched */
async function plan(records: Records, tool: RegistrationRecord, courseId: string | null, move: AddressMove) {
  const own = await records.addressMoves.ownAddresses(tool.id, courseId)
  const links = own.flatMap((row) => {
    const after = movedAddress(row.before, move)
    return after === undefined || after === row.before ? [] : [{ ...row, after }]
  })
  const change = courseId === null ? registrationChange(tool, move) : {}
  for (const { after } of [...links, ...differences(tool, change)]) checkAddress(after, 'to')
  return { own, links, change }
}

function registrationChange(tool: RegistrationRecord, move: AddressMove): Partial<Addresses> {
  const movedOne = (address: string) => movedAddress(address, move) ?? address
  const moved = (address: string | null) => (address === null ? null : movedOne(address))
  const all: Addresses = {
    launchUrl: moved(tool.launchUrl),
    initiationUrl: moved(tool.initiationUrl),
    keysetUrl: moved(tool.keysetUrl),
    pickerUrl: moved(tool.pickerUrl),
    configurationUrl: moved(tool.configurationUrl),
    redirectUris: tool.redirectUris.map(movedOne),
    placements: tool.placements.map((one) => ({ ...one, launchUrl: moved(one.launchUrl) })),
  }
  return Object.fromEntries(
    Object.entries(all).filter(
      ([field, value]) => JSON.stringify(value) !== JSON.stringify(tool[field as keyof Addresses]),
    ),
  )
}

/** The addresses of a registration that a change exchanges, one by one. */
function differences(tool: RegistrationRecord, change: Partial<Addresses>): AddressMovePreview['registration'] {
  const pairs = [
    ...SINGLE.flatMap((field) => {
      const after = change[field]
      return after == null ? [] : [{ field, before: tool[field] ?? '', after }]
    }),
    ...(change.redirectUris ?? []).map((after, i) => ({ field: 'redirectUris', before: tool.redirectUris[i]!, after })),
    ...(change.placements ?? []).map((one, i) => ({
      field: `placement ${one.place}`,
      before: tool.placements[i]!.launchUrl ?? '',
      after: one.launchUrl ?? '',
    })),
  ]
  return pairs.filter((one) => one.before !== one.after)
}

function view({ registrationBefore: _before, registrationAfter: _after, ...row }: AddressMoveRow): MovedAddresses {
  return { ...row, at: row.at.toISOString(), undoneAt: row.undoneAt?.toISOString() ?? null }
}
