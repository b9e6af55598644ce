import { Refusal, type Setup } from '@bathyscribe/contract'
import type { z } from 'zod'
import { fingerprint } from '../../keys/key-file.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { Context } from '../context.js'
import { newPerson } from './people.js'

/** Makes a new set-up code when there is no administrator yet. @returns the code to be printed once; undefined when none is needed. */
export async function offerSetupCode(context: Context): Promise<string | undefined> {
  if (await context.records.people.hasAdministrator()) return undefined
  const code = context.ids.secret().slice(0, 20)
  await context.records.signIns.addSetupCode(fingerprint(code), context.clock.now())
  return code
}

/** Makes the first administrator. The code is used up in the same transaction, so it works for one caller only. @throws Refusal */
export async function setUp(context: Context, given: z.output<typeof Setup>): Promise<PersonRecord> {
  const { code, ...wanted } = given
  if (await context.records.people.hasAdministrator()) throw new Refusal('setup.done')
  // Looked at first: a password is dear to hash.
  if (!(await context.records.signIns.isSetupCode(fingerprint(code)))) throw new Refusal('setup.code_wrong')
  const person = await newPerson(context, {
    ...wanted,
    siteRole: 'administrator',
    givenName: '',
    familyName: '',
    email: undefined,
    sourcedId: undefined,
  })
  await context.records.transaction(async (records) => {
    if (!(await records.signIns.useSetupCode(fingerprint(code)))) throw new Refusal('setup.code_wrong')
    await records.people.insert(person)
    await records.audit.add({
      at: context.clock.now(),
      personId: person.id,
      via: 'set-up code',
      action: 'make first administrator',
      subject: `person ${person.username}`,
    })
  })
  return person
}
