import * as oidc from 'openid-client'
import { SEALED_FOR } from '../../records/key-mark.js'
import type { Actor, Context } from '../context.js'

/** Where a provider sends browsers back to after signing out there. */
export const afterSignOutUri = (publicUrl: string) => `${publicUrl}/sign-in`

/**
 * The page of the provider that signs out there, too (OpenID Connect RP-Initiated Logout 1.0); null where the session was not begun by one, or it has none.
 * Signing out here hangs on no provider: one that does not answer is left alone.
 */
export async function leavePageOf(context: Context, { via, viaId, id }: Actor): Promise<string | null> {
  const { records, providers, keys, settings, log } = context
  if (via !== 'session') return null
  const session = await records.signIns.session(id, viaId)
  if (!session?.providerId || !session.idTokenSealed) return null
  const provider = await records.identities.providerById(session.providerId)
  if (!provider) return null
  try {
    const { configuration } = await providers.of(provider)
    if (configuration.serverMetadata().end_session_endpoint === undefined) return null
    return oidc.buildEndSessionUrl(configuration, {
      id_token_hint: keys.unseal(session.idTokenSealed, SEALED_FOR.idToken),
      post_logout_redirect_uri: afterSignOutUri(settings.publicUrl),
    }).href
  } catch (error) {
    log.warn(
      { provider: provider.handle, reason: (error as Error).message },
      'the way out at the provider is not known',
    )
    return null
  }
}
