import { exportJWK, generateKeyPair, SignJWT } from 'jose'
import {
  addressDifference,
  diagnoseConsumerKey,
  identifierDifference,
  compareMessages,
  diagnoseToken as diagnose,
  kindOfToken,
  readObjection,
  readPasted,
  type TokenFacts,
  type VerifyRsa,
} from '@bathyscribe/core/diagnosis'
import type { PublicKey } from '@bathyscribe/core/lti13'
import { constants, createHash, createPrivateKey, createPublicKey, sign, verify } from 'node:crypto'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'

const ISSUER = 'https://lti.skerrow.example'
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const NOW = 1_790_000_000
const pairs: Record<'one' | 'two', { key: Parameters<SignJWT['sign']>[0]; jwk: PublicKey }> = {} as never
const exported: Record<'one' | 'two', unknown> = {} as never
beforeAll(async () => {
  for (const kid of ['one', 'two'] as const) {
    const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true })
    exported[kid] = await exportJWK(privateKey)
    pairs[kid] = { key: privateKey, jwk: { ...(await exportJWK(publicKey)), kid } as PublicKey }
  }
})
const launch = {
  iss: ISSUER,
  aud: 'client-1',
  sub: 'p1',
  nonce: 'n-12345678',
  iat: NOW,
  exp: NOW + 300,
  [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
  [`${CLAIM}version`]: '1.3.0',
  [`${CLAIM}deployment_id`]: 'd1',
  [`${CLAIM}target_link_uri`]: 'https://bench.example/x',
  [`${CLAIM}roles`]: [],
}
const assertion = { iss: 'client-1', sub: 'client-1', aud: `${ISSUER}/lti/token`, iat: NOW, exp: NOW + 60, jti: 'j1' }

type Change = Partial<TokenFacts> & { by?: 'one' | 'two'; kid?: string | null; alg?: string; signed?: boolean }

async function factsOf(claims: Record<string, unknown>, change: Change = {}): Promise<TokenFacts> {
  const { by = 'one', kid = 'one', alg, signed = true, ...rest } = change
  const written = await new SignJWT(claims)
    .setProtectedHeader({ alg: 'RS256', ...(kid !== null && { kid }) })
    .sign(pairs[by].key)
  const pasted = readPasted(written)
  if (pasted.kind !== 'token') throw new Error(pasted.kind)
  const [head, body, signature] = written.split('.') as [string, string, string]
  const broken = `${signature.startsWith('A') ? 'B' : 'A'}${signature.slice(1)}`
  return {
    kind: kindOfToken(pasted.claims),
    header: alg ? { ...pasted.header, alg } : pasted.header,
    claims: pasted.claims,
    token: signed ? written : `${head}.${body}.${broken}`,
    nowSeconds: NOW,
    leewaySeconds: 60,
    issuer: ISSUER,
    tokenUrl: `${ISSUER}/lti/token`,
    earlierIssuers: ['https://old.skerrow.example'],
    tools: [
      { label: 'Sextant Bench', clientId: 'client-1', deployments: ['d1'] },
      { label: 'Signal Mast', clientId: 'client-2', deployments: ['d2'] },
    ],
    asked: null,
    keys: { owner: 'Sextant Bench', now: [pairs.one.jwk, pairs.two.jwk], before: [], readAt: '2026-09-01T00:00:00Z' },
    others: [],
    ...rest,
  }
}

const RSA = { RS: constants.RSA_PKCS1_PADDING, PS: constants.RSA_PKCS1_PSS_PADDING }
const verifyRsa: VerifyRsa = (algorithm, data, signature, jwk) =>
  verify(`sha${algorithm.slice(2)}`, data, { key: createPublicKey({ key: jwk as never, format: 'jwk' }), padding: RSA[algorithm.slice(0, 2) as 'RS' | 'PS'] }, signature) // oxfmt-ignore
const diagnoseToken = (facts: TokenFacts) => diagnose(facts, verifyRsa)

describe('a token of which less is known', () => {
  it('is not judged by the clock where it is not known when it came', async () => {
    const found = diagnoseToken(await factsOf({ ...launch, exp: NOW - 4000, iat: NOW - 4300 }, { nowSeconds: null }))
    expect(found).toMatchObject({ certainty: 'none', causes: [] })
    expect(found.ruledOut).not.toContain('expiry')
    expect(found.ruledOut).not.toContain('time of issue')
    expect(diagnoseToken(await factsOf({ ...launch, exp: NOW * 1000 }, { nowSeconds: null })).causes).toMatchObject([{ code: 'milliseconds' }]) // oxfmt-ignore
  })
  it('that is of another algorithm is not said to be of another key as well', async () => {
    const found = diagnoseToken(await factsOf(launch, { alg: 'RS512', signed: false }))
    expect(found.causes.map((one) => one.code)).toEqual(['algorithm'])
  })
  it('that is good from later on only is no matter of a clock', async () => {
    const later = async (name: 'iat' | 'nbf') =>
      diagnoseToken(await factsOf({ ...launch, exp: NOW + 900, [name]: NOW + 500 })).causes[0]!
    expect((await later('nbf')).sentence).toMatch(/nbf/)
    expect((await later('nbf')).theirs).not.toMatch(/clock/)
    expect((await later('iat')).sentence).toMatch(/clock that made it is ahead/)
  })
  it('that has items is a picker’s answer, whatever it calls itself', () => {
    const items = { 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items': [] }
    expect(kindOfToken({ ...items, [`${CLAIM}message_type`]: 'LtiDeepLinkingRequest', nonce: 'n' })).toBe('picked')
  })
})

describe('a token', () => {
  it.each([
    ['launch', launch],
    ['assertion', assertion],
  ])('that is a good %s has nothing wrong with it', async (kind, claims) => {
    const facts = await factsOf(claims)
    expect(facts.kind).toBe(kind)
    expect(diagnoseToken(facts)).toMatchObject({ certainty: 'none', causes: [] })
  })

  it.each<[string, Record<string, unknown>, Parameters<typeof factsOf>[1]?]>([
    ['algorithm', launch, { alg: 'HS256' }],
    ['issuer', { ...launch, iss: `${ISSUER}/` }],
    ['issuer', { ...launch, iss: 'https://elsewhere.example' }],
    ['audience', { ...launch, aud: 'client-9' }],
    ['audience', { ...assertion, aud: `${ISSUER}/lti/token/` }],
    ['audience', { ...assertion, aud: 'https://elsewhere.example/token' }],
    ['client_unknown', { ...assertion, iss: 'client-9', sub: 'client-9' }],
    ['deployment', { ...launch, [`${CLAIM}deployment_id`]: 'd2' }],
    ['deployment', { ...launch, [`${CLAIM}deployment_id`]: 'd9' }],
    ['key_id_missing', launch, { kid: null }],
    ['key_unknown', launch, { kid: 'rotated', signed: false }],
    ['key_named_otherwise', launch, { kid: 'thumbprint-of-one' }],
    ['signed_by_other_key', launch, { by: 'two' }],
    ['signature', launch, { signed: false }],
    ['expired', { ...launch, exp: NOW - 400 }],
    ['milliseconds', { ...launch, exp: NOW * 1000 }],
    ['expiry_missing', { ...launch, exp: undefined }],
    ['from_the_future', { ...assertion, iat: NOW + 900 }],
    ['claims_missing', { ...assertion, jti: undefined }],
  ])('%s', async (code, claims, change) => {
    const found = diagnoseToken(await factsOf(claims, change))
    expect(found.causes.map((one) => one.code)).toEqual([code])
    expect(found.certainty).toBe('proven')
  })

  it('says when the keyset was last read, and how an address nearly right differs', async () => {
    expect(JSON.stringify(diagnoseToken(await factsOf(launch, { kid: 'rotated' })))).toContain('2026-09-01T00:00:00Z')
    expect(diagnoseToken(await factsOf({ ...assertion, aud: `${ISSUER}/lti/token/` })).sentence).toContain(
      'a slash at the end',
    )
  })

  it('with several faults names every one of them', async () => {
    const found = diagnoseToken(await factsOf({ ...launch, exp: NOW - 400, [`${CLAIM}deployment_id`]: 'd9' }))
    expect(found.causes.map((one) => one.code)).toEqual(['expired', 'deployment'])
    expect(found.sentence).toMatch(/^2 things/)
  })
})

const of = (part: unknown) => Buffer.from(JSON.stringify(part)).toString('base64url')
const privateKey = (by: 'one' | 'two') => createPrivateKey({ key: exported[by] as never, format: 'jwk' })
/** A token that is signed by the first key in a way of its own. */
function signedAs(claims: object, { input = (head: string, body: string) => `${head}.${body}`, write = (signature: Buffer) => signature.toString('base64url'), algorithm = 'RS256', header = { alg: 'RS256', kid: 'one' } } = {}) {
  const [head, body] = [of(header), of(claims)]
  const padding = RSA[algorithm.slice(0, 2) as 'RS' | 'PS']
  const signature = sign(`sha${algorithm.slice(2)}`, Buffer.from(input(head, body)), { key: privateKey('one'), padding })
  return `${head}.${body}.${write(signature)}`
} // oxfmt-ignore
const json = (part: string) => Buffer.from(part, 'base64url').toString()
const again = (write: (value: object) => string) => (head: string, body: string) =>
  `${head}.${Buffer.from(write(JSON.parse(json(body)) as object)).toString('base64url')}`
const padded = (part: string) => part + '='.repeat((4 - (part.length % 4)) % 4)

describe('a token whose signature is of something else than what was sent', () => {
  const named = { ...launch, name: 'Zoë', nested: { b: 1, a: [1, 2] } }
  it.each<[string, Parameters<typeof signedAs>[1], RegExp]>([
    ['padded parts', { input: (head, body) => `${padded(head)}.${padded(body)}` }, /with “=”/],
    ['parts before they were encoded', { input: (head, body) => `${json(head)}.${json(body)}` }, /before they were encoded/],
    ['the claims alone', { input: (_, body) => body }, /the claims alone/],
    ['a line end behind', { input: (head, body) => `${head}.${body}\n` }, /line end/],
    ['claims over several lines', { input: again((value) => JSON.stringify(value, null, 2)) }, /indented by two/],
    ['claims with escaped slashes', { input: again((value) => JSON.stringify(value).replaceAll('/', '\\/')) }, /slashes/],
    ['claims with blanks', { input: again((value) => JSON.stringify(value).replaceAll('":', '": ').replaceAll(',"', ', "').replaceAll('[1,2]', '[1, 2]')) }, /spaces after/],
    ['a signature in hexadecimal', { write: (signature) => signature.toString('hex') }, /in hexadecimal/],
    ['a signature in base64 of hexadecimal', { write: (signature) => Buffer.from(signature.toString('hex')).toString('base64url') }, /base64 of hexadecimal/],
    ['a signature in base64 twice', { write: (signature) => Buffer.from(signature.toString('base64')).toString('base64url') }, /base64 twice/],
  ])('is told what of: %s', async (_, how, said) => {
    const found = diagnoseToken({ ...(await factsOf(named)), token: signedAs(named, how) })
    expect(found.causes.map(({ code }) => code)).toEqual(['token_signed_otherwise'])
    expect(found.sentence).toMatch(said)
    expect(found.certainty).toBe('proven')
  }) // oxfmt-ignore

  it.each(['RS384', 'RS512', 'PS256', 'PS384', 'PS512'])('is told the algorithm, whatever the header says: %s', async (algorithm) => {
    const token = signedAs(launch, { algorithm })
    expect(diagnoseToken({ ...(await factsOf(launch)), token })).toMatchObject({ certainty: 'proven', causes: [{ code: 'algorithm_named_otherwise', sentence: expect.stringContaining(algorithm) as string }] })
    const found = diagnoseToken({ ...(await factsOf(launch, { alg: algorithm })), token })
    expect(found.causes.map(({ code }) => code)).toEqual(['algorithm'])
    expect(JSON.stringify(found.causes[0]!.evidence)).toContain(`“one”, ${algorithm}`)
  }) // oxfmt-ignore

  it('and its claims nested deeper than any are, is not read', () => {
    const deep = Buffer.from(`{"iss":"x","aud":${'['.repeat(9000)}${']'.repeat(9000)}}`).toString('base64url')
    expect(readPasted(`${of({ alg: 'RS256' })}.${deep}.c2ln`).kind).toBe('unreadable')
    expect(readPasted(`{"iss":"x","aud":${'['.repeat(90_000)}${']'.repeat(90_000)}}`).kind).toBe('unreadable')
  })
})

describe('the key of a token', () => {
  const thumbprint = () => {
    const { e, kty, n } = pairs.one.jwk
    return createHash('sha256').update(JSON.stringify({ e, kty, n })).digest()
  }
  it.each<[string, () => string, RegExp]>([
    ['its thumbprint', () => thumbprint().toString('base64url'), /: by its thumbprint\./],
    ['its thumbprint in hexadecimal', () => thumbprint().toString('hex'), /: by its thumbprint\./],
    ['other capitals', () => 'ONE', /: other capital letters/],
    ['a blank behind', () => 'one ', /: spaces or invisible/],
    ['another name', () => 'signing-key', /than the keyset does\.$/],
  ])('under another name is told how: %s', async (_, kid, said) => {
    const found = diagnoseToken(await factsOf(launch, { kid: kid() }))
    expect(found).toMatchObject({ certainty: 'proven', causes: [{ code: 'key_named_otherwise' }] })
    expect(found.sentence).toMatch(said)
  })

  it('that was published before is told by when it was, whether it signed or was only named', async () => {
    const before = [{ key: pairs.one.jwk, until: '2026-10-01T00:00:00Z' }]
    const keys = { owner: 'Sextant Bench', now: [pairs.two.jwk], before, readAt: null }
    const signed = diagnoseToken(await factsOf(launch, { keys }))
    expect(signed).toMatchObject({ certainty: 'proven', causes: [{ code: 'key_withdrawn' }] })
    expect(JSON.stringify(signed.causes[0]!.evidence)).toContain('2026-10-01')
    const named = diagnoseToken(await factsOf(launch, { keys, signed: false }))
    expect(named).toMatchObject({ causes: [{ code: 'key_unknown', sentence: expect.stringContaining('before') as string }] })
  }) // oxfmt-ignore

  it('that is of another registration names it', async () => {
    const keys = { owner: 'Sextant Bench', now: [pairs.two.jwk], before: [], readAt: null }
    const others = [{ key: pairs.one.jwk, owner: 'Signal Mast' }]
    expect(diagnoseToken(await factsOf(assertion, { keys, others }))).toMatchObject({
      certainty: 'proven',
      sentence: 'The token is signed by a key of Signal Mast, and not of Sextant Bench.',
      causes: [{ code: 'key_of_another' }],
    })
    const stranger = { ...assertion, iss: 'nobody', sub: 'nobody' }
    const found = diagnoseToken(await factsOf(stranger, { keys: null, others }))
    expect(found.causes).toMatchObject([{ code: 'client_unknown' }])
    expect(found.causes[0]!.evidence).toContainEqual(['signed by', 'a key of Signal Mast'])
  })
})

describe('what a token says that is nearly right', () => {
  const client = 'f3a9c1d2-77aa'
  const tools = [
    { label: 'Sextant Bench', clientId: client, deployments: ['deck-4-harbour'] },
    { label: 'Signal Mast', clientId: 'client-2', deployments: ['d2'] },
  ]
  const good = { ...launch, aud: client, [`${CLAIM}deployment_id`]: 'deck-4-harbour' }
  const mine = { ...assertion, iss: client, sub: client }
  const picked = { ...good, iss: client, aud: ISSUER, [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse', 'https://purl.imsglobal.org/spec/lti-dl/claim/content_items': [], 'https://purl.imsglobal.org/spec/lti-dl/claim/data': 'd' } // oxfmt-ignore
  it.each<[string, Record<string, unknown>, string, RegExp]>([
    ['client, cut off', { ...good, aud: client.slice(0, 9) }, 'audience', /cut off after 9 of 13 characters/],
    ['client, in capitals', { ...good, aud: client.toUpperCase() }, 'audience', /other capital letters, at character 1/],
    ['client, one character other', { ...good, aud: client.replace('c1', 'c7') }, 'audience', /at character 6 “7” in place of “1”/],
    ['client, two exchanged', { ...good, aud: client.replace('77aa', '7a7a') }, 'audience', /at character 11 “a” in place of “7”/],
    ['client, blank behind', { ...mine, iss: `${client} `, sub: `${client} ` }, 'client_unknown', /client identifier of Sextant Bench: spaces/],
    ['client, in quotes', { ...mine, iss: `"${client}"`, sub: `"${client}"` }, 'client_unknown', /quotes around it/],
    ['subject left out', { ...mine, sub: undefined }, 'subject', /has no subject/],
    ['subject of another', { ...mine, sub: 'client-2' }, 'subject', /its subject is Signal Mast/],
    ['deployment, one left out', { ...good, [`${CLAIM}deployment_id`]: 'deck-4-harbor' }, 'deployment', /nearly one of Sextant Bench: at character 13/],
    ['deployment left out of a picker’s answer', { ...picked, [`${CLAIM}deployment_id`]: undefined }, 'deployment', /names no deployment/],
    ['issuer of before', { ...good, iss: 'https://old.skerrow.example' }, 'earlier_address', /was run before; it is https:\/\/lti/],
    ['token address of before', { ...mine, aud: 'https://old.skerrow.example/lti/token' }, 'earlier_address', /was run before/],
    ['token address for an answer', { ...picked, aud: `${ISSUER}/lti/token` }, 'audience', /nearly ours|our issuer/],
    ['version', { ...picked, [`${CLAIM}version`]: '1.3' }, 'version', /“1.3”; it must be “1.3.0”/],
    ['message type', { ...picked, [`${CLAIM}message_type`]: 'LtiDeepLinkingRequest' }, 'message_type', /LtiDeepLinkingResponse/],
    ['data left out', { ...picked, 'https://purl.imsglobal.org/spec/lti-dl/claim/data': undefined }, 'claims_missing', /: data\./],
    ['iat in milliseconds', { ...mine, iat: NOW * 1000 }, 'milliseconds', /“iat” is in milliseconds/],
    ['all in milliseconds', { ...mine, iat: NOW * 1000, exp: NOW * 1000 + 60_000 }, 'milliseconds', /times are in milliseconds/],
    ['times as text', { ...mine, iat: String(NOW), exp: String(NOW + 60) }, 'times_as_text', /“exp” and “iat” are texts/],
    ['good for a day', { ...mine, exp: NOW + 86_400 }, 'good_for_too_long', /86400 seconds; 3600 at most/],
  ])('is told by where it differs: %s', async (_, claims, code, said) => {
    const kind = kindOfToken(claims, { issuer: ISSUER, tokenUrl: `${ISSUER}/lti/token` })
    const found = diagnoseToken(await factsOf(claims, { kind, tools }))
    expect(found.causes.map((one) => one.code), found.sentence).toContain(code)
    expect(found.causes.find((one) => one.code === code)!.sentence).toMatch(said)
    expect(found.certainty).toBe('proven')
  }) // oxfmt-ignore

  it('is nothing where another was meant', () => {
    for (const [given, expected] of [['d1', 'd2'], ['client-1', 'elsewhere'], ['abcdef', 'abc'], ['', 'client-1'], ['same-one', 'same-one']])
      expect(identifierDifference(given!, expected!)).toBeUndefined()
  }) // oxfmt-ignore
  it('is found for whatever one edit makes of an identifier', () => {
    const edit = fc.tuple(fc.stringMatching(/^[a-z0-9-]{8,20}$/), fc.nat(7), fc.constantFrom('out', 'twice', 'other'))
    fc.assert(
      fc.property(edit, ([text, at, what]) => {
        const made = text.slice(0, at) + { out: '', twice: text[at]! + text[at]!, other: '~' }[what]! + text.slice(at + 1)
        if (made !== text) expect(identifierDifference(made, text)).toMatch(/at character|behind it|cut off/)
      }),
    )
  }) // oxfmt-ignore

  it('of a picker’s answer that another tool gave is told by whom it was asked', async () => {
    const answer = { ...picked, iss: 'client-2', [`${CLAIM}deployment_id`]: 'd2' }
    const found = diagnoseToken(await factsOf(answer, { tools, asked: tools[0]! }))
    expect(found.causes[0]).toMatchObject({ code: 'other_registration', sentence: 'The token is one of Signal Mast, and Sextant Bench was asked.' }) // oxfmt-ignore
  })
})

describe('a token that is written otherwise', () => {
  it.each<[string, (token: string) => string, RegExp]>([
    ['padding', (token) => token.split('.').map(padded).join('.'), /with “=”/],
    ['the other alphabet', (token) => token.replaceAll('-', '+').replaceAll('_', '/'), /“\+” and “\/”/],
    ['line ends', (token) => token.replace(/.{76}/g, '$&\n'), /spaces or line ends/],
    ['escapes', (token) => token.replaceAll('.', '%2E'), /escaped/],
  ])('is told how: %s', async (what, spoil, said) => {
    const facts = await factsOf({ ...launch, name: '~~???>>>~~~ü' })
    const found = diagnoseToken({ ...facts, token: spoil(facts.token) })
    expect(found.causes[0]).toMatchObject({ code: 'token_form', sentence: expect.stringMatching(said) as string })
    // What copying adds is taken off again.
    expect(readPasted(spoil(facts.token)).kind, what).toBe('token')
  })
})

describe('a consumer key that is not the right one', () => {
  const ours = { label: 'Sextant Bench', consumerKey: 'skerrow-knots' }
  const others = [{ label: 'Signal Mast', consumerKey: 'mast-1' }]
  it.each([
    ['mast-1', ours, 'key_of_another', /that of Signal Mast, and the message belongs to Sextant Bench/],
    ['mast-1', null, 'key_of_another', /that of Signal Mast\./],
    ['Skerrow-Knots', ours, 'key_nearly', /other capital letters/],
    ['skerrow-knots ', ours, 'key_nearly', /spaces/],
    ['skerrow-knot', null, undefined, /no registration/],
    ['mast-1 ', null, 'key_nearly', /nearly that of Signal Mast/],
  ] as const)('“%s” is told apart', (given, expected, code, said) => {
    const found = diagnoseConsumerKey({ given, expected, others })
    expect(found.causes.map((one) => one.code)).toEqual(code ? [code] : [])
    expect(found.sentence).toMatch(said)
  })
})

describe('a pasted message', () => {
  const base = 'POST&https%3A%2F%2Ft.example%2Flaunch&a%3D1%26oauth_nonce%3Dabc%26title%3DSheet%2520bend'
  it.each([
    ['eyJhbGciOiJSUzI1NiJ9.eyJpc3MiOiJhIn0.c2ln', 'token'],
    ['Bearer eyJhbGciOiJSUzI1NiJ9.eyJpc3MiOiJhIn0.', 'token'],
    ['id_token=eyJhbGciOiJSUzI1NiJ9.eyJpc3MiOiJhIn0.c2ln&state=x', 'token'],
    [base, 'base_string'],
    ['oauth_nonce=abc&lti_version=LTI-1p0&title=Sheet+bend', 'form'],
    ['oauth_nonce: abc\nlti_version: LTI-1p0', 'form'],
    ['<form action="https://t.example/launch"><input name="lti_version" value="LTI-1p0"></form>', 'form'],
    ['Authorization: OAuth oauth_consumer_key="k", oauth_nonce="abc"', 'form'],
    ['', 'unreadable'],
    ['hello', 'unreadable'],
    ['eyJhbGciOiJSUz', 'unreadable'],
    ['eyJhbGciOiJSUzI1NiJ9.eyJpc3MiOi', 'unreadable'],
    [base.slice(0, 30), 'unreadable'],
    [base.slice(0, base.length - 1), 'base_string'],
    ['x'.repeat(2_000_001), 'unreadable'],
  ])('%# is a message of its kind', (text, kind) => {
    expect(readPasted(text).kind).toBe(kind)
  })

  it('of any text at all is read without a fault', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.string().map((one) => `eyJ${one}.${one}.${one}`),
          fc.string().map((one) => `POST&${one}&${one}`),
        ),
        (text) => {
          const pasted = readPasted(text)
          if (pasted.kind === 'unreadable') expect(pasted.why).toMatch(/\.$/)
        },
      ),
    )
  })

  it('is held against what was sent: address and parameters that differ are named', () => {
    const pasted = readPasted(base)
    if (pasted.kind !== 'base_string') throw new Error(pasted.kind)
    expect(
      compareMessages(pasted, {
        address: 'http://t.example/launch?a=1',
        parameters: [
          ['a', '1'],
          ['oauth_nonce', 'abc'],
          ['title', 'Sheet  bend'],
          ['oauth_signature', 'x'],
        ],
      }),
    ).toEqual([
      { part: 'address', theirs: 'https://t.example/launch', ours: 'http://t.example/launch' },
      { part: 'title', theirs: 'Sheet bend', ours: 'Sheet  bend' },
    ])
  })
})

it.each([
  ['https://a.example/x', 'http://a.example/x', 'https in place of http'],
  ['https://a.example/x/', 'https://a.example/x', 'a slash at the end that was not registered'],
  ['https://a.example/x', 'https://a.example/x/', 'the slash at the end left out'],
  ['https://a.example/', 'https://a.example', 'a slash at the end that was not registered'],
  ['https://a.example', 'https://a.example/', 'the slash at the end left out'],
  ['https://a.example/x#y', 'https://a.example/x', 'a part behind “#”'],
  ['https://a.example/x ', 'https://a.example/x', 'spaces around it'],
  ['https://A.example/x', 'https://a.example/x', 'capital letters in the host'],
  ['https://a.example:8443/x', 'https://a.example/x', 'port 8443 that was not registered'],
  ['https://a.example/X', 'https://a.example/x', 'capital letters in the path'],
  ['https://a.example/x?y=1', 'https://a.example/x', 'a query that was not registered'],
  ['http://b.example/x', 'https://a.example/x', 'http in place of https; host “b.example” in place of “a.example”'],
])('the address %s differs from %s by %s', (given, expected, difference) => {
  expect(addressDifference(given, expected)).toBe(difference)
  expect(addressDifference(expected, expected)).toBeUndefined()
})

it.each([
  ['Sorry. The OAuth signature did not verify. Try again.', 'signature'],
  ['This nonce was used before', 'nonce'],
  ['Timestamp too old', 'clock'],
  ['Unknown deployment', 'deployment'],
  ['We could not find your session cookie', 'state'],
  ['Missing claim: deployment_id', 'deployment'],
  ['The parameter resource_link_id is missing', 'link'],
  ['Only instructors may open this', 'roles'],
  ['Key not found', 'key'],
  ['User not found', 'person'],
  ['Activity 12 was not found', 'link'],
  ['Invalid state: your session has expired', 'state'],
  ['The signing key has expired', 'signature'],
  ['The launch request has expired', 'clock'],
  ['Die Signatur stimmt nicht', 'signature'],
  ['Der Schlüssel „knots“ ist unbekannt', 'key'],
  ['Die Anfrage ist abgelaufen', 'clock'],
  ['Benutzer wurde nicht gefunden', 'person'],
  ['La firma no coincide', 'signature'],
  ['La clave “knots” es desconocida', 'key'],
  ['La marca de tiempo es demasiado antigua', 'clock'],
  ['Sólo para profesores', 'roles'],
  ['La clé “knots” est inconnue', 'key'],
  ['L’horodatage est trop ancien', 'clock'],
  ['Émetteur inconnu', 'issuer'],
  ['Réservé aux enseignants', 'roles'],
  ['A assinatura não confere', 'signature'],
  ['A chave “knots” é desconhecida', 'key'],
  ['Sessão expirada', 'state'],
  ['Conteúdo não encontrado', 'link'],
])('a tool that says “%s” objects to the %s', (words, about) => {
  expect(readObjection(words)?.about).toBe(about)
})

it('words that say nothing known are left alone', () => {
  for (const words of [
    'Good morning',
    'The client certificate expired',
    'Course is in the state “closed”',
    'Es ist 10:15 Uhr',
    'Firma Bolzano & Söhne',
  ])
    expect(readObjection(words), words).toBeUndefined()
})
