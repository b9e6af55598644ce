import { Refusal, type LtiVersion, type NewTool } from '@bathyscribe/contract'
import { stripHidden } from '@bathyscribe/core/text'
import { checkLaunchAddress, lookAlike } from '@bathyscribe/core/links'
import { isScope } from '@bathyscribe/core/lti13'
import type { z } from 'zod'
import { readPublicKeys } from '../../keys/rsa.js'
import { violatedKey } from '../../records/database.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Records } from '../../records/index.js'
import { isAdministrator, roleIn } from '../access.js'
import { toRichText } from '../rich-text.js'
import { by, type Actor, type Context } from '../context.js'
import { freeToolSlug } from '../slug.js'

type Wanted = z.output<typeof NewTool>

/** Registers a tool by what is known of it, for the institution or for one course. @throws Refusal */
export async function registerTool(
  context: Context,
  actor: Actor,
  wanted: Wanted,
  given: Partial<RegistrationRecord> = {},
): Promise<RegistrationRecord> {
  const { records, ids, clock } = context
  const courseId = await placeOf(context, actor, wanted.course)
  const asked = withoutForeignFields(wanted)
  checkCredentials(asked)
  checkAddresses(asked)
  await refuseSecond(context, courseId, asked)

  const now = clock.now()
  const id = ids.next()
  const needsApproval = courseId !== null && !isAdministrator(actor) && context.settings.courseTools === 'approval'
  const tool: RegistrationRecord = {
    ...blankRegistration(now),
    ...fieldsOf(asked),
    ...pickerFeature(asked.features ?? [], asked.pickerUrl),
    id,
    slug: await freeToolSlug(records, asked.name),
    name: asked.name,
    likeness: lookAlike(asked.name),
    courseId,
    version: asked.version,
    offer: courseId === null ? asked.offer : 'all',
    clientId: asked.version === '1.3' ? ids.next() : null,
    ...sealed(context, id, asked.sharedSecret, now),
    state: needsApproval ? 'waiting' : asked.enable ? 'enabled' : 'draft',
    ...given,
  }
  if (tool.state !== 'draft') requireComplete(tool)
  const offeredTo = await Promise.all(asked.offeredTo.map(async (ref) => (await records.courses.byRef(ref)).id))
  await records
    .transaction((inside) => storeNew(inside, context, actor, tool, offeredTo, asked.secondReason))
    .catch(nameTaken(tool))
  context.changes.publish({ kind: 'tool', courseId })
  return tool
}

/** Keeps a new registration with what belongs to it: offers, a deployment for LTI 1.3, the audit entry. */
export async function storeNew(
  inside: Records,
  context: Context,
  actor: Actor | null,
  tool: RegistrationRecord,
  offeredTo: readonly string[],
  secondReason?: string,
): Promise<void> {
  await inside.tools.insert(tool)
  if (tool.offer === 'named') await inside.tools.setOffers(tool.id, offeredTo)
  if (tool.courseId !== null && actor) await inside.menus.addTool(tool.courseId, tool.id, actor.id, tool.createdAt)
  if (tool.version === '1.3')
    await inside.tools.insertDeployment({
      id: context.ids.next(),
      registrationId: tool.id,
      courseId: null,
      label: tool.courseId === null ? 'the whole institution' : 'its course',
      createdAt: tool.createdAt,
    })
  await inside.audit.add({
    at: tool.createdAt,
    ...by(actor),
    action: 'register tool',
    subject: `tool ${tool.slug}`,
    courseId: tool.courseId,
    after: { ...auditable(tool), ...(secondReason !== undefined && { secondReason }) },
  })
}

export function nameTaken(tool: Pick<RegistrationRecord, 'slug'>): (error: unknown) => never {
  return (error) => {
    throw violatedKey(error) === undefined ? error : new Refusal('tool.name_taken', tool.slug)
  }
}

/** A registration with nothing in it but defaults. */
export function blankRegistration(now: Date): RegistrationRecord {
  return {
    id: '',
    slug: '',
    name: '',
    description: '',
    likeness: '',
    courseId: null,
    state: 'draft',
    version: '1.1',
    consumerKey: null,
    secretSealed: null,
    secretSetAt: null,
    launchUrl: null,
    signatureMethod: 'HMAC-SHA1',
    clientId: null,
    configurationUrl: null,
    initiationUrl: null,
    redirectUris: [],
    keysetUrl: null,
    publicKeys: null,
    pickerUrl: null,
    learnerText: '',
    exactTitles: [],
    framing: 'unknown',
    scopes: [],
    features: [],
    placements: [{ place: 'assignment', label: null, launchUrl: null, audience: 'everyone', target: 'frame' }],
    offer: 'all',
    keysPerCourse: false,
    templateId: null,
    firstEntry: 'none',
    scoresWhileSuspended: true,
    disclosure: 'opaque',
    documentTarget: 'frame',
    customParameters: {},
    soundingParameters: {},
    note: '',
    metadata: null,
    proposal: null,
    managementHash: null,
    stateBefore: null,
    deletedAt: null,
    replacedById: null,
    revision: 1,
    createdAt: now,
    updatedAt: now,
  }
}

type Fields = {
  [K in Exclude<keyof Wanted, 'course' | 'offeredTo' | 'enable' | 'secondReason' | 'acceptBlanks' | 'sharedSecret'>]?:
    | Wanted[K]
    | undefined
}

/** The fields of a registration that people may type, as they are kept. What is not given stays out. @throws Refusal */
export function fieldsOf(wanted: Fields): Partial<RegistrationRecord> {
  const {
    publicKeys,
    offer: _offer,
    version: _version,
    scopes,
    launchUrl,
    keysetUrl,
    initiationUrl,
    configurationUrl,
    pickerUrl,
    learnerText,
    ...rest
  } = wanted
  const unknown = scopes?.find((scope) => !isScope(scope))
  if (unknown !== undefined) throw new Refusal('tool.scope_unknown', unknown.slice(0, 120))
  return {
    ...(Object.fromEntries(
      Object.entries(rest).filter(([, value]) => value !== undefined),
    ) as Partial<RegistrationRecord>),
    ...(scopes !== undefined && { scopes }),
    ...(launchUrl !== undefined && { launchUrl: launchUrl || null }),
    ...(configurationUrl !== undefined && { configurationUrl: configurationUrl || null }),
    ...(pickerUrl !== undefined && { pickerUrl: pickerUrl || null }),
    ...(learnerText !== undefined && { learnerText: toRichText(learnerText) }),
    ...(keysetUrl !== undefined && { keysetUrl: keysetUrl || null }),
    ...(initiationUrl !== undefined && { initiationUrl: initiationUrl || null }),
    ...(wanted.name !== undefined && { likeness: lookAlike(wanted.name) }),
    ...(publicKeys !== undefined && { publicKeys: publicKeys.trim() === '' ? null : readPublicKeys(publicKeys) }),
  }
}

const ONLY_1_1 = ['signatureMethod'] as const
const ONLY_1_3 = ['initiationUrl', 'redirectUris', 'keysetUrl', 'publicKeys', 'scopes'] as const

/** Features follow from scopes where the version has scopes; fields of the other version are refused by name. */
function withoutForeignFields(wanted: Wanted): Wanted {
  refuseForeignFields(wanted.version, wanted)
  if (wanted.features !== undefined) return wanted
  return { ...wanted, features: wanted.version === '1.1' ? ['scores'] : featuresOf(wanted.scopes ?? []) }
}

export function refuseForeignFields(version: LtiVersion, wanted: Record<string, unknown>): void {
  const foreign = (version === '1.1' ? ONLY_1_3 : ONLY_1_1).find((name) => {
    const value = wanted[name]
    return value !== undefined && value !== null && !(Array.isArray(value) && value.length === 0) && value !== ''
  })
  if (foreign) throw new Refusal('tool.version_fixed', foreign)
}

/** Who gives a picker's address says that there is a picker; who takes it away, that there is none. */
export function pickerFeature(
  features: RegistrationRecord['features'],
  pickerUrl: string | null | undefined,
): Partial<Pick<RegistrationRecord, 'features'>> {
  if (pickerUrl === undefined) return {}
  const others = features.filter((one) => one !== 'picker')
  return { features: pickerUrl ? [...others, 'picker'] : others }
}

export function featuresOf(scopes: readonly string[]): RegistrationRecord['features'] {
  return [
    ...(scopes.some((scope) => scope.endsWith('/lti-ags/scope/score')) ? (['scores'] as const) : []),
    ...(scopes.some((scope) => scope.includes('/lti-nrps/')) ? (['roster'] as const) : []),
  ]
}

/** Says what a registration lacks to be used at all. @throws Refusal `tool.secret_missing`, `tool.incomplete` */
export function requireComplete(tool: RegistrationRecord): void {
  if (tool.version === '1.1') {
    // Where each course brings its own pair, the institution's registration is a pattern for them and holds none.
    if (tool.keysPerCourse && tool.courseId === null) return
    if (!tool.consumerKey) throw new Refusal('tool.incomplete', 'consumer key')
    if (!tool.secretSealed) throw new Refusal('tool.secret_missing')
    return
  }
  const missing = [
    ...(tool.initiationUrl ? [] : ['login initiation address']),
    ...(tool.redirectUris.length > 0 ? [] : ['redirect address']),
    ...(tool.launchUrl ? [] : ['target link URI']),
    ...(tool.keysetUrl || tool.publicKeys ? [] : ['keyset address or public key']),
  ]
  if (missing.length > 0) throw new Refusal('tool.incomplete', missing.join(', '))
}

async function placeOf(context: Context, actor: Actor, course: string | null): Promise<string | null> {
  if (course === null) {
    if (!isAdministrator(actor))
      throw new Refusal('access.denied', 'only administrators register for the whole institution; name your course')
    return null
  }
  const { id } = await context.records.courses.byRef(course)
  if (isAdministrator(actor)) return id
  if ((await roleIn(context.records, actor, id)) !== 'instructor') throw new Refusal('course.not_found', course)
  if (context.settings.courseTools === 'off') throw new Refusal('tool.policy')
  return id
}

/** The same tool twice is said before it happens, with what is the same; a reason overrules. @throws Refusal */
async function refuseSecond(context: Context, courseId: string | null, wanted: Wanted): Promise<void> {
  if (wanted.secondReason) return
  const inPlace = (await context.records.tools.similar(wanted)).filter((one) => one.courseId === courseId)
  for (const one of inPlace) {
    const same = sameness(one, wanted).filter((what) => what !== 'name')
    if (same.includes('client') || (same.includes('key') && one.launchUrl === (wanted.launchUrl || null)))
      throw new Refusal('tool.already_registered', `“${one.name}” (${one.slug}) has the same ${same.join(' and ')}`)
  }
}

/** What a registration has in common with one that is to be made. */
export function sameness(
  one: RegistrationRecord,
  wanted: {
    name?: string | undefined
    consumerKey?: string | undefined
    launchUrl?: string | null | undefined
    initiationUrl?: string | null | undefined
  },
): ('key' | 'client' | 'launch address' | 'name')[] {
  return [
    ...(wanted.consumerKey && one.consumerKey === wanted.consumerKey ? (['key'] as const) : []),
    ...(wanted.initiationUrl && one.initiationUrl === wanted.initiationUrl ? (['client'] as const) : []),
    ...(wanted.launchUrl && one.launchUrl === wanted.launchUrl ? (['launch address'] as const) : []),
    ...(wanted.name && one.likeness === lookAlike(wanted.name) ? (['name'] as const) : []),
  ]
}

/** Refuses key and secret that carry blanks, unless that is wanted for the secret. @throws Refusal */
export function checkCredentials(given: {
  consumerKey?: string | undefined
  sharedSecret?: string | undefined
  acceptBlanks: boolean
}): void {
  if (given.consumerKey !== undefined && stripHidden(given.consumerKey) !== given.consumerKey)
    throw new Refusal('tool.key_has_blanks')
  if (given.sharedSecret !== undefined && !given.acceptBlanks && stripHidden(given.sharedSecret) !== given.sharedSecret)
    throw new Refusal('tool.secret_has_blanks')
}

/** Checks every address of a registration. @throws Refusal that names the field */
export function checkAddresses(wanted: Fields): void {
  for (const field of ['launchUrl', 'pickerUrl', 'configurationUrl', 'initiationUrl', 'keysetUrl'] as const)
    if (wanted[field]) checkAddress(wanted[field], field)
  wanted.redirectUris?.forEach((one, i) => checkAddress(one, `redirectUris.${i}`))
  wanted.placements?.forEach((one, i) => {
    if (one.launchUrl) checkAddress(one.launchUrl, `placements.${i}.launchUrl`)
  })
}

/** @throws Refusal that names the field */
export function checkAddress(address: string, field: string): void {
  const problem = checkLaunchAddress(address)
  if (problem) throw new Refusal(problem.code, problem.detail, [{ path: field, message: problem.detail }])
}

/** The sealed form of a secret, bound to its registration. */
export function sealed(
  context: Context,
  registrationId: string,
  secret: string | undefined,
  now: Date,
): Pick<RegistrationRecord, 'secretSealed' | 'secretSetAt'> {
  return secret === undefined
    ? { secretSealed: null, secretSetAt: null }
    : { secretSealed: context.keys.seal(secret, registrationId), secretSetAt: now }
}

const NOT_AUDITED = new Set<keyof RegistrationRecord>([
  'id', 'secretSealed', 'secretSetAt', 'managementHash', 'likeness', 'revision', 'createdAt', 'updatedAt',
]) // oxfmt-ignore

/** The parts of a registration that the audit log keeps. */
export function auditable(tool: Partial<RegistrationRecord>): Record<string, unknown> {
  const kept = Object.entries(tool).filter(([name]) => !NOT_AUDITED.has(name as keyof RegistrationRecord))
  return { ...Object.fromEntries(kept), ...(tool.secretSealed && { sharedSecret: '(set)' }) }
}
