import { createSextant, metadataOf } from '@bathyscribe/practice-tools'
import type { FastifyInstance } from 'fastify'
import { exportJWK, generateKeyPair, SignJWT } from 'jose'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

const ORIGIN = 'http://sextant.example'
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
let app: FastifyInstance
let keysetUrl: string
let keys: Awaited<ReturnType<typeof generateKeyPair>>
const server = createServer((_, response) => {
  void (async () => {
    response.writeHead(200, { 'content-type': 'application/json' })
    response.end(
      JSON.stringify({ keys: [{ ...(await exportJWK(keys.publicKey)), kid: 'p1', alg: 'RS256', use: 'sig' }] }),
    )
  })()
})
const PLATFORM = {
  issuer: 'https://platform.example',
  clientId: 'client-1',
  deploymentId: 'd-1',
  authorizationUrl: 'https://platform.example/authorize',
  tokenUrl: 'https://platform.example/token',
}

beforeAll(async () => {
  keys = await generateKeyPair('RS256', { extractable: true })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  keysetUrl = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`
  app = await createSextant({ publicUrl: ORIGIN })
  await app.inject({ method: 'POST', url: '/platforms', payload: { ...PLATFORM, keysetUrl } })
})
afterAll(async () => {
  await app.close()
  server.close()
})

const form = (url: string, fields: Record<string, string>, cookie = '') =>
  app.inject({
    method: 'POST',
    url,
    payload: new URLSearchParams(fields).toString(),
    headers: { 'content-type': 'application/x-www-form-urlencoded', cookie },
  })
const initiation = {
  iss: PLATFORM.issuer,
  client_id: PLATFORM.clientId,
  login_hint: 'h',
  lti_message_hint: 'm',
  target_link_uri: `${ORIGIN}/bench`,
}

async function begin(change: Record<string, string> = {}) {
  const answer = await form('/login', { ...initiation, ...change })
  return {
    status: answer.statusCode,
    text: answer.body,
    query: Object.fromEntries(new URL(String(answer.headers['location'] ?? 'http://x/')).searchParams),
    cookie: String(answer.headers['set-cookie'] ?? '').split(';')[0]!,
  }
}
function idToken(
  nonce: string,
  change: Record<string, unknown> = {},
  key = keys.privateKey,
  audience = PLATFORM.clientId,
) {
  return new SignJWT({
    nonce,
    name: 'Niamh',
    [`${CLAIM}version`]: '1.3.0',
    [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
    [`${CLAIM}deployment_id`]: PLATFORM.deploymentId,
    [`${CLAIM}resource_link`]: { id: 'link-1', title: 'Noon altitude' },
    [`${CLAIM}roles`]: ['http://purl.imsglobal.org/vocab/lis/v2/membership#Learner'],
    ...change,
  })
    .setProtectedHeader({ alg: 'RS256', kid: 'p1' })
    .setIssuer(PLATFORM.issuer)
    .setAudience(audience)
    .setSubject('u-1')
    .setIssuedAt()
    .setExpirationTime('5m')
    .sign(key)
}

describe('Sextant Bench, as an honest tool', () => {
  it('answers an initiation with an authorisation request as the standard has it', async () => {
    const { status, query, cookie } = await begin()
    expect(status).toBe(302)
    expect(query).toMatchObject({
      scope: 'openid',
      response_type: 'id_token',
      response_mode: 'form_post',
      prompt: 'none',
      client_id: 'client-1',
      redirect_uri: `${ORIGIN}/launch`,
      login_hint: 'h',
      lti_message_hint: 'm',
    })
    expect(query['state'] && query['nonce'] && cookie).toBeTruthy()
  })

  it('knows nobody but its platforms, and no target but its own', async () => {
    expect((await begin({ iss: 'https://stranger.example' })).status).toBe(400)
    expect((await begin({ target_link_uri: 'https://stranger.example/' })).status).toBe(400)
  })

  it('takes a launch once', async () => {
    const { query, cookie } = await begin()
    const token = await idToken(query['nonce']!)
    const first = await form('/launch', { id_token: token, state: query['state']! }, cookie)
    expect(first.body).toContain('Niamh')
    expect(first.body).toContain('Not open yet')
    expect((await form('/launch', { id_token: token, state: query['state']! }, cookie)).body).toContain(
      'finished before',
    )
  })

  it.each<[string, (nonce: string) => Promise<string>, RegExp]>([
    ['another nonce', () => idToken('other'), /nonce/],
    [
      'another deployment',
      (nonce) => idToken(nonce, { [`${CLAIM}deployment_id`]: 'd-2' }),
      /does not know this deployment/,
    ],
    ['another version', (nonce) => idToken(nonce, { [`${CLAIM}version`]: '1.2' }), /not a launch of LTI 1.3/],
    [
      'another message',
      (nonce) => idToken(nonce, { [`${CLAIM}message_type`]: 'X' }),
      /not a launch of a resource link/,
    ],
    ['no roles', (nonce) => idToken(nonce, { [`${CLAIM}roles`]: undefined }), /no link or no roles/],
    ['another audience', (nonce) => idToken(nonce, {}, keys.privateKey, 'client-2'), /does not accept/],
    [
      'another key',
      async (nonce) => idToken(nonce, {}, (await generateKeyPair('RS256')).privateKey),
      /does not accept/,
    ],
  ])('refuses %s in its own words', async (_, make, words) => {
    const { query, cookie } = await begin()
    const answer = await form('/launch', { id_token: await make(query['nonce']!), state: query['state']! }, cookie)
    expect(answer.statusCode).toBeGreaterThanOrEqual(400)
    expect(answer.body).toMatch(words)
  })

  it('refuses a browser that is not the one that began', async () => {
    const { query } = await begin()
    const answer = await form('/launch', { id_token: await idToken(query['nonce']!), state: query['state']! })
    expect(answer.body).toContain('did not keep our cookie')
  })

  it('lets the instructor choose what a link leads to, and learners in once it is open', async () => {
    const launch = async (roles: string) => {
      const { query, cookie } = await begin()
      const token = await idToken(query['nonce']!, {
        [`${CLAIM}roles`]: [`http://purl.imsglobal.org/vocab/lis/v2/membership#${roles}`],
      })
      return (await form('/launch', { id_token: token, state: query['state']! }, cookie)).body
    }
    const session = /name="session" value="([^"]+)"/.exec(await launch('Instructor'))![1]!
    await form('/choose', { session, exercise: 'drift' })
    expect(await launch('Learner')).toContain('Not open yet')
    await form('/choose', { session, exercise: 'drift', open: 'on' })
    const page = await launch('Learner')
    expect(page).toContain('In 3 hours the ship was set 4.5 miles')
    const own = /name="session" value="([^"]+)"/.exec(page)![1]!
    expect((await form('/answer', { session: own, answer: '1.5' })).body).toContain('Right')
    expect((await form('/choose', { session: own, exercise: 'drift' })).statusCode).toBe(403)
  })

  it('publishes its metadata and its keys, the old one beside the new', async () => {
    expect((await app.inject('/config.json')).json()).toEqual(metadataOf(ORIGIN))
    const before = (await app.inject('/keyset')).json<{ keys: { kid: string }[] }>()
    await app.inject({ method: 'POST', url: '/practice/rotate-keys' })
    const after = (await app.inject('/keyset')).json<{ keys: { kid: string; d?: string }[] }>()
    expect(after.keys.map((key) => key.kid)).toContain(before.keys[0]!.kid)
    expect(after.keys.length).toBe(2)
    expect(after.keys.some((key) => key.d !== undefined)).toBe(false)
  })
})
