import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify'
import formbody from '@fastify/formbody'
import { bearerToken, configurationDocument, SCOPES } from '@bathyscribe/core/lti13'
import { plainAscii } from '@bathyscribe/core/text'
import { VARIABLE_NAMES } from '@bathyscribe/core/links'
import { Refusal } from '@bathyscribe/contract'
import { readJson } from '@bathyscribe/core/intake'
import type { Context } from '../../desk/context.js'
import { grantToken, revokeByTool } from '../../desk/services/grant-token.js'
import { tokenUrl } from '../../desk/platform/addresses.js'
import { authorize } from '../../desk/launches/authorize.js'
import { manageRegistration, receiveRegistration, type RegistrationAnswer } from '../../desk/tools/self-registration.js'
import { findActor, LOGIN_COOKIE } from '../caller.js'
import { sendForm } from '../pages.js'
import { toRefusal } from '../problems.js'

const FORM_LIMIT = 64 * 1024
const METADATA_LIMIT = 128 * 1024

/** The addresses of LTI 1.3 that tools and browsers call: configuration, keyset, authorisation, tokens, registration. */
export async function registerLogin(app: FastifyInstance, context: Context): Promise<void> {
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

  await app.register(async (scope) => {
    // Values given twice stay lists, so that they can be refused: readers differ in which of the two they take.
    await scope.register(formbody, { bodyLimit: FORM_LIMIT })

    const authorization = async (request: FastifyRequest, reply: FastifyReply) => {
      const sent = flat(request.query as object, (request.body as object | undefined) ?? {})
      const actor = await findActor(context, request, { alsoCookie: LOGIN_COOKIE })
      const { url, fields, refused } = await authorize(context, actor, sent)
      return sendForm(reply, { url, fields, title: refused ? 'Going back…' : 'Opening…' })
    }
    scope.get('/lti/authorize', { schema: { hide: true } }, authorization)
    scope.post('/lti/authorize', { schema: { hide: true } }, authorization)
  })

  await app.register(async (scope) => {
    await scope.register(formbody, { bodyLimit: FORM_LIMIT })
    scope.removeContentTypeParser('application/json')
    scope.addContentTypeParser('application/json', { parseAs: 'string' }, (_, body, done) => {
      const read = readJson(String(body))
      if ('code' in read) done(new Refusal(read.code, read.detail))
      else done(null, read.value)
    })
    scope.setErrorHandler((error, request, reply) => {
      const refusal = toRefusal(error, request)
      const { title } = refusal.toProblem()
      if (refusal.status === 503) void reply.header('retry-after', '5')
      return reply.code(refusal.status).send({
        error: refusal.status >= 500 ? 'server_error' : 'invalid_request',
        error_description: plainAscii(`${refusal.code}: ${title}`),
      })
    })
    scope.post('/lti/token', { schema: { hide: true } }, async (request, reply) => {
      const { status, body } = await grantToken(context, flat((request.body as object | undefined) ?? {}))
      return reply.code(status).headers(NOT_KEPT).send(body)
    })

    scope.post('/oauth/revoke', { schema: { hide: true } }, async (request, reply) => {
      const refused = await revokeByTool(context, flat((request.body as object | undefined) ?? {}))
      void reply.headers(NOT_KEPT)
      return refused ? reply.code(refused.status).send(refused.body) : reply.code(200).send({})
    })

    scope.post('/lti/register', { schema: { hide: true }, bodyLimit: METADATA_LIMIT }, async (request, reply) =>
      answer(reply, await receiveRegistration(context, bearer(request), request.body)),
    )
    scope.route<{ Params: { clientId: string } }>({
      method: ['GET', 'PUT'],
      url: '/lti/register/:clientId',
      schema: { hide: true },
      bodyLimit: METADATA_LIMIT,
      handler: async (request, reply) =>
        answer(
          reply,
          await manageRegistration(
            context,
            request.params.clientId,
            bearer(request),
            request.method === 'PUT' ? (request.body ?? null) : undefined,
          ),
        ),
    })
  })
}

/** Answers with tokens stay nowhere on their way (RFC 6749 section 5.1). */
const NOT_KEPT = { 'cache-control': 'no-store', pragma: 'no-cache' }

function answer(reply: FastifyReply, { status, body }: RegistrationAnswer): FastifyReply {
  if (status === 401) void reply.header('www-authenticate', 'Bearer error="invalid_token"')
  return reply.code(status).header('cache-control', 'no-store').send(body)
}

function bearer(request: FastifyRequest): string {
  return bearerToken(request.headers.authorization, 200) ?? ''
}

/** Parameters by name, each once. @throws Refusal for one that is given twice */
function flat(...parts: object[]): Record<string, string> {
  const all: Record<string, string> = {}
  for (const [name, value] of parts.flatMap((part) => Object.entries(part) as [string, unknown][])) {
    if (typeof value !== 'string' || Object.hasOwn(all, name))
      throw new Refusal('request.invalid', `${name.slice(0, 60)} is given twice`)
    all[name] = value
  }
  return all
}
