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
  isReviewable,
  isScope,
  launchClaims,
  memberMessage,
  memberView,
  readLineItem,
  readScore,
  reviewClaims,
  rolesAsked,
  scopeNamed,
  SCOPES,
  type Launch13Facts,
} from '@bathyscribe/core/lti13'
import { readReview } from '../src/lti13/line-items.js'
import { decimalOf, momentOf } from '../src/lti13/scores.js'

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/'
const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership'
const LEARNER = [
  `${MEMBERSHIP}#Learner`,
  'http://purl.imsglobal.org/vocab/lis/v2/institution/person#Student',
  'http://purl.imsglobal.org/vocab/lis/v2/system/person#User',
]
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

describe('a score by Assignment and Grade Services', () => {
  const good = {
    userId: 'u',
    timestamp: '2026-11-02T10:00:00.5Z',
    activityProgress: 'Completed',
    gradingProgress: 'FullyGraded',
    scoreGiven: 7.5,
    scoreMaximum: 10,
  }
  it('is read with all that it says', () => {
    expect(readScore(good)).toEqual({
      userId: 'u',
      timestamp: new Date('2026-11-02T10:00:00.500Z'),
      sentAt: '2026-11-02T10:00:00.500000Z',
      activityProgress: 'Completed',
      gradingProgress: 'FullyGraded',
      given: { sent: '7.5', outOf: '10', fraction: '0.75' },
      comment: null,
      submittedAt: null,
      scoringUserId: null,
    })
    expect(readScore({ ...good, comment: ' Good ', scoringUserId: 't', submission: { submittedAt: '2026-11-02T09:00:00+01:00' } })).toMatchObject({
      comment: 'Good',
      scoringUserId: 't',
      submittedAt: new Date('2026-11-02T08:00:00Z'),
    }) // oxfmt-ignore
    for (const none of [undefined, null]) expect(readScore({ ...good, scoreGiven: none, scoreMaximum: none })).toHaveProperty('given', null) // oxfmt-ignore
    expect(readScore({ ...good, scoreGiven: 0 })).toMatchObject({ given: { sent: '0', fraction: '0' } })
    expect(readScore({ ...good, scoreGiven: 12 })).toMatchObject({ given: { fraction: '1.2' } })
    expect(readScore({ ...good, userId: 'u'.repeat(255) })).toHaveProperty('sentAt')
  })
  it.each([
    ['2026-11-02T10:00:00Z', '2026-11-02T10:00:00.000000Z'],
    ['2026-11-02T10:00:00.123456789Z', '2026-11-02T10:00:00.123456Z'],
    ['2026-11-02T10:00:00.1+02:00', '2026-11-02T08:00:00.100000Z'],
    ['2026-11-02T10:00:00.12-0130', '2026-11-02T11:30:00.120000Z'],
  ])('of %s was made at %s', (timestamp, sentAt) => expect(readScore({ ...good, timestamp })).toMatchObject({ sentAt }))
  it.each<[unknown, string, string]>([
    [[], 'score_service.malformed', 'not an object'],
    [null, 'score_service.malformed', 'not an object'],
    [{ ...good, userId: '' }, 'score_service.malformed', 'userId'],
    [{ ...good, userId: 7 }, 'score_service.malformed', 'userId'],
    [{ ...good, userId: 'u'.repeat(256) }, 'score_service.malformed', 'userId'],
    [{ ...good, timestamp: 7 }, 'score_service.timestamp', '“7”'],
    [{ ...good, timestamp: undefined }, 'score_service.timestamp', '“nothing”'],
    [{ ...good, timestamp: '2026-11-02T10:00:00' }, 'score_service.timestamp', '“2026-11-02T10:00:00”'],
    [{ ...good, timestamp: '2026-13-02T10:00:00Z' }, 'score_service.timestamp', '“2026-13-02T10:00:00Z”'],
    [{ ...good, timestamp: 'y'.repeat(70) }, 'score_service.timestamp', `“${'y'.repeat(60)}”`],
    [{ ...good, activityProgress: 'Done' }, 'score_service.progress', 'activityProgress “Done”'],
    [{ ...good, gradingProgress: 'completed' }, 'score_service.progress', 'gradingProgress “completed”'],
    [{ ...good, scoreGiven: '7' }, 'score_service.given', '“7”'],
    [{ ...good, scoreGiven: -1 }, 'score_service.given', '“-1”'],
    [{ ...good, scoreMaximum: 0 }, 'score_service.maximum', '“0”'],
    [{ ...good, scoreMaximum: undefined }, 'score_service.maximum', '“nothing”'],
    [{ ...good, scoreMaximum: [1] }, 'score_service.maximum', '“[1]”'],
  ])('%j is refused by %s: %s', (sent, code, detail) => expect(readScore(sent)).toMatchObject({ code, detail }))
  it.each([
    [0.1, '0.1'],
    [1e-7, '0.0000001'],
    [1e-13, '0'],
    [1_000_000, '1000000'],
    [1_000_001, undefined],
    [-0.1, undefined],
    [NaN, undefined],
    [Infinity, undefined],
    ['1', undefined],
  ])('writes the number %s as %s', (number, text) => expect(decimalOf(number)).toBe(text))
  it.each(['2026-11-02', 'x2026-11-02T10:00:00Z', '2026-11-02T10:00:00Zx', '2026-11-02T10:00:00.Z', '2026-11-02T10:00:00.1234567890Z', '2026-11-02T10:00Z', '20261-11-02T10:00:00Z', '2026-11-02T10:00:00+1', 12, null, undefined])(
    '%j is no moment',
    (value) => expect(momentOf(value)).toBeNull(),
  ) // oxfmt-ignore
})

describe('a column as a tool wants it', () => {
  const good = { label: 'Drills', scoreMaximum: 40 }
  it('is read with all that it says', () => {
    expect(readLineItem(good)).toEqual({
      label: 'Drills',
      points: '40',
      resourceId: null,
      tag: null,
      resourceLinkId: null,
      opensAt: null,
      dueAt: null,
      released: true,
      review: null,
    })
    expect(
      readLineItem({
        ...good,
        resourceId: 'r',
        tag: 't',
        resourceLinkId: 'l',
        startDateTime: '2026-11-02T10:00:00Z',
        endDateTime: '2026-11-03T10:00:00Z',
        gradesReleased: false,
        submissionReview: { reviewableStatus: ['Submitted'], label: 'Look', url: 'https://tool.example/r', custom: { a: 'b', c: 7 } },
      }),
    ).toEqual({
      label: 'Drills',
      points: '40',
      resourceId: 'r',
      tag: 't',
      resourceLinkId: 'l',
      opensAt: new Date('2026-11-02T10:00:00Z'),
      dueAt: new Date('2026-11-03T10:00:00Z'),
      released: false,
      review: { url: 'https://tool.example/r', label: 'Look', statuses: ['Submitted'], custom: { a: 'b' } },
    }) // oxfmt-ignore
    expect(readLineItem({ ...good, scoreMaximum: 100_000 })).toHaveProperty('points', '100000')
    expect(readLineItem({ ...good, startDateTime: null, endDateTime: null })).toHaveProperty('dueAt', null)
  })
  it.each<[unknown, string, string]>([
    [7, 'line_item.malformed', 'not an object'],
    [{ ...good, label: '  ' }, 'line_item.malformed', 'label'],
    [{ ...good, label: 7 }, 'line_item.malformed', 'label'],
    [{ ...good, scoreMaximum: 0 }, 'line_item.maximum', '0'],
    [{ ...good, scoreMaximum: 100_001 }, 'line_item.maximum', '100001'],
    [{ ...good, scoreMaximum: undefined }, 'line_item.maximum', 'null'],
    [{ ...good, scoreMaximum: 'x'.repeat(50) }, 'line_item.maximum', `"${'x'.repeat(39)}`],
    [{ ...good, startDateTime: 'soon' }, 'line_item.malformed', 'startDateTime'],
    [{ ...good, endDateTime: 7 }, 'line_item.malformed', 'endDateTime'],
    [{ ...good, submissionReview: [] }, 'line_item.malformed', 'submissionReview'],
  ])('%j is refused by %s: %s', (sent, code, detail) => expect(readLineItem(sent)).toMatchObject({ code, detail }))
  it.each([
    [{ url: 'ftp://tool.example' }],
    [{ url: 7 }],
    [{ url: `https://tool.example/${'x'.repeat(2000)}` }],
    [{ url: 'x https://tool.example' }],
    [{ reviewableStatus: 'Submitted' }],
    [{ reviewableStatus: ['Submitted', 7] }],
    [{ reviewableStatus: ['Submitted', ' '] }],
    [{ reviewableStatus: Array.from({ length: 21 }, () => 'x') }],
    [7],
  ])('cannot be reviewed by %j', (review) => expect(readReview(review)).toBeUndefined())
  it('may be reviewed without saying more', () => {
    for (const none of [undefined, null]) expect(readReview(none)).toBeNull()
    expect(readReview({})).toEqual({ url: null, label: null, statuses: null, custom: {} })
    expect(readReview({ reviewableStatus: null, url: 'http://tool.example' })).toMatchObject({ statuses: null, url: 'http://tool.example' }) // oxfmt-ignore
    expect(readReview({ reviewableStatus: Array.from({ length: 20 }, () => 'x') })?.statuses).toHaveLength(20)
    const many = Object.fromEntries(Array.from({ length: 60 }, (_, i) => [`n${i}`, 'v']))
    expect(Object.keys(readReview({ custom: many })!.custom)).toHaveLength(50)
  })
  it('can be looked at once the work is as far as the tool says', () => {
    expect(isReviewable({ statuses: null }, null)).toBe(true)
    expect(isReviewable({ statuses: ['Submitted'] }, 'Submitted')).toBe(true)
    expect(isReviewable({ statuses: ['Submitted'] }, 'Started')).toBe(false)
    expect(isReviewable({ statuses: ['Submitted'] }, null)).toBe(false)
  })
})

describe('a member of a roster', () => {
  const member = {
    subject: 'u',
    fullName: 'Aino Adebrandt',
    givenName: 'Aino',
    familyName: 'Adebrandt',
    email: 'aino@skerrow.example',
    sourcedId: 'p',
    courseRole: 'learner',
    siteRole: 'none',
    status: 'Active',
    groups: ['g1', 'g2'],
  } as const
  it('is told as far as the registration allows', () => {
    expect(memberView(member, 'name_and_email', { a: 1 })).toEqual({
      status: 'Active',
      user_id: 'u',
      roles: LEARNER,
      name: 'Aino Adebrandt',
      given_name: 'Aino',
      family_name: 'Adebrandt',
      email: 'aino@skerrow.example',
      lis_person_sourcedid: 'p',
      group_enrollments: [{ group_id: 'g1' }, { group_id: 'g2' }],
      message: [{ a: 1 }],
    })
    expect(memberView({ ...member, groups: [] }, 'opaque')).toEqual({ status: 'Active', user_id: 'u', roles: LEARNER })
  })
  it('that left is told by the identifier alone', () => {
    expect(memberView({ ...member, status: 'Deleted' }, 'name_and_email', { a: 1 })).toEqual({ status: 'Deleted', user_id: 'u', roles: LEARNER }) // oxfmt-ignore
  })
  it('brings what a launch would say beside', () => {
    const message_type = 'LtiResourceLinkRequest'
    expect(memberMessage({})).toEqual({ [`${CLAIM}message_type`]: message_type })
    expect(memberMessage({ a: '' })).toEqual({ [`${CLAIM}message_type`]: message_type, [`${CLAIM}custom`]: { a: '' } })
  })
  it.each([
    ['Instructor', ['instructor', 'teaching_assistant']],
    [`${MEMBERSHIP}#Instructor`, ['instructor', 'teaching_assistant']],
    ['Learner', ['learner', 'test_learner']],
    ['TeachingAssistant', ['teaching_assistant']],
    [`${MEMBERSHIP}#TeachingAssistant`, ['teaching_assistant']],
    [`${MEMBERSHIP}/Instructor#TeachingAssistant`, ['teaching_assistant']],
    ['Mentor', []],
    ['constructor', []],
    ['#Learner', []],
    [`${MEMBERSHIP}Learner`, []],
  ])('is asked for by the role %s as %j', (role, asked) => expect(rolesAsked(role)).toEqual(asked))
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
