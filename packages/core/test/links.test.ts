import { disclose } from '@bathyscribe/core/identity'
import {
  cookiesLostInFrame,
  FRAME_PERMISSIONS,
  frameAllowance,
  lookAlike,
  resolveVariables,
  VARIABLE_NAMES,
  whereShown,
  type ShowingFacts,
} from '@bathyscribe/core/links'
import { launchParameters, readToolConfiguration } from '@bathyscribe/core/lti1'
import { describe, expect, it } from 'vitest'

const PERSON = {
  subject: 's1',
  givenName: 'Niamh',
  familyName: 'O’D',
  fullName: 'Niamh O’D',
  email: 'n@skerrow.example',
  sourcedId: '77',
}
const facts = (disclosure: 'opaque' | 'name' | 'email' | 'name_and_email') => ({
  person: disclose(PERSON, disclosure),
  context: { id: 'c1', title: 'Coastal Navigation', label: 'NAV 120', sourcedId: null },
  link: { id: 'l1', title: 'Noon altitude', description: '' },
  roles: 'Learner',
  platform: { guid: 'g', name: 'Skerrow' },
})

describe('what a frame may use', () => {
  const ORIGINS = ['https://tool.example', 'https://login.tool.example']
  it('is shut unless it is said, and open to the named origins only', () => {
    expect(frameAllowance([], ORIGINS)).toBe("autoplay 'self' https://tool.example https://login.tool.example; picture-in-picture 'self' https://tool.example https://login.tool.example") // oxfmt-ignore
    const features = (permissions: Parameters<typeof frameAllowance>[0]) =>
      frameAllowance(permissions, ORIGINS).split('; ').map((one) => one.split(' ')[0]).slice(2) // oxfmt-ignore
    expect(features(['camera'])).toEqual(['camera'])
    expect(features(FRAME_PERMISSIONS)).toEqual(['camera', 'microphone', 'display-capture', 'clipboard-write', 'fullscreen']) // oxfmt-ignore
    for (const one of FRAME_PERMISSIONS) expect(frameAllowance([one], ORIGINS)).not.toContain('*')
  })
})

describe('custom parameter variables', () => {
  it.each<['opaque' | 'name' | 'email' | 'name_and_email', Record<string, string>]>([
    [
      'opaque',
      {
        '$User.id': 's1',
        '$Person.name.full': '',
        '$Person.email.primary': '',
        '$Person.sourcedId': '',
        '$User.username': '',
      },
    ],
    [
      'name',
      {
        '$User.id': 's1',
        '$Person.name.full': 'Niamh O’D',
        '$Person.name.given': 'Niamh',
        '$Person.email.primary': '',
        '$Person.sourcedId': '77',
      },
    ],
    ['email', { '$Person.name.family': '', '$Person.email.primary': 'n@skerrow.example' }],
    ['name_and_email', { '$Person.name.family': 'O’D', '$Person.email.primary': 'n@skerrow.example' }],
  ])('obey the identity limit “%s”', (disclosure, wanted) => {
    const custom = Object.fromEntries(Object.keys(wanted).map((name) => [name, name]))
    expect(resolveVariables(custom, facts(disclosure))).toEqual(wanted)
  })
  it('that nobody knows are sent as they stand; known ones without a value are sent empty', () => {
    const custom = {
      a: '$Nobody.knows',
      b: 'plain $User.id',
      c: '$Context.sourcedId',
      d: '$ResourceLink.title',
      e: '$Membership.role',
      f: 'constructor',
    }
    expect(resolveVariables(custom, facts('opaque'))).toEqual({
      a: '$Nobody.knows',
      b: 'plain $User.id',
      c: '',
      d: 'Noon altitude',
      e: 'Learner',
      f: 'constructor',
    })
  })
  it('that are kept back are sent empty in a launch of LTI 1.1 as well', () => {
    const parameters = launchParameters({
      ...facts('opaque'),
      platform: { guid: 'g', name: 'P', description: '', url: 'https://p.example', contactEmail: '', version: '1' },
      courseRole: 'learner',
      siteRole: 'none',
      presentation: { target: 'frame', returnUrl: 'https://p.example/back', locale: 'en' },
      outcome: undefined,
      custom: resolveVariables({ who: '$Person.name.full' }, facts('opaque')),
    })
    expect(Object.fromEntries(parameters)).toMatchObject({ custom_who: '' })
    expect(Object.fromEntries(parameters)).not.toHaveProperty('tool_consumer_instance_description')
  })
  it('are all those that the standards name', () => {
    expect(VARIABLE_NAMES.length).toBe(27)
  })
})

describe('where a tool shows', () => {
  const base: ShowingFacts = {
    state: 'enabled',
    offered: true,
    placements: [
      { place: 'course_menu', label: 'Desk', launchUrl: null, audience: 'everyone', target: 'frame' },
      { place: 'running_text', label: null, launchUrl: null, audience: 'instructors', target: 'frame' },
      { place: 'assignment', label: null, launchUrl: null, audience: 'everyone', target: 'frame' },
    ],
    menu: [{ label: 'Harbour', audience: 'instructors', shown: true, target: 'frame' }],
    assignments: { published: 0, drafts: 2 },
  }
  const shows = (change: Partial<ShowingFacts>, role: 'instructor' | 'learner') =>
    whereShown({ ...base, ...change }, role).map((one) => [one.place, one.shows])
  it('depends on registration, offer, the course’s own menu and the role', () => {
    expect(shows({}, 'instructor')).toEqual([
      ['course_menu', true],
      ['unit_item', false],
      ['running_text', true],
      ['assignment', true],
    ])
    expect(shows({}, 'learner')).toEqual([
      ['course_menu', false],
      ['unit_item', false],
      ['running_text', false],
      ['assignment', false],
    ])
    expect(shows({ assignments: { published: 1, drafts: 0 } }, 'learner').at(-1)).toEqual(['assignment', true])
    expect(shows({ state: 'suspended' }, 'instructor').every(([, one]) => one === false)).toBe(true)
    expect(shows({ offered: false }, 'instructor').every(([, one]) => one === false)).toBe(true)
  })
  it('gives a reason for every place', () => {
    for (const one of whereShown({ ...base, menu: [] }, 'learner')) expect(one.reason).toMatch(/\.$/)
    const hidden = whereShown({ ...base, menu: [{ ...base.menu[0]!, shown: false }] }, 'learner')
    expect(hidden[0]!.reason).toContain('hidden')
  })
})

describe('tools of almost the same name', () => {
  it.each([
    ['Knotwork Drills', 'knotwork drills (new)', true],
    ['Knotwork Drills', 'Knotwork-Drills LTI 1.3', true],
    ['Sextant Bench', 'Séxtant  Bench v2', true],
    ['Sextant Bench', 'Sextant Table', false],
    ['LTI', 'Test', false],
    ['თამარი', 'ზღვა', false],
  ])('%s and %s: %s', (one, other, same) => {
    expect(lookAlike(one) === lookAlike(other)).toBe(same)
    expect(lookAlike(one)).not.toBe('')
  })
})

describe('cookies in a frame', () => {
  it('are lost without SameSite=None and Secure, whatever the order and case', () => {
    expect(
      cookiesLostInFrame([
        'a=1; Path=/; SameSite=None; Secure',
        'b=2; secure; samesite=none; HttpOnly',
        'c=3; SameSite=Lax',
        'd=4; SameSite=None',
        'e=5',
      ]),
    ).toEqual(['c', 'd', 'e'])
  })
})

describe('a tool configuration in XML', () => {
  const xml = (inside: string) =>
    new TextEncoder().encode(
      `\ufeff<cartridge_basiclti_link xmlns="http://www.imsglobal.org/xsd/imslticc_v1p0" xmlns:b="http://www.imsglobal.org/xsd/imsbasiclti_v1p0" xmlns:m="http://www.imsglobal.org/xsd/imslticm_v1p0" xmlns:p="http://www.imsglobal.org/xsd/imslticp_v1p0">${inside}</cartridge_basiclti_link>`,
    )
  it('is read by namespaces, the secure address preferred, extensions of others named and kept out', () => {
    const read = readToolConfiguration(
      xml(
        '<b:title>T</b:title><b:launch_url>http://t.example/</b:launch_url><b:secure_launch_url>https://t.example/</b:secure_launch_url><b:custom><m:property name="a">1</m:property></b:custom><b:vendor><p:name>V</p:name><p:contact><p:email>v@t.example</p:email></p:contact></b:vendor><b:extensions platform="bathyscribe"><m:property name="x">y</m:property><m:options name="o"><m:property name="i">j</m:property></m:options></b:extensions><b:extensions platform="other.example"/>',
      ),
    )
    expect(read).toEqual({
      title: 'T',
      description: null,
      launchUrl: 'https://t.example/',
      iconUrl: null,
      customParameters: { a: '1' },
      vendor: { name: 'V', url: null, email: 'v@t.example' },
      extensions: { x: 'y', 'o.i': 'j' },
      beyond: [],
      unreadExtensions: ['other.example'],
    })
  })
  it('of another namespace is none', () => {
    expect(readToolConfiguration(new TextEncoder().encode('<cartridge_basiclti_link xmlns="urn:x"/>'))).toMatchObject({
      code: 'configuration.not_a_cartridge',
    })
  })
})
