import type { OtherHeld } from '@bathyscribe/core/checks'
import type { HeldSecret, TokenTool } from '@bathyscribe/core/diagnosis'
import type { Context } from '../context.js'

/** How long an earlier secret is worth trying. */
const YEAR_MS = 366 * 86_400_000
/** Registrations whose secrets are tried, and whose identifiers are known again. */
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

/** The secret beside the current one that the other end most likely holds: the one before, else the next. @throws when the key file does not open it any more */
export async function likeliestOther(context: Context, registrationId: string): Promise<OtherHeld | undefined> {
  const others = await sealedOthers(context, registrationId)
  const other = others.find((one) => one.role === 'previous') ?? others[0]
  return other && { role: other.role, sharedSecret: context.keys.unseal(other.sealed, registrationId) }
}

/** Earlier and later secrets of one registration, opened. @throws when the key file does not open one any more */
export async function otherSecretsOf(context: Context, registrationId: string): Promise<string[]> {
  return (await sealedOthers(context, registrationId)).map(({ sealed }) => context.keys.unseal(sealed, registrationId))
}

function sealedOthers({ records, clock }: Context, registrationId: string) {
  return records.secrets.others(registrationId, new Date(clock.now().getTime() - YEAR_MS))
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
