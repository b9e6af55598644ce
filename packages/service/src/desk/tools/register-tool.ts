import { Refusal, type NewTool } from '@bathyscribe/contract'
import { lookAlike } from '@bathyscribe/core/links'
import type { z } from 'zod'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Actor, Context } from '../context.js'
import { isAdministrator, roleIn } from '../identity/access.js'
import { checkAddresses, checkCredentials, fieldsOf, pickerFeature, withFeatures } from './fields.js'
import { blankRegistration, nameTaken, requireComplete, sealed, storeNew } from './registration.js'
import { sameness } from './sameness.js'
import { freeToolSlug } from './tool-slug.js'

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
  const asked = withFeatures(wanted)
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
