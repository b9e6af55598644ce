import {
  accessTokenClaims,
  checkAccessToken,
  claimsAsTheyStand,
  codeVerifies,
  deepLinkingClaims,
  readKeyset,
  isCodeChallenge,
  readDeepLinkingAnswer,
  readHints,
  readJws,
  writeHints,
  type LoginHint,
} from '@bathyscribe/core/lti13'
import { Problem } from '@bathyscribe/core/result'
import { createHash } from 'node:crypto'
import { base64url, unbase64url } from '../src/lti13/jws.js'
import { momentOf } from '../src/lti13/scores.js'
import { describe, expect, it } from 'vitest'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const DL = 'https://purl.imsglobal.org/spec/lti-dl/claim/'
const NOW = 1_790_000_000

describe('a picker is asked', () => {
  const facts = (change: object) =>
    deepLinkingClaims({
      ...{ issuer: 'https://us.example', clientId: 'c1', deploymentId: 'd1', nonce: 'n', nowSeconds: NOW },
      platform: { guid: 'g', name: 'Skerrow', description: '', url: 'https://us.example', contactEmail: '', version: '1' },
      context: { id: 'c1', label: 'HYD 210', title: 'Hydrographic Surveying', sourcedId: null },
      ...{ person: { subject: 'u1', fullName: 'Tomas Okaforlind' }, courseRole: 'instructor', siteRole: 'none' },
      presentation: { target: 'frame', returnUrl: 'https://us.example/r', locale: 'en' },
      ...{ custom: {}, targetLinkUri: 'https://tool.example/pick', returnUrl: 'https://us.example/back', data: 'sealed' },
      ...{ onlyToolLinks: false, multiple: true, acceptsColumn: false, title: '', text: '' },
      ...change,
    })[`${DL}deep_linking_settings`] as Record<string, unknown> // oxfmt-ignore
  it('for whatever can be shown, where that is wanted', () => {
    expect(facts({})).toEqual({
      deep_link_return_url: 'https://us.example/back',
      accept_types: ['ltiResourceLink', 'link', 'file', 'html', 'image'],
      accept_presentation_document_targets: ['iframe', 'window'],
      accept_media_types: 'image/*,text/html,application/pdf,*/*',
      accept_multiple: true,
      accept_lineitem: false,
      auto_create: false,
      data: 'sealed',
    })
  })
  it('for links of its own, with title and text where there are any', () => {
    expect(facts({ onlyToolLinks: true, multiple: false, acceptsColumn: true, title: 'Knots', text: 'Pick' })).toEqual({
      deep_link_return_url: 'https://us.example/back',
      accept_types: ['ltiResourceLink'],
      accept_presentation_document_targets: ['iframe', 'window'],
      accept_multiple: false,
      accept_lineitem: true,
      auto_create: false,
      title: 'Knots',
      text: 'Pick',
      data: 'sealed',
    })
  })
})

describe('an answer of a picker', () => {
  const claims = (change: object = {}) => ({
    ...{ iss: 'c1', aud: 'https://us.example', iat: NOW, exp: NOW + 300, nonce: 'n' },
    [`${CLAIM}message_type`]: 'LtiDeepLinkingResponse',
    [`${CLAIM}version`]: '1.3.0',
    [`${CLAIM}deployment_id`]: 'd1',
    [`${DL}data`]: 'sealed',
    ...change,
  })
  const expected = { clientId: 'c1', issuer: 'https://us.example', deploymentId: 'd1', nowSeconds: NOW, leewaySeconds: 60 } // oxfmt-ignore
  const read = (change: object = {}) => {
    const found = readDeepLinkingAnswer(claims(change), expected)
    return found instanceof Problem ? `${found.code}: ${found.detail}` : found
  }
  it('is taken as it comes', () => {
    expect(read()).toMatchObject({ data: 'sealed', nonce: 'n', expiresSeconds: NOW + 300, message: null, items: [] })
    expect(read({ [`${DL}data`]: 7, [`${DL}msg`]: 'Done' })).toMatchObject({ data: '', message: 'Done' })
  })
  const long = 'x'.repeat(300)
  it.each<[object, string]>([
    [{ iss: 'c2' }, 'picker.claim_wrong: iss is “c2”, expected: “c1”'],
    [{ iss: long }, `picker.claim_wrong: iss is “${long.slice(0, 80)}”, expected: “c1”`],
    [{ aud: ['other'] }, 'picker.claim_wrong: aud is “other”, expected: “https://us.example”'],
    [{ exp: undefined }, 'picker.claim_missing: exp'],
    [{ exp: '1790000300' }, 'picker.claim_wrong: exp is “1790000300”, expected: a time in seconds since 1970'],
    [{ exp: -1 }, 'picker.claim_wrong: exp is “-1”, expected: a time in seconds since 1970'],
    [{ exp: 253_402_300_800 }, 'picker.claim_wrong: exp is “253402300800”, expected: a time in seconds since 1970'],
    [{ iat: undefined }, 'picker.claim_missing: iat'],
    [{ iat: 'now' }, 'picker.claim_wrong: iat is “now”, expected: a time in seconds since 1970'],
    [
      { nbf: NOW + 61 },
      `picker.claim_wrong: nbf is “${NOW + 61}”, expected: a time in seconds since 1970 that is not in the future`,
    ],
    [{ exp: NOW - 61 }, 'picker.expired: 61 seconds ago'],
    [{ iat: NOW + 61 }, 'picker.expired: made 61 seconds in the future'],
    [{ nonce: '' }, 'picker.claim_wrong: nonce is “”, expected: a text of 1 to 255 characters'],
    [{ nonce: 7 }, 'picker.claim_wrong: nonce is “7”, expected: a text of 1 to 255 characters'],
    [
      { nonce: 'n'.repeat(256) },
      `picker.claim_wrong: nonce is “${'n'.repeat(80)}”, expected: a text of 1 to 255 characters`,
    ],
    [{ [`${CLAIM}message_type`]: long }, `picker.wrong_message: ${long.slice(0, 80)}`],
    [{ [`${CLAIM}version`]: '1.3' }, 'picker.claim_wrong: version is “1.3”, expected: “1.3.0”'],
    [{ [`${CLAIM}deployment_id`]: long }, `picker.wrong_deployment: “${long.slice(0, 80)}”`],
    [{ [`${DL}content_items`]: 'none' }, 'picker.items_malformed: content_items is no list'],
  ])('of %j is not', (change, said) => {
    expect(read(change)).toBe(said)
  })
  it.each<[object]>([
    [{ exp: NOW - 60 }],
    [{ iat: NOW + 60 }],
    [{ iat: 0 }],
    [{ nbf: NOW + 60 }],
    [{ exp: 253_402_300_799 }],
    [{ nonce: 'n'.repeat(255) }],
    [{ aud: ['other', 'https://us.example'] }],
  ])('of %j is, at the very edge', (change) => {
    expect(read(change)).not.toBeTypeOf('string')
  })

  const items = (...all: object[]) => {
    const found = readDeepLinkingAnswer(claims({ [`${DL}content_items`]: all }), expected)
    if (found instanceof Problem) throw new Error(found.code)
    return found
  }
  const file = (expiresAt?: string) => ({ type: 'file', url: 'https://tool.example/f.pdf', title: 'F', expiresAt })
  it('has files for as long as they last, and no second longer', () => {
    const at = (seconds: number) => new Date((NOW + seconds) * 1000).toISOString()
    expect(items(file(), file(at(1))).items).toHaveLength(2)
    expect(items(file(at(0)), file(at(-1)), { ...file(at(-1)), type: 'link' }).items).toMatchObject([{ kind: 'address' }]) // oxfmt-ignore
  })
  it('has picture, media type, and a column that is called as the item is where it has no name', () => {
    const link = { type: 'ltiResourceLink', title: 'Splices', mediaType: 'text/html', icon: { url: 'https://tool.example/i.png' }, lineItem: { scoreMaximum: 10 } } // oxfmt-ignore
    const named = { ...link, icon: undefined, mediaType: undefined, url: null, thumbnail: { url: 'https://tool.example/t.png' }, lineItem: { scoreMaximum: 10, label: 'Named' } } // oxfmt-ignore
    const found = items(link, named, { ...link, url: '', lineItem: { scoreMaximum: 10, submissionReview: { reviewableStatus: ['Completed'] } } }).items // oxfmt-ignore
    expect(found).toMatchObject([
      { kind: 'tool_link', url: null, mediaType: 'text/html', iconUrl: 'https://tool.example/i.png', column: { label: 'Splices' } },
      { url: null, mediaType: null, iconUrl: 'https://tool.example/t.png', column: { label: 'Named' } },
      { column: { review: { statuses: ['Completed'] } } },
    ]) // oxfmt-ignore
    expect(found[0]!.column).not.toHaveProperty('review')
  })
  it('says of what kind an item is that nobody knows, shortly', () => {
    expect(items({ type: 'y'.repeat(90) }).problems).toMatchObject([{ detail: `“${'y'.repeat(60)}”` }])
  })
})

describe('hints', () => {
  const key = new Uint8Array(32).fill(1)
  const hint: LoginHint = { id: 'h', registrationId: 'r', actorId: 'a', personId: 'p', kind: 'link', linkId: 'l', target: 'frame', aboutId: '', expiresSeconds: NOW } // oxfmt-ignore
  const back = (change: object, keys = [key]) => readHints(keys, writeHints(key, { ...hint, ...change }))
  it('are those of a link or a picker, in a frame or a window', () => {
    for (const change of [{}, { kind: 'picker' }, { target: 'window' }])
      expect(back(change)).toEqual({ ...hint, ...change })
    for (const change of [{ kind: 'else' }, { target: 'popup' }]) expect(back(change)).toBeUndefined()
  })
  it('are good by any of our keys', () => {
    expect(back({}, [new Uint8Array(32), key])).toEqual(hint)
    expect(back({}, [new Uint8Array(32)])).toBeUndefined()
  })
})

describe('what a token says as it stands', () => {
  const token = (payload: string) => `x.${Buffer.from(payload).toString('base64url')}.y`
  it('is read without a look at anything else', () => {
    expect(claimsAsTheyStand(token('{"sub":"c1"}'))).toEqual({ sub: 'c1' })
    for (const other of ['', 'x', 'x.', token('7'), token('{'), token('{"sub":"\u00e9"}').replace(/\.[^.]*\./, '._w.')])
      expect(claimsAsTheyStand(other)).toBeUndefined()
  })
  it('is not read of one that is longer than any', () => {
    const filled = (length: number) => {
      const start = token('{}')
      return start + 'y'.repeat(length - start.length)
    }
    expect(claimsAsTheyStand(filled(16_384))).toEqual({})
    expect(claimsAsTheyStand(filled(16_385))).toBeUndefined()
  })
  it('is text in UTF-8, and nothing else', () => {
    const part = (bytes: Buffer) => bytes.toString('base64url')
    const payload = Buffer.concat([Buffer.from('{"a":"'), Buffer.from([0xff]), Buffer.from('"}')])
    const head = part(Buffer.from('{"alg":"RS256","kid":"k"}'))
    expect(readJws(`${head}.${part(payload)}.abcd`)).toMatchObject({ code: 'jwt.malformed', detail: 'payload' })
  })
  it('of a kind is told, shortly', () => {
    const part = (value: object) => Buffer.from(JSON.stringify(value)).toString('base64url')
    const typed = (typ: unknown) => readJws(`${part({ alg: 'RS256', kid: 'k'.repeat(300), typ })}.${part({})}.abcd`)
    expect(typed('JWT')).toMatchObject({ type: 'JWT', keyId: 'k'.repeat(200) })
    expect(typed('t'.repeat(90))).toMatchObject({ type: 't'.repeat(80) })
    expect(typed(7)).toMatchObject({ type: '' })
  })
})

describe('an access token of ours', () => {
  const facts = { issuer: 'https://us.example', clientId: 'c1', scopes: ['a', 'b'], nowSeconds: NOW, lifetimeSeconds: 60, id: 'j' } // oxfmt-ignore
  const read = (claims: object) => checkAccessToken(claims as never, { issuer: 'https://us.example', nowSeconds: NOW })
  it('names its connection where it has one', () => {
    expect(accessTokenClaims(facts as never)).not.toHaveProperty('connection')
    const claims = accessTokenClaims({ ...facts, connection: 'k1' } as never)
    expect(claims).toMatchObject({ connection: 'k1' })
    expect(read(claims)).toEqual({ clientId: 'c1', scopes: ['a', 'b'], connection: 'k1' })
    expect(read({ ...claims, connection: 7 })).toMatchObject({ connection: undefined })
  })
})

describe('a proof key', () => {
  const verifier = 'v'.repeat(43)
  const challenge = createHash('sha256').update(verifier).digest('base64url')
  it('is of 43 to 128 letters that need no escape, and nothing besides', () => {
    const good = (text: string) => codeVerifies(text, createHash('sha256').update(text).digest('base64url'))
    expect([43, 128].map((n) => good('v'.repeat(n)))).toEqual([true, true])
    for (const other of ['v'.repeat(42), 'v'.repeat(129), ` ${verifier}`, `${verifier} `])
      expect(good(other)).toBe(false)
  })
  it('has a challenge of 43 letters, and nothing besides', () => {
    expect(isCodeChallenge(challenge)).toBe(true)
    for (const other of [`${challenge}=`, `.${challenge}`, challenge.slice(1)])
      expect(isCodeChallenge(other)).toBe(false)
  })
})

describe('base64url', () => {
  it.each([null, undefined])('is read strictly, by the runtime or without it: %s', (buffer) => {
    const read = (text: string) => (buffer === null ? unbase64url(text, null) : unbase64url(text))
    expect([...read('_-8')!]).toEqual([255, 239])
    for (const other of ['', 'a', 'abcde', 'ab=', ' ab', 'ab ', 'a+b', 'a/b']) expect(read(other)).toBeUndefined()
  })
  it('is written alike by the runtime and without it', () => {
    const bytes = Uint8Array.from({ length: 9000 }, (_, i) => i * 7)
    expect(base64url(bytes, null)).toBe(Buffer.from(bytes).toString('base64url'))
    expect(base64url(bytes)).toBe(Buffer.from(bytes).toString('base64url'))
  })
})

describe('a moment of a score', () => {
  it('is whole, with its zone, and nothing around it', () => {
    expect(momentOf('2026-11-23T12:00:00Z')).toEqual(new Date('2026-11-23T12:00:00Z'))
    for (const other of [' 2026-11-23T12:00:00Z', '2026-11-23T12:00:00Z ', '2026-11-23T12:00:00', 7, null, undefined])
      expect(momentOf(other)).toBeNull()
  })
})

describe('a keyset', () => {
  const good = { kty: 'RSA', kid: 'k', e: 'AQAB', n: Buffer.alloc(256, 255).toString('base64url') }
  const read = (...keys: unknown[]) => {
    const found = readKeyset({ keys })
    return found instanceof Problem ? found.code : found.length
  }
  it('has keys whose every part is there, of its kind', () => {
    expect(read(good)).toBe(1)
    expect(read({ ...good, e: 'Aw' })).toBe(1)
    for (const change of [{ kty: 'EC' }, { n: 7 }, { e: 7 }, { kid: 7 }, { e: 'AQ' }, { e: '' }, { n: '.' }])
      expect(read({ ...good, ...change })).toBe('keyset.no_usable_key')
  })
  it('of a key that was published by mistake names it, shortly', () => {
    const found = readKeyset({ keys: [{ ...good, kid: 'k'.repeat(90), d: 'x' }] })
    expect(found).toMatchObject({ code: 'keyset.private_key', detail: `key “${'k'.repeat(60)}”` })
    expect(readKeyset({ keys: [{ ...good, kid: 'k'.repeat(300) }] })).toMatchObject([{ kid: 'k'.repeat(200) }])
  })
})
