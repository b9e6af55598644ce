import type { OAuthParameters } from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'
import type { Nonce } from '../message.js'

/** How much longer than it is good what came by a token is remembered. */
const MARGIN_SECONDS = 60

/** The one formula: what is good until a moment, give or take what clocks differ by, is remembered for a margin more. */
function remembered(value: string, goodUntilSeconds: number, toleranceSeconds: number, marginSeconds: number): Nonce {
  return { value, expiresAt: new Date((goodUntilSeconds + toleranceSeconds + marginSeconds) * 1000) }
}

/** By how much clocks may differ where tokens are checked. */
export const leewaySeconds = ({ settings }: Pick<Context, 'settings'>) => Math.min(60, settings.clockToleranceSeconds)

/** The nonce of a signed message: good around its timestamp, however far ahead that lies (RFC 5849 section 3.3). */
export function nonceOf(
  { settings }: Pick<Context, 'settings'>,
  { nonce, timestampSeconds }: Pick<OAuthParameters, 'nonce' | 'timestampSeconds'>,
): Nonce {
  return remembered(nonce, timestampSeconds, settings.clockToleranceSeconds, settings.nonceMinutes * 60)
}

/** What a token is known by: good until it is over. @param name what it is, so that one kind is never taken for another */
export function tokenNonce(context: Pick<Context, 'settings'>, name: string, expiresSeconds: number): Nonce {
  return remembered(name, expiresSeconds, leewaySeconds(context), MARGIN_SECONDS)
}
