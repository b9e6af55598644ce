import { Refusal } from '@bathyscribe/contract'
import { violatedKey } from '../../records/database.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { RecordsInside } from '../../records/index.js'
import { by, type Actor, type Context } from '../context.js'

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
    framePermissions: [],
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

/** Keeps a new registration with what belongs to it: offers, a deployment for LTI 1.3, the audit entry. */
export async function storeNew(
  inside: RecordsInside,
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
