import type { NewApiToken } from '@bathyscribe/contract'
import type { z } from 'zod'
import { fingerprint } from '../../keys/key-file.js'
import type { ApiTokenRecord } from '../../records/entities/people.js'
import { by, type Actor, type Context } from '../context.js'

const DAY_MS = 24 * 3600_000

/** Makes an API token. @returns the token itself, which is kept only as a hash. */
export async function createToken(
  context: Context,
  actor: Pick<Actor, 'id' | 'via' | 'viaId'> & Partial<Actor>,
  wanted: z.output<typeof NewApiToken>,
): Promise<{ record: ApiTokenRecord; token: string }> {
  const now = context.clock.now()
  const token = `bathy_${context.ids.secret()}`
  const record: ApiTokenRecord = {
    id: context.ids.next(),
    tokenHash: fingerprint(token),
    personId: actor.id,
    name: wanted.name,
    scopes: [...new Set(wanted.scopes)],
    createdAt: now,
    expiresAt: new Date(now.getTime() + wanted.expiresInDays * DAY_MS),
    lastUsedAt: null,
    revokedAt: null,
  }
  await context.records.transaction(async (records) => {
    await records.signIns.insertToken(record)
    await records.audit.add({
      at: now,
      personId: actor.id,
      via: `${actor.via} ${actor.viaId}`,
      action: 'make API token',
      subject: `token ${record.id}`,
      after: { name: record.name, scopes: record.scopes, expiresAt: record.expiresAt },
    })
  })
  return { record, token }
}

export async function revokeToken(context: Context, actor: Actor, id: string): Promise<void> {
  await context.records.transaction(async (records) => {
    // What is not one’s own, or not there, was not revoked, and nobody may fill the audit with it.
    if ((await records.signIns.revokeTokens(actor.id, context.clock.now(), id)) === 0) return
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'revoke API token',
      subject: `token ${id}`,
    })
  })
}
