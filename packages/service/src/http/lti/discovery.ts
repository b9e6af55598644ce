import { VARIABLE_NAMES } from '@bathyscribe/core/links'
import { configurationDocument, SCOPES } from '@bathyscribe/core/lti13'
import type { FastifyInstance } from 'fastify'
import type { Context } from '../../desk/context.js'
import { tokenUrl } from '../../desk/platform/addresses.js'

/** What tools read of this platform before they know it: its configuration, and the keys that it signs with. */
export function registerDiscovery(app: FastifyInstance, context: Context): void {
  const { settings } = context
  // Anybody may read it: enough for tools to tell versions apart, too little to look up what is wrong with one.
  const version = context.version.split('.').slice(0, 2).join('.')
  app.get('/.well-known/openid-configuration', { schema: { hide: true } }, (_, reply) =>
    reply
      .header('access-control-allow-origin', '*')
      .send(configurationDocument({ issuer: settings.publicUrl, version, variables: VARIABLE_NAMES })),
  )
  app.get('/.well-known/oauth-authorization-server', { schema: { hide: true } }, (_, reply) =>
    reply.header('access-control-allow-origin', '*').send({
      issuer: settings.publicUrl,
      authorization_endpoint: `${settings.publicUrl}/connect`,
      token_endpoint: tokenUrl(settings),
      revocation_endpoint: `${settings.publicUrl}/oauth/revoke`,
      jwks_uri: `${settings.publicUrl}/lti/keyset`,
      response_types_supported: ['code'],
      grant_types_supported: ['authorization_code', 'refresh_token', 'client_credentials'],
      token_endpoint_auth_methods_supported: ['private_key_jwt'],
      token_endpoint_auth_signing_alg_values_supported: ['RS256'],
      code_challenge_methods_supported: ['S256'],
      authorization_response_iss_parameter_supported: true,
      scopes_supported: Object.keys(SCOPES),
      'urn:bathyscribe:courses': `${settings.publicUrl}/lti/courses`,
    }),
  )
  app.get('/lti/keyset', { schema: { hide: true } }, async (_, reply) =>
    reply
      .header('cache-control', 'public, max-age=300')
      .header('access-control-allow-origin', '*')
      .send({ keys: await context.keyring.published() }),
  )
}
