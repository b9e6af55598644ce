import { describe, expect, it } from 'vitest'
import { isReviewable, memberMessage, memberView, readLineItem, readScore, rolesAsked } from '@bathyscribe/core/lti13'
import { readReview } from '../src/lti13/line-items.js'
import { decimalOf, momentOf } from '../src/lti13/scores.js'
import { CLAIM, LEARNER, MEMBERSHIP } from './lti13-names.js'

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
