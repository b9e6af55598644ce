import { Refusal } from '@bathyscribe/contract'
import type { Context } from '../context.js'
import { openProvider } from './begin.js'
import { toRefusal } from './provider-client.js'
import { verifyToken } from './verify-token.js'

const EVENT = 'http://schemas.openid.net/event/backchannel-logout'
/** A token is good for two minutes (OpenID Connect Back-Channel Logout 1.0 section 2.4), and as long as clocks differ. */
const GOOD_SECONDS = 120

/**
 * Ends the sessions that a provider says are over (OpenID Connect Back-Channel Logout 1.0 section 2.6). Only those that were begun before the token was made:
 * so the same token sent again ends nothing newer.
 * @returns how many ended
 * @throws Refusal for a token that does not hold
 */
export async function takeProviderSignOut(context: Context, ref: string, token: string): Promise<number> {
  const { records, providers, clock, settings } = context
  const provider = await openProvider(context, ref)
  const known = await providers.of(provider)
  const host = new URL(provider.issuer).host
  const payload = await verifyToken(
    context,
    known,
    { provider, token },
    { maxTokenAge: GOOD_SECONDS, requiredClaims: ['jti', 'iat', 'events'], currentDate: clock.now() },
  ).catch((error: unknown) => {
    throw toRefusal(error, host)
  })
  const { sub, sid, events, nonce, iat } = payload
  const isLogout = typeof events === 'object' && events !== null && Object.hasOwn(events, EVENT)
  if (!isLogout || nonce !== undefined || (sub === undefined && typeof sid !== 'string'))
    throw new Refusal('sign_on.answer_wrong', `${host}: the token is no logout token`)
  const identity = sub === undefined ? undefined : await records.identities.identity(provider.id, sub)
  if (identity === null) return 0
  return records.transaction(async (inside) => {
    const ended = await inside.identities.endSessions(provider.id, {
      personId: identity?.personId,
      providerSession: typeof sid === 'string' ? sid : undefined,
      before: new Date((iat! + settings.clockToleranceSeconds) * 1000),
    })
    await inside.audit.add({
      at: clock.now(),
      personId: identity?.personId ?? null,
      via: 'sign-on',
      action: 'signed out by provider',
      subject: `identity provider ${provider.handle}`,
      after: { sessions: ended },
    })
    return ended
  })
}
