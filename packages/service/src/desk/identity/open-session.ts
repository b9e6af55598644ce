import { fingerprint } from '../../keys/key-file.js'
import type { SessionRecord } from '../../records/entities/people.js'
import type { RecordsInside } from '../../records/index.js'
import type { Context } from '../context.js'

/** A session that was opened; only the browser keeps its token. */
export interface OpenedSession {
  token: string
  expiresAt: Date
}

/** What an identity provider adds to a session that was begun by it. */
export type ByProvider = Pick<SessionRecord, 'providerId' | 'providerSession' | 'idTokenSealed' | 'confirmedAt'>

/** Opens a session of a person who proved who they are. Its password was given now, or it was proven when the provider says. */
export async function openSession(
  { clock, ids, settings }: Context,
  within: RecordsInside,
  personId: string,
  { userAgent, by }: { userAgent: string; by?: ByProvider },
): Promise<OpenedSession> {
  const now = clock.now()
  const token = ids.secret()
  const expiresAt = new Date(now.getTime() + settings.sessionHours * 3600_000)
  await within.signIns.insertSession({
    id: ids.next(),
    tokenHash: fingerprint(token),
    personId,
    createdAt: now,
    lastSeenAt: now,
    expiresAt,
    userAgent: userAgent.replaceAll('\u0000', '').slice(0, 300),
    ...(by ?? { confirmedAt: now, providerId: null, providerSession: null, idTokenSealed: null }),
  })
  return { token, expiresAt }
}
