import { Problem } from '@bathyscribe/core/result'
import { Refusal, type AddressAnswer, type AddressQuestion } from '@bathyscribe/contract'
import { readPastedAddress, toolsOf } from '@bathyscribe/core/links'
import type { z } from 'zod'
import { addressesOf } from '../assignments/surroundings.js'
import type { Actor, Context } from '../context.js'

/** Reads an address that was copied out of a tool: whose session is in it, and whose tool it is. @throws Refusal for what is no address */
export async function readAddress(
  context: Context,
  actor: Actor,
  courseId: string,
  asked: z.output<typeof AddressQuestion>,
): Promise<AddressAnswer> {
  const { records, clock } = context
  const person = await records.people.byRef(actor.id)
  const identities = person
    ? [person.username, person.email, person.fullName, person.sourcedId, person.subject, person.id].filter(
        (one) => one !== null,
      )
    : []
  const read = readPastedAddress(asked.address, { identities, now: clock.now() }, asked)
  if (read instanceof Problem) throw new Refusal(read.code, read.detail, [{ path: 'address', message: read.detail }])
  const tools = (await records.tools.usable(courseId)).map((tool) => ({ ...tool, addresses: addressesOf(tool) }))
  return {
    ...read,
    tools: toolsOf(read.cleaned, tools).map(({ id, slug, name, state }) => ({ id, slug, name, state })),
  }
}
