import { createPublicKey } from 'node:crypto'
import { createRemoteJWKSet, exportJWK, exportSPKI, importJWK, jwtVerify, SignJWT } from 'jose'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { codeOf, publishDrill, startAcademy, type TestAcademy } from './harness.js'
import { LINE_ITEM, launch13, register13, SCORE, startClient13, verified, type Client13 } from './harness-13.js'

let academy: TestAcademy
let client: Client13
let clientId: string
let slug: string

beforeAll(async () => {
  // The only other end is a small server of these tests, one of whose answers is far later.
  academy = await startAcademy({ outgoingTimeoutMs: 4000 })
  client = await startClient13(academy)
  const tool = await register13(academy, client)
  clientId = tool.clientId!
  slug = tool.slug
})
beforeEach(() => {
  client.answerKeyset(undefined)
  academy.clock.offsetMs = 0
})

const ask = async (change: Record<string, string> = {}) =>
  client.token({ client_assertion: await client.assertion(clientId), scope: SCORE, ...change })

describe('service tokens', () => {
  it('are granted to a tool that signs with its own key, for the scopes it was given', async () => {
    const { status, body } = await ask({
      scope: `${SCORE} ${LINE_ITEM} https://purl.imsglobal.org/spec/lti-ags/scope/made-up`,
    })
    expect(status).toBe(200)
    expect(body).toMatchObject({ token_type: 'Bearer', expires_in: 3600, scope: `${SCORE} ${LINE_ITEM}` })
    const { payload } = await jwtVerify(
      body['access_token']!,
      createRemoteJWKSet(new URL(`${academy.url}/lti/keyset`)),
      {
        issuer: academy.url,
        audience: academy.url,
        subject: clientId,
      },
    )
    expect(payload['scope']).toBe(`${SCORE} ${LINE_ITEM}`)
  })

  it('an assertion works once, also for two at once', async () => {
    const client_assertion = await client.assertion(clientId)
    const answers = await Promise.all([1, 2, 3].map(() => ask({ client_assertion })))
    expect(answers.map((one) => one.status).sort()).toEqual([200, 401, 401])
    expect(answers.find((one) => one.status === 401)!.body['error_description']).toContain('token.assertion_used')
  })

  const now = () => Math.floor(Date.now() / 1000)
  it.each<[string, Record<string, unknown>, string]>([
    ['another audience', { aud: 'https://elsewhere.example/token' }, 'assertion.audience'],
    ['another issuer', { iss: 'somebody' }, 'assertion.issuer'],
    ['an end in the past', { exp: now() - 120, iat: now() - 400 }, 'assertion.expired'],
    ['a life of a day', { exp: now() + 86_400 }, 'assertion.lifetime'],
    ['an end that is text', { exp: 'tomorrow' }, 'assertion.lifetime'],
    ['a beginning in the future', { iat: now() + 600, exp: now() + 700 }, 'assertion.issued_in_future'],
    ['no identifier', { jti: '' }, 'assertion.identifier_missing'],
    ['an unknown client', { sub: 'nobody' }, 'token.client_unknown'],
  ])('are refused for %s', async (_, change, code) => {
    const { status, body } = await ask({ client_assertion: await client.assertion(clientId, change as never) })
    expect(status).toBe(401)
    expect(body['error']).toBe('invalid_client')
    expect(body['error_description']).toContain(code)
  })

  it.each<[string, Record<string, string>, number, string]>([
    ['another grant', { grant_type: 'password' }, 400, 'unsupported_grant_type'],
    ['another kind of assertion', { client_assertion_type: 'x' }, 400, 'invalid_request'],
    ['an assertion that is none', { client_assertion: 'a.b' }, 401, 'invalid_client'],
    [
      'scopes that were not granted',
      { scope: 'https://purl.imsglobal.org/spec/lti-nrps/scope/contextmembership.readonly' },
      400,
      'invalid_scope',
    ],
    ['no scope', { scope: '' }, 400, 'invalid_scope'],
  ])('answer %s in the words of RFC 6749', async (_, change, status, error) => {
    const answer = await ask(change)
    expect([answer.status, answer.body['error']]).toEqual([status, error])
  })

  it('are refused for an assertion without a signature, or one signed by HS256 with our public key', async () => {
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
    const claims = {
      iss: clientId,
      sub: clientId,
      aud: `${academy.url}/lti/token`,
      iat: now(),
      exp: now() + 300,
      jti: 'x1',
    }
    const unsigned = await ask({ client_assertion: `${part({ alg: 'none', kid: 'k' })}.${part(claims)}.` })
    expect(unsigned.body['error_description']).toContain('jwt.')
    const { keys } = (await (await fetch(`${academy.url}/lti/keyset`)).json()) as { keys: Record<string, string>[] }
    const pem = await exportSPKI((await importJWK(keys[0]!, 'RS256')) as never)
    expect(createPublicKey(pem).asymmetricKeyType).toBe('rsa')
    const forged = await new SignJWT(claims)
      .setProtectedHeader({ alg: 'HS256', kid: keys[0]!['kid']! })
      .sign(new TextEncoder().encode(pem))
    expect((await ask({ client_assertion: forged })).body['error_description']).toContain('jwt.algorithm')
  })

  it('are refused to a tool that is suspended without its scores, and granted again afterwards', async () => {
    const suspend = (scoresWhileSuspended: boolean) =>
      academy.admin.client.call('setToolState', {
        params: { tool: slug },
        body: { state: 'suspended', scoresWhileSuspended },
      })
    await suspend(false)
    expect((await ask()).body['error_description']).toContain('token.client_disabled')
    await suspend(true)
    expect((await ask()).status).toBe(200)
    await academy.admin.client.call('setToolState', { params: { tool: slug }, body: { state: 'enabled' } })
  })
})

describe('a tool’s keyset', () => {
  it('is read once whatever the load', async () => {
    const fresh = await startClient13(academy)
    const tool = await register13(academy, fresh, { name: 'Load Book' })
    const answers = await Promise.all(
      Array.from({ length: 40 }, async () =>
        fresh.token({ client_assertion: await fresh.assertion(tool.clientId!), scope: SCORE }),
      ),
    )
    expect(answers.every((one) => one.status === 200)).toBe(true)
    expect(fresh.keysetReads()).toBe(1)
    const keys = await academy.admin.client.call('listToolKeys', { params: { tool: tool.id } })
    expect(keys.keyset).toMatchObject({ reads: 1, failure: null })
  })

  it('is read again for a key that is not in it, but not for every one that somebody makes up', async () => {
    const fresh = await startClient13(academy)
    const tool = await register13(academy, fresh, { name: 'Turning Book' })
    const get = async (header = {}) =>
      fresh.token({ client_assertion: await fresh.assertion(tool.clientId!, {}, header), scope: SCORE })
    expect((await get()).status).toBe(200)
    await fresh.rotate()
    expect((await get()).body['error_description']).toContain('jwt.key_unknown')
    academy.clock.offsetMs = 11_000
    expect((await get()).status).toBe(200)
    const before = fresh.keysetReads()
    for (let i = 0; i < 10; i++) expect((await get({ kid: `made-up-${i}` })).status).toBe(401)
    expect(fresh.keysetReads()).toBe(before)
  })

  it('goes on serving from memory while the tool’s server is down', async () => {
    const fresh = await startClient13(academy)
    const tool = await register13(academy, fresh, { name: 'Steady Book' })
    const get = async () => fresh.token({ client_assertion: await fresh.assertion(tool.clientId!), scope: SCORE })
    expect((await get()).status).toBe(200)
    fresh.answerKeyset(() => ({ status: 500, body: '' }))
    academy.clock.offsetMs = 61 * 60_000
    expect((await get()).status).toBe(200)
    const { keyset } = await academy.admin.client.call('listToolKeys', { params: { tool: tool.id } })
    expect(keyset!.failure).toContain('outgoing.status')
  })

  it.each<[string, { status?: number; body: string; delayMs?: number }, string]>([
    ['answers with a page', { body: '<html></html>' }, 'keyset.not_a_keyset'],
    ['holds no key', { body: '{"keys":[]}' }, 'keyset.no_usable_key'],
    [
      'holds 10,000 keys',
      { body: JSON.stringify({ keys: Array.from({ length: 10_000 }, (_, i) => ({ kid: `${i}` })) }) },
      'keyset.too_many_keys',
    ],
    [
      'shows a private key',
      { body: '{"keys":[{"kty":"RSA","kid":"a","n":"AQAB","e":"AQAB","d":"AQAB"}]}' },
      'keyset.private_key',
    ],
    ['is gone', { status: 404, body: '' }, 'outgoing.status'],
    ['answers too slowly', { body: '{"keys":[]}', delayMs: 20_000 }, 'outgoing.timeout'],
    ['never ends', { body: ' '.repeat(700 * 1024) }, 'outgoing.too_large'],
    ['holds a name twice', { body: '{"keys":[],"keys":[]}' }, 'keyset.not_a_keyset'],
  ])('that %s is refused by name', async (_, answer, code) => {
    const fresh = await startClient13(academy)
    fresh.answerKeyset(() => answer)
    const tool = await register13(academy, fresh, { name: 'Broken Book', secondReason: 'test' })
    const { status, body } = await fresh.token({
      client_assertion: await fresh.assertion(tool.clientId!),
      scope: SCORE,
    })
    expect(body['error_description']).toContain(code)
    // It is the tool's own fault: told to it as such, and found beside it in the wire log.
    expect([status, body['error']]).toEqual([401, 'invalid_client'])
    const { items } = await academy.admin.client.call('listWire', { query: { tool: tool.slug, limit: 5 } })
    expect(items.find((one) => one.kind === 'token')).toMatchObject({ outcome: 'refused', code })
    expect(await codeOf(academy.admin.client.call('readToolKeyset', { params: { tool: tool.id } }))).toBe(code)
  })

  it('may be pasted instead, as JSON or PEM; a private key is refused', async () => {
    const fresh = await startClient13(academy)
    const { keys } = (await (await fetch(fresh.origin)).json()) as { keys: Record<string, string>[] }
    const pasted = await register13(academy, fresh, {
      name: 'Pasted Book',
      keysetUrl: null,
      publicKeys: JSON.stringify({ keys }),
      secondReason: 'test',
    })
    expect(
      (await fresh.token({ client_assertion: await fresh.assertion(pasted.clientId!), scope: SCORE })).status,
    ).toBe(200)
    const pem = await exportSPKI((await importJWK(keys[0]!, 'RS256')) as never)
    const byPem = await register13(academy, fresh, {
      name: 'PEM Book',
      keysetUrl: null,
      publicKeys: pem,
      secondReason: 'test',
    })
    expect(byPem.publicKeys).toBe(1)
    const { exportPKCS8, generateKeyPair } = await import('jose')
    const { privateKey } = await generateKeyPair('RS256', { extractable: true })
    const secret = await exportPKCS8(privateKey)
    expect(await codeOf(register13(academy, fresh, { name: 'No', publicKeys: secret, secondReason: 'x' }))).toBe(
      'keyset.private_key',
    )
    expect(await codeOf(register13(academy, fresh, { name: 'No', publicKeys: 'rubbish', secondReason: 'x' }))).toBe(
      'tool.public_key_unreadable',
    )
    expect(Object.keys(await exportJWK(privateKey))).toContain('d')
  })
})

describe('the platform’s own keys', () => {
  it('turn over while launches go on: tokens of both are verified by the keyset, and by one that was kept from before', async () => {
    await academy.person('niamh', { 'HYD-210': 'learner' })
    const learner = await academy.signIn('niamh')
    const { id } = await publishDrill(academy, slug, { title: 'Turning' })
    const before = await launch13(learner, id, client)
    const kept = (await (await fetch(`${academy.url}/lti/keyset`)).json()) as { keys: { kid: string }[] }
    const rotated = await academy.admin.client.call('rotatePlatformKeys', { body: { reason: 'test' } })
    expect(rotated.keys.map((one) => one.state).sort()).toEqual(['current', 'next', 'previous'])
    const after = await launch13(learner, id, client)
    const kidOf = (token: string) =>
      (JSON.parse(Buffer.from(token.split('.')[0]!, 'base64url').toString()) as { kid: string }).kid
    const [first, second] = [kidOf(before.fields['id_token']!), kidOf(after.fields['id_token']!)]
    expect(first).not.toBe(second)
    expect(kept.keys.map((one) => one.kid)).toEqual(expect.arrayContaining([first, second]))
    await verified(academy, before.fields['id_token']!, clientId)
    await verified(academy, after.fields['id_token']!, clientId)
  })

  it('are sealed in the records, and only their public half is shown', async () => {
    const rows = await academy.query<{ sealed: Buffer }>('select sealed from platform_key')
    expect(rows.length).toBeGreaterThanOrEqual(3)
    for (const { sealed } of rows) expect(sealed.toString('latin1')).not.toContain('PRIVATE KEY')
    expect(await (await fetch(`${academy.url}/lti/keyset`)).text()).not.toMatch(/"d"|"p"|"q"/)
  })
})
