import { jwtVerify, type JWTPayload, type JWTVerifyOptions } from 'jose'
import type { IdentityProviderRecord } from '../../records/entities/identities.js'
import type { Context } from '../context.js'
import type { Provider } from './provider-client.js'

/** Asymmetric ones only (RFC 8725 section 3.2): a secret that is shared with us signs for nobody else. */
export const ALGORITHMS = [
  ...['RS256', 'RS384', 'RS512', 'PS256', 'PS384', 'PS512'],
  ...['ES256', 'ES384', 'ES512', 'EdDSA', 'Ed25519'],
]

/** That a token was signed by a provider, for our client there, and is of this time. @param more what else it has to be @throws what jose says */
export async function verifyToken(
  { settings }: Pick<Context, 'settings'>,
  { configuration, keys }: Provider,
  { provider, token }: { provider: IdentityProviderRecord; token: string },
  more: JWTVerifyOptions = {},
): Promise<JWTPayload> {
  const { payload } = await jwtVerify(token, keys, {
    issuer: configuration.serverMetadata().issuer,
    audience: provider.clientId,
    algorithms: ALGORITHMS,
    clockTolerance: settings.clockToleranceSeconds,
    ...more,
  })
  return payload
}
