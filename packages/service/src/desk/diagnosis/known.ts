import type { OtherHeld } from '@bathyscribe/core/checks'
import type { HeldSecret, TokenTool } from '@bathyscribe/core/diagnosis'
import type { Context } from '../context.js'

/** Registrations whose secrets are tried, and whose identifiers are known again. */
const YEAR_MS = 366 * 86_400_000
const MOST_REGISTRATIONS = 200

/** Secrets of registrations, opened; those that this key file does not open any more are passed over. @param courseIds null for all */
export async function heldSecrets(
  { records, keys }: Context,
  courseIds: readonly string[] | null,
): Promise<(HeldSecret & { registrationId: string })[]> {
  return (await records.diagnoses.secrets(courseIds, MOST_REGISTRATIONS)).flatMap((one) => {
    try {
      const { registrationId, name, consumerKey } = one
      return [{ registrationId, label: name, consumerKey, sharedSecret: keys.unseal(one.sealed, registrationId) }]
    } catch {
      return []
    }
  })
}

/** The secret beside the current one that the other end most likely holds: the one before, else the next. Sealed ones that cannot be opened are none. */
export async function likeliestOther(
  { records, keys, clock }: Context,
  registrationId: string,
): Promise<OtherHeld | undefined> {
  const others = await records.secrets.others(registrationId, new Date(clock.now().getTime() - YEAR_MS))
  const [other] = others.filter((one) => one.role === 'previous').concat(others)
  return other && { role: other.role, sharedSecret: keys.unseal(other.sealed, registrationId) }
}

/** Earlier and later secrets of one registration, opened. */
export async function otherSecretsOf({ records, keys, clock }: Context, registrationId: string): Promise<string[]> {
  return (await records.secrets.others(registrationId, new Date(clock.now().getTime() - YEAR_MS))).map(({ sealed }) =>
    keys.unseal(sealed, registrationId),
  )
}

export async function tokenTools(
  { records }: Context,
  courseIds: readonly string[] | null,
): Promise<(TokenTool & { id: string })[]> {
  return (await records.diagnoses.clients(courseIds, MOST_REGISTRATIONS)).map(({ name, ...one }) => ({
    ...one,
    label: name,
  }))
}

/** Names and ports under which this service may be called behind its public address. */
export function otherHosts({ settings }: Context, called: string | undefined): string[] {
  const own = new URL(settings.publicUrl)
  return [
    ...new Set([
      called ?? '',
      `${settings.host}:${settings.port}`,
      settings.host,
      'localhost',
      `localhost:${settings.port}`,
      `127.0.0.1:${settings.port}`,
    ]),
  ].filter((host) => host !== '' && host !== own.host)
}
