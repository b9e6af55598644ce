import { cutEnd } from '@bathyscribe/core/text'
import { Refusal, type RecordsOffice, type RecordsOfficeSettings } from '@bathyscribe/contract'
import type { z } from 'zod'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { OfficeRow } from '../../records/handed-on.js'
import { by, type Actor, type Context } from '../context.js'
import { officeToken } from './office-client.js'

export async function showOffice({ records }: Context): Promise<RecordsOffice | null> {
  const row = await records.handedOn.office()
  return row ? viewOf(row) : null
}

/** Sets where results go on to, once it has given a token. @throws Refusal when it gives none */
export async function setOffice(
  context: Context,
  actor: Actor,
  wanted: z.output<typeof RecordsOfficeSettings>,
): Promise<RecordsOffice> {
  const before = await context.records.handedOn.office()
  const secret = wanted.clientSecret ?? (before && secretOf(context, before))
  if (secret === undefined) throw new Refusal('office.secret_missing')
  const row: OfficeRow = {
    url: cutEnd(wanted.url, '/'),
    tokenUrl: wanted.tokenUrl,
    clientId: wanted.clientId,
    secretSealed: context.keys.seal(secret, SEALED_FOR.office),
    paused: wanted.paused,
    everyMinutes: wanted.everyMinutes,
    updatedAt: context.clock.now(),
  }
  if (!wanted.paused) await officeToken(context, row, secret)
  await context.records.transaction(async (records) => {
    await records.handedOn.setOffice(row)
    await records.audit.add({
      at: row.updatedAt,
      ...by(actor),
      action: 'set records office',
      subject: 'records office',
      after: { url: row.url, clientId: row.clientId, paused: row.paused },
    })
  })
  return viewOf(row)
}

export async function removeOffice(context: Context, actor: Actor): Promise<void> {
  await context.records.transaction(async (records) => {
    await records.handedOn.removeOffice()
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'remove records office',
      subject: 'records office',
    })
  })
}

export function secretOf(context: Context, office: OfficeRow): string {
  return context.keys.unseal(office.secretSealed, SEALED_FOR.office)
}

function viewOf({ secretSealed: _, updatedAt, ...row }: OfficeRow): RecordsOffice {
  return { ...row, updatedAt: updatedAt.toISOString() }
}
