import { Refusal, type IntakeAnswer, type IntakeQuestion } from '@bathyscribe/contract'
import { FIELD_WORDS, readFetched, readHandover, type Field, type Handover } from '@bathyscribe/core/intake'
import { SCOPES, type ToolMetadata } from '@bathyscribe/core/lti13'
import type { z } from 'zod'
import { sameness } from './sameness.js'
import { fetchDocument } from '../../wire/fetch-document.js'
import { isAdministrator, toolScope } from '../identity/access.js'
import type { Actor, Context } from '../context.js'

/** What was recognised in what a vendor handed over; what the tool says of itself as it says it. */
export type ReadIntake = Omit<IntakeAnswer, 'metadata'> & { metadata: ToolMetadata | null }

/** Reads what a vendor handed over, an address behind it included. Nothing is registered. @throws Refusal */
export async function readIntake(
  context: Context,
  actor: Actor,
  { text, follow }: z.output<typeof IntakeQuestion>,
): Promise<ReadIntake> {
  requirePolicy(context, actor)
  const now = context.clock.now()
  let handover = readHandover(text, now)
  let fetched: string | null = null
  const target = handover.follow
  if (follow && target && target.as !== 'registration') {
    const { read, at } = await followAddress(context, handover, target.address)
    fetched = at
    handover = read
  }
  const value = (field: Field) => handover.recognised.find((one) => one.field === field)?.value
  return {
    kind: handover.kind,
    version: handover.version,
    recognised: handover.recognised.map((one) => ({ ...one, word: FIELD_WORDS[one.field] })),
    remarks: handover.remarks.filter(
      (remark) => remark.code !== 'private_address' || !isAllowed(context, handover, remark.field),
    ),
    missing: handover.missing.map((field) => ({ field, word: FIELD_WORDS[field] })),
    pairs: handover.pairs,
    customParameters: handover.customParameters,
    proposedName: handover.proposedName,
    scopes: handover.scopes.map((one) => ({ ...one, allows: SCOPES[one.scope] })),
    beyond: handover.beyond,
    metadata: handover.metadata,
    fetched,
    registrationAddress: handover.follow?.as === 'registration' ? handover.follow.address : null,
    same: await sameTools(context, actor, value),
  }
}

/** Reading an address makes requests in our name, so it is for those only who may register. @throws Refusal */
function requirePolicy({ settings }: Context, actor: Actor): void {
  if (!isAdministrator(actor) && settings.courseTools === 'off') throw new Refusal('tool.policy')
}

/** Reads what stands at an address; what stood in the text beside the address is kept, and goes before it. */
async function followAddress(
  context: Context,
  handover: Handover,
  address: string,
): Promise<{ read: Handover; at: string | null }> {
  let found
  try {
    found = await fetchDocument(context.outgoing, address, 'application/xml, application/json')
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    // A plain launch address need not answer a mere look; and what else was handed over is not lost for one address.
    if (handover.follow?.as !== 'configuration') return { read: handover, at: null }
    if (handover.recognised.every((one) => one.field === 'configurationUrl')) throw error
    return { read: { ...handover, remarks: [...handover.remarks, unreadConfiguration(address)] }, at: null }
  }
  const read = readFetched(found.url.href, found.body, context.clock.now())
  if (read.kind === 'address') {
    if (handover.follow?.as === 'configuration')
      throw new Refusal(
        'intake.no_configuration',
        `${found.url.host} answered ${found.headers['content-type'] ?? 'without a type'}`,
      )
    return { read: handover, at: null }
  }
  const told = handover.recognised.filter((one) => one.field !== 'configurationUrl' && one.field !== 'launchUrl')
  const recognised = [...told, ...read.recognised.filter((one) => !told.some((other) => other.field === one.field))]
  const has = (field: Field) => recognised.some((one) => one.field === field)
  return {
    read: {
      ...read,
      recognised: recognised.map((one) =>
        told.includes(one) ? one : { ...one, source: `${found.url.host}, ${one.source}` },
      ),
      remarks: [...handover.remarks.filter((one) => told.some((other) => other.field === one.field)), ...read.remarks],
      missing: read.missing.filter((field) => !has(field)),
      pairs: handover.pairs,
      proposedName: has('name') ? null : read.proposedName,
      beyond: [...handover.beyond, ...read.beyond],
    },
    at: found.url.href,
  }
}

function unreadConfiguration(address: string): Handover['remarks'][number] {
  return {
    code: 'configuration_unread',
    field: 'configurationUrl',
    verdict: 'warn',
    statement: `The configuration at ${new URL(address).host} could not be read, so it is registered by the rest alone.`,
    remedy: 'Read it again later, or ask the vendor for the launch address.',
  }
}

/** Private addresses that the operator allows are no slip. */
function isAllowed(context: Context, handover: Handover, field: Field | null): boolean {
  const value = handover.recognised.find((one) => one.field === field)?.value
  return value !== undefined && URL.canParse(value) && context.outgoing.mayCall(new URL(value))
}

async function sameTools(
  context: Context,
  actor: Actor,
  value: (field: Field) => string | undefined,
): Promise<IntakeAnswer['same']> {
  const wanted = {
    name: value('name'),
    consumerKey: value('consumerKey'),
    launchUrl: value('launchUrl'),
    initiationUrl: value('initiationUrl'),
  }
  const scope = await toolScope(context.records, actor)
  return (await context.records.tools.similar(wanted))
    .filter((one) => scope.seesAll || one.courseId === null || scope.courseIds.includes(one.courseId))
    .map((one) => ({
      tool: { id: one.id, slug: one.slug, name: one.name, state: one.state },
      what: sameness(one, wanted),
    }))
}
