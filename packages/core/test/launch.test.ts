import { createHmac } from 'node:crypto'
import OAuth from 'oauth-1.0a'
import { describe, expect, it } from 'vitest'
import { disclose, DISCLOSURES, lti1Roles } from '@bathyscribe/core/identity'
import { customParameters, launchParameters, signLaunch, type LaunchFacts } from '@bathyscribe/core/lti1'

const person = {
  subject: 's-1',
  givenName: 'Niamh',
  familyName: "O'Drevnakh",
  fullName: "Niamh O'Drevnakh",
  email: 'n@skerrow.example',
  sourcedId: 'sk-7',
}
const facts: LaunchFacts = {
  platform: {
    guid: 'p.example',
    name: 'Skerrow',
    description: 'Skerrow',
    url: 'https://p.example',
    contactEmail: '',
    version: '1',
  },
  context: { id: 'c1', label: 'HYD 210', title: 'Hydrographic Surveying', sourcedId: null },
  link: { id: 'l1', title: 'Soundings', description: 'First line\nsecond line' },
  person: disclose(person, 'name_and_email'),
  courseRole: 'learner',
  siteRole: 'none',
  presentation: { target: 'frame', returnUrl: 'https://p.example/lti/return/x', locale: 'en' },
  outcome: { serviceUrl: 'https://p.example/lti/outcomes', resultId: 'r1' },
  custom: { drill: 'soundings', 'Chart.No': '7' },
}
const sent = (change: Partial<LaunchFacts> = {}) => Object.fromEntries(launchParameters({ ...facts, ...change }))

describe('launch message', () => {
  it('says everything that LTI 1.1 requires of it', () => {
    expect(sent()).toMatchObject({
      lti_message_type: 'basic-lti-launch-request',
      lti_version: 'LTI-1p0',
      resource_link_id: 'l1',
      user_id: 's-1',
      roles: 'Learner',
      context_id: 'c1',
      context_type: 'CourseSection',
      launch_presentation_document_target: 'iframe',
      lis_outcome_service_url: 'https://p.example/lti/outcomes',
      lis_result_sourcedid: 'r1',
    })
  })

  it('leaves out what is empty', () => {
    expect(Object.values(sent({ link: { id: 'l1', title: '', description: '' } }))).not.toContain('')
    expect(sent()).not.toHaveProperty('tool_consumer_instance_contact_email')
  })

  it('gives an instructor the service but no result identifier', () => {
    const instructor = sent({
      courseRole: 'instructor',
      outcome: { serviceUrl: 'https://p.example/o', resultId: null },
    })
    expect(instructor).toHaveProperty('lis_outcome_service_url')
    expect(instructor).not.toHaveProperty('lis_result_sourcedid')
  })

  const identity = [
    'lis_person_name_given',
    'lis_person_name_family',
    'lis_person_name_full',
    'lis_person_sourcedid',
    'lis_person_contact_email_primary',
  ]
  it.each([
    ['opaque', []],
    ['name', identity.slice(0, 4)],
    ['email', identity.slice(4)],
    ['name_and_email', identity],
  ] as const)('tells a tool that may see “%s” no more than that', (limit, names) => {
    const message = sent({ person: disclose(person, limit) })
    expect(identity.filter((name) => name in message)).toEqual(names)
    expect(message['user_id']).toBe('s-1')
    expect(DISCLOSURES).toContain(limit)
  })

  it('sends a custom name that had to be changed in both forms', () => {
    expect(customParameters({ 'Chart.No': '7', plain: 'x' })).toEqual([
      ['custom_chart_no', '7'],
      ['custom_Chart.No', '7'],
      ['custom_plain', 'x'],
    ])
  })

  it.each([
    ['instructor', 'none', 'Instructor'],
    ['teaching_assistant', 'none', 'urn:lti:role:ims/lis/TeachingAssistant'],
    ['test_learner', 'none', 'Learner'],
    ['learner', 'administrator', 'Learner'],
    [
      undefined,
      'administrator',
      'Instructor,urn:lti:sysrole:ims/lis/Administrator,urn:lti:instrole:ims/lis/Administrator',
    ],
  ] as const)('writes the roles of %s / %s', (courseRole, siteRole, roles) => {
    expect(lti1Roles(courseRole, siteRole)).toBe(roles)
  })
})

describe('signed launch', () => {
  const url = 'https://tool.example/launch?set=a%20b&x=1'
  const options = {
    consumerKey: 'k',
    sharedSecret: 's&c',
    signatureMethod: 'HMAC-SHA1',
    timestampSeconds: 1_700_000_000,
    nonce: 'n',
  } as const

  it('is verified by a general library, as a browser posts it', () => {
    const fields = Object.fromEntries(signLaunch(url, launchParameters(facts), options))
    const { oauth_signature: signature, ...data } = fields
    const library = new OAuth({
      consumer: { key: 'k', secret: 's&c' },
      signature_method: 'HMAC-SHA1',
      hash_function: (text, key) => createHmac('sha1', key).update(text).digest('base64'),
    })
    expect(library.getSignature({ url, method: 'POST', data }, undefined, {} as OAuth.Data)).toBe(signature)
    expect(fields['oauth_callback']).toBe('about:blank')
    expect(fields).not.toHaveProperty('set')
  })

  it('signs line breaks as browsers send them', () => {
    const fields = Object.fromEntries(signLaunch(url, [['resource_link_description', 'a\nb\r\nc\rd']], options))
    expect(fields['resource_link_description']).toBe('a\r\nb\r\nc\r\nd')
  })
})
