import { createPublicKey, generateKeyPairSync, sign, verify } from 'node:crypto'
import {
  accessTokenClaims,
  checkAccessToken,
  addressDifference,
  base64url,
  checkAssertion,
  configurationDocument,
  grantedScopes,
  readHints,
  readJws,
  readKeyset,
  readToolMetadata,
  unbase64url,
  verifyJws,
  writeHints,
  writeJws,
  writeToolMetadata,
  type PublicKey,
} from '@bathyscribe/core/lti13'
import { checkInitiation } from '../src/checks/index.js'
import fc from 'fast-check'
import { jwtVerify, SignJWT } from 'jose'
import { describe, expect, it } from 'vitest'

const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 })
const jwk = publicKey.export({ format: 'jwk' }) as { n: string; e: string }
const KEY: PublicKey = { kty: 'RSA', kid: 'k1', ...jwk }
const signs = (data: Uint8Array) => Promise.resolve(sign('sha256', data, privateKey))
const verifies = (data: Uint8Array, signature: Uint8Array, key: PublicKey) =>
  verify('sha256', data, createPublicKey({ key: { ...key }, format: 'jwk' }), signature)

describe('a token', () => {
  it('that is written here is verified by a general library', async () => {
    const token = await writeJws({ iss: 'us', name: 'Niamh O’Drevnakh თამარ' }, 'k1', signs)
    const { payload, protectedHeader } = await jwtVerify(token, publicKey, { issuer: 'us', algorithms: ['RS256'] })
    expect(protectedHeader).toEqual({ alg: 'RS256', typ: 'JWT', kid: 'k1' })
    expect(payload['name']).toBe('Niamh O’Drevnakh თამარ')
  })

  it('that a general library wrote is read and verified here', async () => {
    const token = await new SignJWT({ scope: 'x' }).setProtectedHeader({ alg: 'RS256', kid: 'k1' }).sign(privateKey)
    const jws = readJws(token)
    if ('code' in jws) throw new Error(jws.code)
    expect(jws.claims).toEqual({ scope: 'x' })
    expect(verifyJws(jws, [KEY], verifies)).toBeUndefined()
    expect(verifyJws(jws, [{ ...KEY, kid: 'k2' }], verifies)).toMatchObject({ code: 'jwt.key_unknown' })
    expect(verifyJws({ ...jws, signed: Uint8Array.of(1) }, [KEY], verifies)).toMatchObject({
      code: 'jwt.signature_mismatch',
    })
  })

  const part = (value: unknown) => Buffer.from(JSON.stringify(value)).toString('base64url')
  it.each<[string, string, string]>([
    ['two parts', 'a.b', 'jwt.malformed'],
    ['padding', 'YQ==.YQ.YQ', 'jwt.malformed'],
    ['no object', `${part([1])}.${part({})}.YQ`, 'jwt.malformed'],
    ['no algorithm', `${part({ alg: 'none', kid: 'k' })}.${part({})}.YQ`, 'jwt.algorithm'],
    ['a symmetric algorithm', `${part({ alg: 'HS256', kid: 'k' })}.${part({})}.YQ`, 'jwt.algorithm'],
    ['an algorithm in lower case', `${part({ alg: 'rs256', kid: 'k' })}.${part({})}.YQ`, 'jwt.algorithm'],
    ['no key identifier', `${part({ alg: 'RS256' })}.${part({})}.YQ`, 'jwt.key_id_missing'],
    ['critical extensions', `${part({ alg: 'RS256', kid: 'k', crit: ['b64'] })}.${part({})}.YQ`, 'jwt.critical_header'],
    ['four parts', `${part({ alg: 'RS256', kid: 'k' })}.${part({})}.YQ.YQ`, 'jwt.malformed'],
    ['an empty key identifier', `${part({ alg: 'RS256', kid: '' })}.${part({})}.YQ`, 'jwt.key_id_missing'],
    ['a key identifier that is a number', `${part({ alg: 'RS256', kid: 7 })}.${part({})}.YQ`, 'jwt.key_id_missing'],
    ['as many characters as may be', 'a'.repeat(16_384), 'jwt.malformed'],
    ['one character more', 'a'.repeat(16_385), 'jwt.too_large'],
  ])('with %s is refused before anything is verified', (_, token, code) => {
    expect(readJws(token)).toMatchObject({ code })
  })

  it('whatever it is made of, is read without an exception', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (text) => void readJws(text)))
  })

  it('is written the same way without the runtime’s own encoding', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 300 }), (bytes) => {
        const text = base64url(bytes)
        expect(base64url(bytes, null)).toBe(text)
        expect([...unbase64url(text)!]).toEqual([...bytes])
        expect([...unbase64url(text, null)!]).toEqual([...bytes])
      }),
    )
  })
})

describe('a keyset', () => {
  const small = generateKeyPairSync('rsa', { modulusLength: 1024 }).publicKey.export({ format: 'jwk' })
  const ec = generateKeyPairSync('ec', { namedCurve: 'P-256' }).publicKey.export({ format: 'jwk' })
  it('gives its usable keys, passing over all others', () => {
    const keys = readKeyset({
      keys: [
        { ...ec, kid: 'a' },
        { ...small, kid: 'b' },
        { ...jwk, kty: 'RSA', kid: 'c', use: 'enc' },
        { ...jwk, kty: 'RSA' },
        { ...jwk, kty: 'RSA', kid: 'good', alg: 'RS256', use: 'sig' },
        null,
        7,
      ],
    })
    expect(keys).toMatchObject([{ kid: 'good' }])
  })
  const bits = (n: number) => {
    const bytes = Buffer.alloc(Math.ceil(n / 8), 0xff)
    bytes[0]! >>= (8 - (n % 8)) % 8
    return bytes.toString('base64url')
  }
  const exponent = (length: number) => Buffer.alloc(length, 3).toString('base64url')
  it.each<[string, Record<string, unknown>, boolean]>([
    ['of 2,048 bits', { n: bits(2048) }, true],
    ['of 2,047 bits', { n: bits(2047) }, false],
    ['of 8,192 bits', { n: bits(8192) }, true],
    ['of 8,193 bits', { n: bits(8193) }, false],
    [
      'of 2,047 bits behind a byte of nought',
      { n: Buffer.concat([Buffer.alloc(1), Buffer.from(bits(2047), 'base64url')]).toString('base64url') },
      false,
    ],
    ['of noughts alone', { n: Buffer.alloc(300).toString('base64url') }, false],
    ['for another algorithm of the same kind', { alg: 'RS512' }, false],
    ['for RS256', { alg: 'RS256' }, true],
    ['with an exponent of eight bytes', { e: exponent(8) }, true],
    ['with an exponent of nine bytes', { e: exponent(9) }, false],
    ['with an even exponent', { e: Buffer.from([1, 0, 2]).toString('base64url') }, false],
    ['with a number for an identifier', { kid: 1 }, false],
  ])('takes or passes over a key %s', (_, change, isTaken) => {
    const keys = readKeyset({ keys: [{ ...jwk, kty: 'RSA', kid: 'one', ...change }] })
    expect('code' in keys ? keys.code : keys.length).toBe(isTaken ? 1 : 'keyset.no_usable_key')
  })
  it('of fifty keys is read', () => {
    const keys = Array.from({ length: 50 }, (_, i) => ({ ...jwk, kty: 'RSA', kid: `k${i}` }))
    expect(readKeyset({ keys })).toHaveLength(50)
  })
  it('whatever it is, gives keys or a problem', () => {
    const key = fc.record(
      { kty: fc.constantFrom('RSA', 'EC', 7), kid: fc.anything(), n: fc.anything(), e: fc.anything(), use: fc.anything(), alg: fc.anything() },
      { requiredKeys: [] },
    ) // oxfmt-ignore
    fc.assert(
      fc.property(fc.oneof(fc.anything(), fc.record({ keys: fc.array(fc.oneof(key, fc.anything())) })), (value) => {
        const read = readKeyset(value)
        expect('code' in read || read.length > 0).toBe(true)
      }),
    )
  })
  it.each<[string, unknown, string]>([
    ['no keyset', { key: [] }, 'keyset.not_a_keyset'],
    ['nothing usable', { keys: [{ ...small, kid: 'b' }] }, 'keyset.no_usable_key'],
    ['an exponent of one', { keys: [{ ...jwk, kty: 'RSA', kid: 'c', e: 'AQ' }] }, 'keyset.no_usable_key'],
    ['too many', { keys: Array.from({ length: 51 }, () => ({})) }, 'keyset.too_many_keys'],
    ['a private key', { keys: [{ ...privateKey.export({ format: 'jwk' }), kid: 'p' }] }, 'keyset.private_key'],
  ])('with %s is refused by name', (_, value, code) => {
    expect(readKeyset(value)).toMatchObject({ code })
  })
})

describe('login hints', () => {
  const key = new Uint8Array(32).fill(7)
  const hint = {
    id: 'abc',
    registrationId: 'r1',
    actorId: 'p1',
    personId: 'p2',
    kind: 'link' as const,
    linkId: 'l1',
    target: 'frame' as const,
    aboutId: '',
    expiresSeconds: 1_800_000_000,
  }
  it('are read as they were written, and only together', () => {
    const hints = writeHints(key, hint)
    expect(readHints([key], hints)).toEqual(hint)
    expect(readHints([key], { ...hints, login: 'other' })).toBeUndefined()
    expect(readHints([new Uint8Array(32)], hints)).toBeUndefined()
  })
  it('cannot be changed in a single character', () => {
    const hints = writeHints(key, hint)
    fc.assert(
      fc.property(fc.nat(hints.message.length - 1), fc.constantFrom(...'ABCxyz019-_.'), (at, character) => {
        const message = hints.message.slice(0, at) + character + hints.message.slice(at + 1)
        if (message !== hints.message) expect(readHints([key], { ...hints, message })).toBeUndefined()
      }),
    )
  })
})

describe('what a tool’s initiation address answers', () => {
  const hints = { login: 'l', message: 'm' }
  const expected = {
    authorizationUrl: 'https://us.example/lti/authorize',
    clientId: 'c1',
    redirectUris: ['https://tool.example/launch'],
    hints,
  }
  const good = {
    scope: 'openid',
    response_type: 'id_token',
    response_mode: 'form_post',
    prompt: 'none',
    client_id: 'c1',
    redirect_uri: 'https://tool.example/launch',
    login_hint: 'l',
    lti_message_hint: 'm',
    nonce: 'n',
    state: 's',
  }
  const judge = (change: Record<string, string>, url = expected.authorizationUrl) =>
    checkInitiation({ url, parameters: { ...good, ...change } }, expected).map((one) => one.verdict)
  it('passes when it is as the standard has it, and is judged point by point when it is not', () => {
    expect(judge({})).toEqual(['pass'])
    expect(judge({}, 'https://elsewhere.example/authorize')).toEqual(['fail'])
    expect(judge({ client_id: 'c2', redirect_uri: 'https://tool.example/other' })).toEqual(['fail', 'fail'])
    expect(judge({ state: '' })).toEqual(['warn'])
    expect(judge({ prompt: 'login' })).toEqual(['fail'])
    expect(checkInitiation(undefined, expected)).toMatchObject([{ verdict: 'fail' }])
  })
  it('shows where a redirect address differs from the nearest one that is registered', () => {
    expect(
      addressDifference('https://tool.example/Launch', ['https://tool.example/launch', 'https://x.example/']),
    ).toContain('from character 22 on it has “launch”, the request “Launch”')
    expect(addressDifference('https://tool.example/launch/', ['https://tool.example/launch'])).toContain('nothing more')
    expect(addressDifference('x', [])).toContain('none is registered')
  })
})

describe('a client assertion', () => {
  const now = 1_800_000_000
  const good = {
    iss: 'c',
    sub: 'c',
    aud: ['other', 'https://us.example/token'],
    iat: now - 5,
    exp: now + 300,
    jti: 'j',
  }
  const check = (change: Record<string, unknown>) =>
    checkAssertion(
      { ...good, ...change },
      { clientId: 'c', audiences: ['https://us.example/token'], nowSeconds: now, leewaySeconds: 60 },
    )
  it('is taken, also with several audiences and clocks that differ by less than the leeway', () => {
    expect(check({})).toEqual({ id: 'j', expiresSeconds: now + 300 })
    expect(check({ exp: now - 30, iat: now - 300 })).toHaveProperty('id')
    expect(check({ iat: now + 30 })).toHaveProperty('id')
  })
  it.each<[string, Record<string, unknown>, string | undefined]>([
    ['over by less than the leeway', { exp: now - 59 }, undefined],
    ['over by the leeway', { exp: now - 60 }, 'assertion.expired'],
    ['good for an hour and the leeway', { exp: now + 3660 }, undefined],
    ['good for longer', { exp: now + 3661 }, 'assertion.lifetime'],
    ['good for ever', { exp: Infinity }, 'assertion.lifetime'],
    ['made ahead by the leeway', { iat: now + 60 }, undefined],
    ['made further ahead', { iat: now + 61 }, 'assertion.issued_in_future'],
    ['to be taken from the leeway on', { nbf: now + 60 }, undefined],
    ['to be taken later', { nbf: now + 61 }, 'assertion.not_yet'],
    ['to be taken from no moment on', { nbf: 'soon' }, 'assertion.not_yet'],
    ['of an identifier of 255 characters', { jti: 'j'.repeat(255) }, undefined],
    ['of one of 256', { jti: 'j'.repeat(256) }, 'assertion.identifier_missing'],
    ['of an empty one', { jti: '' }, 'assertion.identifier_missing'],
    ['of another holder', { sub: 'd' }, 'assertion.issuer'],
    ['for a beginning of our address', { aud: 'https://us.example/toke' }, 'assertion.audience'],
    ['for nobody', { aud: [] }, 'assertion.audience'],
  ])('%s', (_, change, code) => expect((check(change) as { code?: string }).code).toBe(code))
  it.each(['iss', 'sub', 'aud', 'iat', 'exp', 'jti'])('without %s is refused', (name) => {
    expect(check({ [name]: undefined })).toHaveProperty('code')
  })
  it('gets of the scopes asked for those that are granted, each once', () => {
    const score = 'https://purl.imsglobal.org/spec/lti-ags/scope/score'
    expect(grantedScopes(`${score} x ${score}`, [score, 'x'])).toEqual([score])
  })
})

describe('a tool’s description of itself', () => {
  const TOOL = 'https://purl.imsglobal.org/spec/lti-tool-configuration'
  const good = {
    application_type: 'web', client_name: 'Sextant Bench', grant_types: ['implicit', 'client_credentials'], response_types: ['id_token'],
    redirect_uris: ['https://tool.example/launch'], initiate_login_uri: 'https://tool.example/login', jwks_uri: 'https://tool.example/keys',
    token_endpoint_auth_method: 'private_key_jwt', scope: 'openid https://purl.imsglobal.org/spec/lti-ags/scope/score made-up',
    [TOOL]: { domain: 'tool.example', target_link_uri: 'https://tool.example/', custom_parameters: { a: '$User.id' }, claims: ['name'],
      messages: [{ type: 'LtiResourceLinkRequest', placements: ['ContentArea', 'RichTextEditor', 'Elsewhere'] }, { type: 'LtiMadeUpRequest' }] },
  } // oxfmt-ignore
  it('is read whole, with what is not known here named', () => {
    const read = readToolMetadata(good, { strict: true })
    expect(read).toMatchObject({
      name: 'Sextant Bench',
      scopes: ['https://purl.imsglobal.org/spec/lti-ags/scope/score'],
      unknownScopes: ['made-up'],
      unknownMessages: ['LtiMadeUpRequest'],
      messages: [{ places: ['unit_item', 'running_text'] }],
      customParameters: { a: '$User.id' },
    })
  })
  it('goes back as it came, with what was given to it', () => {
    const read = readToolMetadata(good, { strict: true })
    if ('code' in read) throw new Error(read.detail)
    const written = writeToolMetadata(read, { clientId: 'c', deploymentId: 'd', scopes: read.scopes })
    expect(written).toMatchObject({ client_id: 'c', scope: read.scopes.join(' '), [TOOL]: { deployment_id: 'd' } })
    expect(readToolMetadata(written, { strict: true })).toMatchObject({
      name: read.name,
      redirectUris: read.redirectUris,
    })
  })
  it('whatever it is, is read without an exception, all faults at once', () => {
    fc.assert(fc.property(fc.jsonValue(), (value) => void readToolMetadata(value, { strict: true })))
    const wrong = readToolMetadata(
      { ...good, jwks_uri: 7, redirect_uris: 'x', client_name: undefined },
      { strict: true },
    )
    expect('faults' in wrong && wrong.faults.map((fault) => fault.path)).toEqual(
      expect.arrayContaining(['jwks_uri', 'redirect_uris', 'client_name']),
    )
  })
  it.each([
    [undefined, 'is missing'],
    [null, 'is missing'],
    ['', 'is empty'],
    [' \u0007 \n', 'is empty'],
    [7, 'must be text'],
  ])('wants a name that is one: %j', (client_name, message) => {
    const read = readToolMetadata({ ...good, client_name }, { strict: true })
    expect('faults' in read && read.faults).toEqual([{ path: 'client_name', message }])
  })
  it('finds a configuration of ours that says all that it must', () => {
    expect(
      configurationDocument({ issuer: 'https://us.example', version: '1', variables: ['$User.id'] }),
    ).toMatchObject({
      registration_endpoint: 'https://us.example/lti/register',
      'https://purl.imsglobal.org/spec/lti-platform-configuration': {
        variables: ['User.id'],
        messages_supported: expect.arrayContaining([{ type: 'LtiSubmissionReviewRequest' }]) as unknown[],
      },
    })
  })
})

describe('the claims of an access token of ours', () => {
  const claims = accessTokenClaims({ issuer: 'https://us.example', clientId: 'c1', scopes: ['a', 'b'], nowSeconds: 1000, lifetimeSeconds: 3600, id: 'j' }) // oxfmt-ignore
  const check = (change: Record<string, unknown>, nowSeconds = 1000) =>
    checkAccessToken({ ...claims, ...change }, { issuer: 'https://us.example', nowSeconds })

  it('say whose it is and what it opens', () => {
    expect(check({})).toEqual({ clientId: 'c1', scopes: ['a', 'b'], connection: undefined })
    expect(check({ connection: 'k' })).toMatchObject({ connection: 'k' })
    expect(check({}, 4599)).toBeDefined()
  })

  it.each([
    ['another audience, such as a tool', { aud: 'c1' }],
    ['our audience among others', { aud: ['https://us.example', 'c1'] }],
    ['another issuer', { iss: 'https://them.example' }],
    ['no holder', { sub: undefined }],
    ['no scopes', { scope: undefined }],
    ['no end', { exp: undefined }],
    ['an end that is no number', { exp: '9999999999' }],
    ['an end that has come', { exp: 1000 }],
  ])('with %s are none', (_, change) => expect(check(change)).toBeUndefined())
})
