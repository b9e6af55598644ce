import { Refusal, type NewTool } from '@bathyscribe/contract'
import { stripHidden } from '@bathyscribe/core/checks'
import { checkLaunchAddress } from '@bathyscribe/core/links'
import type { z } from 'zod'
import { violatedKey } from '../records/database.js'
import type { RegistrationRecord } from '../records/entities/courses.js'
import { isAdministrator, roleIn } from './access.js'
import { by, type Actor, type Context } from './context.js'
import { freeSlug, slugOf } from './slug.js'

/** Registers a tool by key and secret, for the institution or for one course. @throws Refusal */
export async function registerTool(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof NewTool>,
): Promise<RegistrationRecord> {
  const { records, ids, clock } = context
  const courseId = await placeOf(context, actor, wanted.course)
  checkCredentials(wanted)
  if (wanted.launchUrl) checkAddress(wanted.launchUrl, 'launchUrl')
  const same = (await records.tools.byKey(wanted.consumerKey)).find(
    (tool) => tool.launchUrl === wanted.launchUrl && tool.courseId === courseId && tool.state !== 'retired',
  )
  if (same && !wanted.secondReason) throw new Refusal('tool.already_registered', `“${same.name}” (${same.slug})`)
  if (wanted.enable && wanted.sharedSecret === undefined) throw new Refusal('tool.secret_missing')

  const now = clock.now()
  const id = ids.next()
  const start = slugOf(wanted.name, 'tool')
  const tool: RegistrationRecord = {
    id,
    slug: freeSlug(start, await records.tools.slugsLike(start)),
    name: wanted.name,
    courseId,
    state: wanted.enable ? 'enabled' : 'draft',
    consumerKey: wanted.consumerKey,
    ...sealed(context, id, wanted.sharedSecret, now),
    launchUrl: wanted.launchUrl,
    signatureMethod: wanted.signatureMethod,
    disclosure: wanted.disclosure,
    documentTarget: wanted.documentTarget,
    customParameters: wanted.customParameters,
    soundingParameters: wanted.soundingParameters,
    note: wanted.note,
    revision: 1,
    createdAt: now,
    updatedAt: now,
  }
  await records
    .transaction(async (inside) => {
      await inside.tools.insert(tool)
      await inside.audit.add({
        at: now,
        ...by(actor),
        action: 'register tool',
        subject: `tool ${tool.slug}`,
        courseId,
        after: { ...auditable(tool), ...(wanted.secondReason !== undefined && { secondReason: wanted.secondReason }) },
      })
    })
    .catch((error: unknown) => {
      throw violatedKey(error) === undefined ? error : new Refusal('tool.name_taken', tool.slug)
    })
  context.changes.publish({ kind: 'tool', courseId, assignmentId: null, personId: null })
  return tool
}

async function placeOf(context: Context, actor: Actor, course: string | null): Promise<string | null> {
  if (course === null) {
    if (!isAdministrator(actor))
      throw new Refusal('access.denied', 'only administrators register for the whole institution; name your course')
    return null
  }
  const { id } = await context.records.courses.byRef(course)
  if (!isAdministrator(actor) && (await roleIn(context.records, actor, id)) !== 'instructor')
    throw new Refusal('course.not_found', course)
  return id
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

/** The parts of a registration that the audit log keeps. */
export function auditable(tool: Partial<RegistrationRecord>): Record<string, unknown> {
  const {
    id: _id,
    secretSealed,
    secretSetAt: _at,
    createdAt: _made,
    updatedAt: _changed,
    revision: _revision,
    ...rest
  } = tool
  return { ...rest, ...(secretSealed && { sharedSecret: '(set)' }) }
}
