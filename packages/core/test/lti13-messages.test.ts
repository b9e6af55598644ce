import { createHmac } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  addressDifference,
  bearerToken,
  checkAssertion,
  checkAuthorization,
  grantedScopes,
  holdsScope,
  initiationParameters,
  isScope,
  launchClaims,
  reviewClaims,
  scopeNamed,
  SCOPES,
  type Launch13Facts,
} from '@bathyscribe/core/lti13'
import { CLAIM, LEARNER } from './lti13-names.js'

const AGS = 'https://purl.imsglobal.org/spec/lti-ags/scope/'

const facts: Launch13Facts = {
  issuer: 'https://us.example',
  clientId: 'c1',
  deploymentId: 'd1',
  nonce: 'n1',
  nowSeconds: 1000,
  targetLinkUri: 'https://tool.example/target',
  platform: { guid: 'g', name: 'Skerrow', description: 'An academy', url: 'https://us.example', contactEmail: 'a@b.example', version: '1' },
  context: { id: 'x', label: 'HYD 210', title: 'Surveying', sourcedId: 's' },
  link: { id: 'l', title: 'Noon altitude', description: 'By sextant' },
  person: { subject: 'u', fullName: 'Aino Adebrandt', givenName: 'Aino', familyName: 'Adebrandt', email: 'aino@skerrow.example', sourcedId: 'p' },
  courseRole: 'learner',
  siteRole: 'none',
  presentation: { target: 'frame', returnUrl: 'https://us.example/back', locale: 'en' },
  custom: { level: '3' },
} // oxfmt-ignore

describe('a launch of LTI 1.3', () => {
  it('says all that is known, each in its claim', () => {
    expect(launchClaims(facts)).toEqual({
      iss: 'https://us.example',
      aud: 'c1',
      sub: 'u',
      iat: 1000,
      exp: 1300,
      nonce: 'n1',
      name: 'Aino Adebrandt',
      given_name: 'Aino',
      family_name: 'Adebrandt',
      email: 'aino@skerrow.example',
      locale: 'en',
      [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
      [`${CLAIM}version`]: '1.3.0',
      [`${CLAIM}deployment_id`]: 'd1',
      [`${CLAIM}target_link_uri`]: 'https://tool.example/target',
      [`${CLAIM}roles`]: LEARNER,
      [`${CLAIM}context`]: {
        id: 'x',
        label: 'HYD 210',
        title: 'Surveying',
        type: ['http://purl.imsglobal.org/vocab/lis/v2/course#CourseSection'],
      },
      [`${CLAIM}tool_platform`]: {
        guid: 'g',
        name: 'Skerrow',
        description: 'An academy',
        url: 'https://us.example',
        contact_email: 'a@b.example',
        product_family_code: 'bathyscribe',
        version: '1',
      },
      [`${CLAIM}launch_presentation`]: { document_target: 'iframe', return_url: 'https://us.example/back', locale: 'en' },
      [`${CLAIM}lis`]: { person_sourcedid: 'p', course_section_sourcedid: 's' },
      [`${CLAIM}custom`]: { level: '3' },
      [`${CLAIM}resource_link`]: { id: 'l', title: 'Noon altitude', description: 'By sextant' },
    }) // oxfmt-ignore
  })

  it('leaves out what is empty, but not a custom parameter that is', () => {
    const claims = launchClaims({
      ...facts,
      person: { subject: 'u', fullName: '' },
      context: { id: 'x', label: '', title: 'Surveying', sourcedId: null },
      link: { id: 'l', title: 'Noon', description: '' },
      presentation: { target: 'window', returnUrl: '', locale: 'en' },
      custom: { gone: '' },
      services: { a: 1 },
    })
    expect(Object.keys(claims)).not.toEqual(expect.arrayContaining(['name']))
    expect(claims).not.toHaveProperty(['email'])
    expect(claims).not.toHaveProperty([`${CLAIM}lis`])
    expect(claims).not.toHaveProperty([`${CLAIM}lti1p1`])
    expect(claims[`${CLAIM}context`]).not.toHaveProperty('label')
    expect(claims[`${CLAIM}resource_link`]).toEqual({ id: 'l', title: 'Noon' })
    expect(claims[`${CLAIM}launch_presentation`]).toEqual({ document_target: 'window', locale: 'en' })
    expect(claims[`${CLAIM}custom`]).toEqual({ gone: '' })
    expect(claims['a']).toBe(1)
    expect(launchClaims({ ...facts, custom: {} })).not.toHaveProperty([`${CLAIM}custom`])
  })

  it('of a registration that was one of LTI 1.1 proves that its secret was held', () => {
    const claims = launchClaims({ ...facts, migration: { consumerKey: 'k', sharedSecret: 's' } })
    expect(claims[`${CLAIM}lti1p1`]).toEqual({
      oauth_consumer_key: 'k',
      oauth_consumer_key_sign: createHmac('sha256', 's').update('k&d1&https://us.example&c1&1300&n1').digest('base64'),
    })
  })

  it('that shows a submission names whose it is, as far as that may be seen', () => {
    const about = { person: facts.person, courseRole: 'learner' as const, siteRole: 'none' as const }
    const claims = reviewClaims({ ...facts, courseRole: 'instructor', about })
    expect(claims).toMatchObject({
      [`${CLAIM}message_type`]: 'LtiSubmissionReviewRequest',
      [`${CLAIM}resource_link`]: { id: 'l', title: 'Noon altitude' },
    })
    expect(claims[`${CLAIM}for_user`]).toEqual({
      user_id: 'u',
      name: 'Aino Adebrandt',
      given_name: 'Aino',
      family_name: 'Adebrandt',
      email: 'aino@skerrow.example',
      person_sourcedid: 'p',
      roles: LEARNER,
    })
    const opaque = reviewClaims({ ...facts, about: { ...about, person: { subject: 'u' } } })
    expect(Object.keys(opaque[`${CLAIM}for_user`] as object)).toEqual(['user_id', 'roles'])
  })
})

describe('a login initiation', () => {
  it('has seven parameters, in this order', () => {
    const hints = { login: 'h', message: 'm' }
    expect(initiationParameters({ issuer: 'i', clientId: 'c', deploymentId: 'd', targetLinkUri: 't', hints })).toEqual([
      ['iss', 'i'],
      ['login_hint', 'h'],
      ['target_link_uri', 't'],
      ['lti_message_hint', 'm'],
      ['client_id', 'c'],
      ['lti_deployment_id', 'd'],
      ['lti_storage_target', '_parent'],
    ])
  })
})

describe('an authorisation request', () => {
  const good = {
    response_type: 'id_token',
    scope: 'openid',
    response_mode: 'form_post',
    prompt: 'none',
    nonce: 'n',
    login_hint: 'h',
    lti_message_hint: 'm',
  }
  it('is good as the standard has it', () => {
    expect(checkAuthorization(good)).toBeUndefined()
    for (const scope of ['openid profile', 'email openid', 'a openid b'])
      expect(checkAuthorization({ ...good, scope })).toBeUndefined()
    expect(checkAuthorization({ ...good, state: 'x'.repeat(4000) })).toBeUndefined()
  })
  it.each<[Record<string, string>, string, string]>([
    [{ response_type: 'code' }, 'login.response_type', 'response_type is “code”, not “id_token”'],
    [{ response_type: 'x id_token' }, 'login.response_type', 'response_type is “x id_token”, not “id_token”'],
    [{ response_type: 'id_token token' }, 'login.response_type', 'response_type is “id_token token”, not “id_token”'],
    [{ scope: 'openidx' }, 'login.scope', 'scope is “openidx”, not “openid”'],
    [{ scope: 'xopenid' }, 'login.scope', 'scope is “xopenid”, not “openid”'],
    [{ scope: '' }, 'login.scope', 'scope is “”, not “openid”'],
    [{ response_mode: 'query' }, 'login.parameter_wrong', 'response_mode is “query”, not “form_post”'],
    [{ response_mode: 'xform_post' }, 'login.parameter_wrong', 'response_mode is “xform_post”, not “form_post”'],
    [{ prompt: 'nonesuch' }, 'login.parameter_wrong', 'prompt is “nonesuch”, not “none”'],
    [{ prompt: 'y'.repeat(61) }, 'login.parameter_wrong', `prompt is “${'y'.repeat(60)}”, not “none”`],
    [{ nonce: '' }, 'login.parameter_missing', 'nonce'],
    [{ login_hint: '' }, 'login.parameter_missing', 'login_hint'],
    [{ lti_message_hint: '' }, 'login.parameter_missing', 'lti_message_hint'],
    [{ state: 'x'.repeat(4001) }, 'login.value_too_long', 'state'],
    [{ ['n'.repeat(70)]: 'x'.repeat(4001) }, 'login.value_too_long', 'n'.repeat(60)],
  ])('with %j is refused by %s', (change, code, detail) => {
    expect(checkAuthorization({ ...good, ...change })).toMatchObject({ code, detail })
  })
  it.each(Object.keys(good))('without %s is refused', (name) => {
    const { [name]: _, ...rest } = good as Record<string, string>
    expect(checkAuthorization(rest)?.detail).toContain(name)
  })
  it('is told where its address differs from the nearest one that is registered', () => {
    expect(addressDifference('https://a', [])).toBe('none is registered')
    expect(addressDifference('https://a.example/x', ['https://b.example/', 'https://a.example/y', 'http://a'])).toBe(
      'the nearest registered one is “https://a.example/y”; from character 19 on it has “y”, the request “x”',
    )
    expect(addressDifference('https://a.example/', ['https://a.example'])).toBe(
      'the nearest registered one is “https://a.example”; from character 18 on it has nothing more, the request “/”',
    )
    expect(addressDifference('https://a.example', ['https://a.example/'])).toMatch(
      /from character 18 on it has “\/”, the request nothing more$/,
    )
    const far = `https://a.example/${'z'.repeat(300)}`
    expect(addressDifference('q', [far])).toBe(
      `the nearest registered one is “${far.slice(0, 200)}”; from character 1 on it has “${far.slice(0, 60)}”, the request “q”`,
    )
  })
})

describe('scopes', () => {
  it('are named in full or by their ends', () => {
    expect(scopeNamed('score')).toBe(`${AGS}score`)
    expect(scopeNamed('SCORE')).toBe(`${AGS}score`)
    expect(scopeNamed(`${AGS}score`)).toBe(`${AGS}score`)
    expect(scopeNamed('lineitem')).toBe(`${AGS}lineitem`)
    expect(scopeNamed('lineitem.readonly')).toBe(`${AGS}lineitem.readonly`)
    expect(scopeNamed('roster')).toMatch(/contextmembership\.readonly$/)
    expect(scopeNamed('Groups')).toMatch(/contextgroup\.readonly$/)
    expect(scopeNamed('files')).toBe('urn:bathyscribe:scope:coursefiles.readonly')
    expect(scopeNamed('result')).toBe(`${AGS}result.readonly`)
    for (const none of ['', 'core', 'scores', 'constructor', 'purl.imsglobal.org']) expect(scopeNamed(none)).toBeUndefined() // oxfmt-ignore
    for (const scope of Object.keys(SCOPES)) expect(isScope(scope)).toBe(true)
    expect(isScope('toString')).toBe(false)
  })
  it('hold what they hold, and who may change columns may read them', () => {
    expect(holdsScope([`${AGS}score`], `${AGS}score`)).toBe(true)
    expect(holdsScope([`${AGS}lineitem`], `${AGS}lineitem.readonly`)).toBe(true)
    expect(holdsScope([`${AGS}lineitem.readonly`], `${AGS}lineitem`)).toBe(false)
    expect(holdsScope([`${AGS}lineitem`], `${AGS}score`)).toBe(false)
    expect(holdsScope([], `${AGS}score`)).toBe(false)
    expect(grantedScopes(`${AGS}lineitem.readonly  ${AGS}score`, [`${AGS}lineitem`])).toEqual([`${AGS}lineitem.readonly`]) // oxfmt-ignore
    expect(grantedScopes('', [`${AGS}score`])).toEqual([])
  })
})

describe('a bearer', () => {
  it.each([
    ['Bearer abc', 'abc'],
    ['bearer   a.b-c', 'a.b-c'],
    ['Bearer', undefined],
    ['Bearer ', undefined],
    ['Bearer a b', undefined],
    ['Bearer a\u007f', undefined],
    ['xBearer abc', undefined],
    ['Basic abc', undefined],
    [undefined, undefined],
    [`Bearer ${'a'.repeat(4000)}`, 'a'.repeat(4000)],
    [`Bearer ${'a'.repeat(4001)}`, undefined],
  ])('of %s brings %s', (header, token) => expect(bearerToken(header)).toBe(token))
  it('is as long as it may be', () => {
    expect(bearerToken('Bearer abc', 3)).toBe('abc')
    expect(bearerToken('Bearer abcd', 3)).toBeUndefined()
  })
})

describe('a client assertion that is refused', () => {
  const now = 1_800_000_000
  const good = { iss: 'c', sub: 'c', aud: 'https://us.example/token', iat: now, exp: now + 300, jti: 'j' }
  it.each<[Record<string, unknown>, string]>([
    [{ iss: 'd' }, 'iss “d”, sub “c”'],
    [{ sub: undefined }, 'iss “c”, sub “nothing”'],
    [{ aud: ['a', 7] }, '“["a",7]”'],
    [{ aud: 7 }, '“7”'],
    [{ aud: 'z'.repeat(130) }, `“${'z'.repeat(120)}”`],
    [{ exp: '1' }, 'iat and exp must be seconds since 1970'],
    [{ iat: NaN }, 'iat and exp must be seconds since 1970'],
    [{ iat: '1' }, 'iat and exp must be seconds since 1970'],
    [{ exp: now - 61.4 }, '61 seconds ago'],
    [{ iat: now + 90.6 }, '91 seconds ahead of our clock'],
    [{ nbf: now + 90 }, `nbf “${now + 90}”`],
    [{ nbf: Infinity }, 'nbf “null”'],
    [{ exp: now + 4000 }, '4000 seconds, 3600 at most'],
    [{ jti: 7 }, 'jti'],
  ])('for %j is told: %s', (change, detail) => {
    const expected = { clientId: 'c', audiences: ['https://us.example/token'], nowSeconds: now, leewaySeconds: 60 }
    expect(checkAssertion({ ...good, ...change }, expected)).toMatchObject({ detail })
  })
})
