import type { OAuthParameters } from '@bathyscribe/core/oauth1'
import type { Context } from '../../desk/context.js'

const MINUTE_MS = 60_000

/** The nonce of a signed message, and until when it is remembered: longer than its timestamp is good, however far ahead that lies (RFC 5849 section 3.3). */
export function nonceOf(
  { settings }: Pick<Context, 'settings'>,
  { nonce, timestampSeconds }: Pick<OAuthParameters, 'nonce' | 'timestampSeconds'>,
): { value: string; expiresAt: Date } {
  const goodUntilMs = (timestampSeconds + settings.clockToleranceSeconds) * 1000
  return { value: nonce, expiresAt: new Date(goodUntilMs + settings.nonceMinutes * MINUTE_MS) }
}
