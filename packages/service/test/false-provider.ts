import fastify from 'fastify'
import { exportJWK, generateKeyPair, SignJWT, UnsecuredJWT, type CryptoKey } from 'jose'
import { freePort } from '@bathyscribe/yard/machine/ports'
import { closeAfterwards } from './closing.js'

export const FALSE_CLIENT = { clientId: 'academy', clientSecret: 'a-secret-of-the-academy-that-is-long' }

/** What the provider says instead of the truth, for as long as it is set. */
export interface Lies {
  /** Over the claims of the ID token; undefined takes one out. */
  claims?: Record<string, unknown>
  /** `none`, `secret` (HS256 by the client secret), `other` (a key that it does not publish). */
  signedBy?: 'none' | 'secret' | 'other'
  /** In place of the whole token answer. */
  tokens?: { status: number; body: unknown }
  userInfo?: Record<string, unknown>
  description?: Record<string, unknown>
  /** In place of the description: a status and a body. */
  describes?: { status: number; body: string; headers?: Record<string, string> }
}

export interface FalseProvider {
  issuer: string
  lies: Lies
  /** Who is signed in there, and since when (seconds). */
  subject: string
  authTime: number | undefined
  /** What the browser would bring back, for where the service sent it. */
  answer: (location: string) => URL
  /** Signs claims as a logout token, or as whatever else. */
  sign: (claims: Record<string, unknown>, header?: Record<string, unknown>) => Promise<string>
  /** What was asked, in order. */
  asked: string[]
}

/** An OpenID Provider on a general JOSE library that can lie at each step. */
export async function startFalseProvider(): Promise<FalseProvider> {
  const app = fastify()
  const port = await freePort()
  const issuer = `http://127.0.0.1:${port}`
  const { privateKey, publicKey } = await generateKeyPair('RS256')
  const other = await generateKeyPair('RS256')
  const nonces = new Map<string, string>()
  const provider: FalseProvider = {
    issuer,
    lies: {},
    subject: 'somebody',
    authTime: undefined,
    asked: [],
    answer(location) {
      const { searchParams } = new URL(location)
      const code = `code-${nonces.size}`
      nonces.set(code, searchParams.get('nonce')!)
      const back = new URL(searchParams.get('redirect_uri')!)
      back.search = new URLSearchParams({ code, state: searchParams.get('state')!, iss: issuer }).toString()
      return back
    },
    sign: (claims, header = {}) =>
      new SignJWT(claims).setProtectedHeader({ alg: 'RS256', kid: 'k1', ...header }).sign(privateKey),
  }
  app.addHook('onRequest', async ({ url }) => void provider.asked.push(url))
  app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_, body, done) =>
    done(null, Object.fromEntries(new URLSearchParams(String(body)))),
  )
  app.get('/.well-known/openid-configuration', (_, reply) => {
    const { describes, description } = provider.lies
    if (describes)
      return reply
        .code(describes.status)
        .headers(describes.headers ?? {})
        .send(describes.body)
    return reply.send({
      issuer,
      authorization_endpoint: `${issuer}/authorize`,
      token_endpoint: `${issuer}/token`,
      userinfo_endpoint: `${issuer}/me`,
      jwks_uri: `${issuer}/jwks`,
      response_types_supported: ['code'],
      subject_types_supported: ['public'],
      id_token_signing_alg_values_supported: ['RS256'],
      token_endpoint_auth_methods_supported: ['client_secret_post'],
      authorization_response_iss_parameter_supported: true,
      ...description,
    })
  })
  app.get('/jwks', async () => ({ keys: [{ ...(await exportJWK(publicKey)), kid: 'k1', alg: 'RS256', use: 'sig' }] }))
  app.post('/token', async (request, reply) => {
    const { lies } = provider
    const { code = '', client_secret } = request.body as Record<string, string>
    if (lies.tokens) return reply.code(lies.tokens.status).send(lies.tokens.body)
    if (client_secret !== FALSE_CLIENT.clientSecret) return reply.code(401).send({ error: 'invalid_client' })
    const nonce = nonces.get(code)
    if (nonce === undefined) return reply.code(400).send({ error: 'invalid_grant' })
    nonces.delete(code)
    const now = Math.floor(Date.now() / 1000)
    const claims = {
      iss: issuer,
      aud: FALSE_CLIENT.clientId,
      sub: provider.subject,
      iat: now,
      exp: now + 300,
      nonce,
      ...(provider.authTime !== undefined && { auth_time: provider.authTime }),
      ...lies.claims,
    }
    return reply.send({
      access_token: 'a',
      token_type: 'Bearer',
      id_token: await idToken(lies, claims, provider, other.privateKey),
    })
  })
  app.get('/me', () => ({ sub: provider.subject, ...provider.lies.userInfo }))
  await app.listen({ host: '127.0.0.1', port })
  closeAfterwards(() => app.close())
  return provider
}

function idToken({ signedBy }: Lies, claims: Record<string, unknown>, { sign }: FalseProvider, key: CryptoKey) {
  if (signedBy === 'none') return new UnsecuredJWT(claims).encode()
  if (signedBy === 'secret')
    return new SignJWT(claims)
      .setProtectedHeader({ alg: 'HS256' })
      .sign(new TextEncoder().encode(FALSE_CLIENT.clientSecret))
  if (signedBy === 'other') return new SignJWT(claims).setProtectedHeader({ alg: 'RS256', kid: 'k1' }).sign(key)
  return sign(claims)
}
