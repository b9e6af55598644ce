import { exportJWK, generateKeyPair, SignJWT } from 'jose'
import {
  addressDifference,
  compareMessages,
  diagnoseToken,
  kindOfToken,
  readObjection,
  readPasted,
  supportLetter,
  type TokenFacts,
} from '@bathyscribe/core/diagnosis'
import { readJws, verifyJws, type PublicKey } from '@bathyscribe/core/lti13'
import { createPublicKey, verify } from 'node:crypto'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'

const ISSUER = 'https://lti.skerrow.example'
const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const NOW = 1_790_000_000
const pairs: Record<'one' | 'two', { key: Parameters<SignJWT['sign']>[0]; jwk: PublicKey }> = {} as never
beforeAll(async () => {
  for (const kid of ['one', 'two'] as const) {
    const { privateKey, publicKey } = await generateKeyPair('RS256', { extractable: true })
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

async function factsOf(
  claims: Record<string, unknown>,
  change: Partial<TokenFacts> & { by?: 'one' | 'two'; kid?: string | null; alg?: string } = {},
): Promise<TokenFacts> {
  const { by = 'one', kid = 'one', alg, ...rest } = change
  const token = await new SignJWT(claims)
    .setProtectedHeader({ alg: 'RS256', ...(kid !== null && { kid }) })
    .sign(pairs[by].key)
  const pasted = readPasted(token)
  if (pasted.kind !== 'token') throw new Error(pasted.kind)
  const keys = [pairs.one.jwk, pairs.two.jwk]
  const jws = readJws(token)
  const signedBy =
    'code' in jws
      ? null
      : (keys.find(
          (key) =>
            !verifyJws({ ...jws, keyId: key.kid }, [key], (data, signature, jwk) =>
              verify('RSA-SHA256', data, createPublicKey({ key: jwk as never, format: 'jwk' }), signature),
            ),
        )?.kid ?? null)
  return {
    kind: kindOfToken(pasted.claims),
    header: alg ? { ...pasted.header, alg } : pasted.header,
    claims: pasted.claims,
    nowSeconds: NOW,
    leewaySeconds: 60,
    issuer: ISSUER,
    tokenUrl: `${ISSUER}/lti/token`,
    tools: [
      { label: 'Sextant Bench', clientId: 'client-1', deployments: ['d1'] },
      { label: 'Signal Mast', clientId: 'client-2', deployments: ['d2'] },
    ],
    keys: { owner: 'Sextant Bench', ids: ['one', 'two'], readAt: '2026-09-01T00:00:00Z' },
    signedBy,
    ...rest,
  }
}

describe('a token of which less is known', () => {
  it('is not judged by the clock where it is not known when it came', async () => {
    const found = diagnoseToken(await factsOf({ ...launch, exp: NOW - 4000, iat: NOW - 4300 }, { nowSeconds: null }))
    expect(found).toMatchObject({ certainty: 'none', causes: [] })
    expect(found.ruledOut).not.toContain('expiry')
    expect(found.ruledOut).not.toContain('time of issue')
    expect(diagnoseToken(await factsOf({ ...launch, exp: NOW * 1000 }, { nowSeconds: null })).causes).toMatchObject([{ code: 'milliseconds' }]) // oxfmt-ignore
  })
  it('that is of another algorithm is not said to be of another key as well', async () => {
    const found = diagnoseToken(await factsOf(launch, { alg: 'RS512', signedBy: null }))
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
    ['key_unknown', launch, { kid: 'rotated', signedBy: null }],
    ['key_named_otherwise', launch, { kid: 'thumbprint-of-one' }],
    ['signed_by_other_key', launch, { by: 'two' }],
    ['signature', launch, { signedBy: null }],
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
  ])('%.40s … is a %s', (text, kind) => {
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
  ['https://a.example/x ', 'https://a.example/x', 'blanks around it'],
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

it('the letter to the tool’s support has what shows it and what is asked, and no more', async () => {
  const found = diagnoseToken(await factsOf({ ...launch, iss: `${ISSUER}/` }))
  const letter = supportLetter(found, {
    tool: 'Sextant Bench',
    what: 'a launch was refused',
    at: '2026-09-01T08:00:00Z',
    reference: 'wire entry 42',
    from: 'Skerrow Maritime Academy',
  })
  expect(letter).toContain('wire entry 42')
  expect(letter).toContain(`ours: ${ISSUER}`)
  expect(letter).toContain('What we ask of you:')
})
